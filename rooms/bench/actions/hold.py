"""Taking a scale over for a test, visibly."""

from uuid import UUID

from django.utils import timezone

from rooms.bench.actions.move import open_rows
from rooms.bench.actions.revision import touch
from rooms.bench.models import Hold
from rooms.bench.queries.open_tests import holder_of
from rooms.bench.queries.scales import scale_named
from rooms.common.db.writing import write
from rooms.common.errors import BadInput


def take_scale(test_id: UUID, scale: str, by_id: int | None) -> None:
    """From now on the scale's readings are for this test. Taking it twice changes nothing."""
    if scale_named(scale) is None:
        raise BadInput("Scale: choose one of the shop's scales.")
    with write():
        rows = open_rows(test_id, "the scale was not taken over")
        holder = holder_of(scale)
        if holder is None or holder.test_id != rows.test.pk:
            Hold.objects.create(scale=scale, test=rows.test, at=timezone.now(), by_id=by_id)
            touch(rows.test)
