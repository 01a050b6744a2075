"""A test that was finished too early goes back to the block."""

from uuid import UUID, uuid4

from django.utils import timezone

from rooms.bench.actions.lay import keep_shape
from rooms.bench.actions.notes import add_note
from rooms.bench.models import Output
from rooms.bench.queries.rows import TestRows, must_load
from rooms.common.db.writing import write
from rooms.common.errors import Refused
from rooms.shop.queries.dates import said_moment


def reopen(test_id: UUID, by_id: int | None) -> TestRows:
    """Take a finished test that is not approved back to the block; a note says who and when.

    Every weighing stands. Refused once the sheet is approved; on an open test nothing changes.
    """
    with write():
        rows = must_load(test_id)
        if rows.test.approved_at is not None:
            raise Refused("Back to the block: the sheet is approved, so it stays as it is.")
        if rows.test.corrections.exists():
            raise Refused("Back to the block: the sheet was corrected; correct it again instead.")
        if rows.test.is_open:
            return rows
        if rows.test.piece_bags.standing().exists():
            raise Refused(
                "Back to the block: pieces of it are in the cooler as bags. Take them back to the sheet first."
            )
        when = said_moment(rows.test.finished_at, whole=True)
        rows.test.finished_at, rows.test.reopened_at = None, timezone.now()
        rows.test.save(update_fields=["finished_at", "reopened_at"])
        # A tub that was closed since is in the grinder: nothing more goes in (decision 18).
        closed = Output.objects.filter(test=rows.test, tub__closed_at__isnull=False)
        closed.update(tub=None)
        Output.objects.filter(test=rows.test, is_none=True).update(is_none=False)
        text = f"Finished on {when}, then taken back to the block."
        add_note(rows.test, str(uuid4()), text, by_id)  # which raises the revision
        keep_shape(rows)
    return rows
