"""A test is finished: from then on it is a sheet."""

from decimal import Decimal
from typing import Any
from uuid import UUID

from django.db import transaction
from django.utils import timezone

from cutting.sheet.time_spent import minutes
from rooms.bench.actions.lay import keep_shape
from rooms.bench.models import Output
from rooms.bench.rules.revision import touch
from rooms.bench.rules.rows import TestRows, must_load
from rooms.bench.rules.time_spent import time_spent
from rooms.common.errors import BadInput, Refused


def finish(test_id: UUID, seen: str, at: Any = None) -> TestRows:
    """Close a test for weighing. `seen`: the revision the page showed.

    Refused when nothing was weighed, or when somebody weighed since the page was loaded.
    Finishing twice changes nothing.
    """
    with transaction.atomic():
        rows = must_load(test_id)
        if not rows.test.is_open:
            return rows
        if not rows.standing:
            raise BadInput("Finish: nothing has been weighed yet; weigh a pile first.")
        if str(rows.revision) != seen:
            last = rows.weighings[-1]
            raise Refused(
                "Finish: this page is older than the test. Somebody changed it since; "
                f"the last weighing is {last} for {last.output}. Look again, then finish."
            )
        rows.test.finished_at = at or timezone.now()
        rows.test.save(update_fields=["finished_at"])
        _keep_minutes(rows)
        touch(rows.test)
        keep_shape(rows)
    return rows


def _keep_minutes(rows: TestRows) -> None:
    """Minutes of each pile, where the clock was used."""
    found = time_spent(rows)
    if found.now is not None:
        for output in rows.outputs:
            length = found.by_output.get(output.pk)
            output.minutes = Decimal(minutes(length)) if length else None
        Output.objects.bulk_update(rows.outputs, ["minutes"])
