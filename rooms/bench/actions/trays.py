"""How many portions make a tray of a pile."""

from uuid import UUID

from django.db import transaction

from cutting.sheet.trays import MOST_IN_A_TRAY
from rooms.bench.actions.move import open_rows
from rooms.bench.models import Output
from rooms.bench.rules.revision import touch
from rooms.bench.rules.rows import TestRows, load_known
from rooms.common.errors import BadInput


def set_tray(test_id: UUID, pile: str, size: str) -> TestRows:
    """Portions in a tray, from 1; 0 forms none."""
    with transaction.atomic():
        rows = open_rows(test_id, "the tray stays as it is")
        output = next((o for o in rows.piles if str(o.pk) == pile and o.is_counted), None)
        if output is None:
            raise BadInput("Tray: choose a pile whose portions are counted.")
        if not (size.isascii() and size.isdecimal() and int(size[:6]) <= MOST_IN_A_TRAY):
            raise BadInput(f"Tray: {size[:20]} portions; 0 to {MOST_IN_A_TRAY} is right.")
        if output.tray_size != (int(size) or None):
            Output.objects.filter(pk=output.pk).update(tray_size=int(size) or None)
            touch(rows.test)
    return load_known(test_id)
