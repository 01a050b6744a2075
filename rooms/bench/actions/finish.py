"""Finishing a test, and approving its sheet."""

from decimal import Decimal
from uuid import UUID, uuid4

from django.db import transaction
from django.utils import timezone

from cutting.cutting_test import figures
from cutting.time_spent import minutes
from rooms.bench.actions.notes import add_note
from rooms.bench.models import Output
from rooms.bench.readings.clock import time_spent
from rooms.bench.rows import TestRows, must_load, to_core
from rooms.bench.rules import touch
from rooms.common.errors import BadInput, Refused

LONGEST_REASON = 500


def finish(test_id: UUID, seen: str, at=None) -> TestRows:
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
    return rows


def _keep_minutes(rows: TestRows) -> None:
    """Minutes of each pile, where the clock was used."""
    found = time_spent(rows)
    if found.now is not None:
        for output in rows.outputs:
            length = found.by_output.get(output.pk)
            output.minutes = Decimal(minutes(length)) if length else None
        Output.objects.bulk_update(rows.outputs, ["minutes"])


def approve(test_id: UUID, reason: str, by_id: int | None, at=None) -> TestRows:
    """Approve a finished sheet. Out of balance it needs a written reason. Twice: no change."""
    reason = " ".join(reason.split())
    if len(reason) > LONGEST_REASON:
        raise BadInput(f"Reason: {len(reason)} characters; at most {LONGEST_REASON} are right.")
    with transaction.atomic():
        rows = must_load(test_id)
        if rows.test.is_open:
            raise Refused("Approve: the test is still open; finish it first.")
        if rows.test.approved_at is not None:
            return rows
        balance = figures(to_core(rows, weighed_only=True)).balance
        if not balance.in_balance and not reason:
            raise BadInput("Reason: it is empty; the sheet is out of balance, so write why.")
        rows.test.approved_at = at or timezone.now()
        rows.test.approved_by_id = by_id
        rows.test.approval_reason = reason
        rows.test.save(update_fields=["approved_at", "approved_by", "approval_reason"])
        touch(rows.test)
    return rows


def reopen(test_id: UUID, by_id: int | None) -> TestRows:
    """Take a finished test that is not approved back to the block; a note says who and when.

    Every weighing stands. Refused once the sheet is approved; on an open test nothing changes.
    """
    with transaction.atomic():
        rows = must_load(test_id)
        if rows.test.approved_at is not None:
            raise Refused("Back to the block: the sheet is approved, so it stays as it is.")
        if rows.test.corrections.exists():
            raise Refused("Back to the block: the sheet was corrected; correct it again instead.")
        if rows.test.is_open:
            return rows
        when = timezone.localtime(rows.test.finished_at)
        rows.test.finished_at, rows.test.reopened_at = None, timezone.now()
        rows.test.save(update_fields=["finished_at", "reopened_at"])
        text = f"Finished on {when:%d %B at %H:%M}, then taken back to the block."
        add_note(rows.test, str(uuid4()), text, by_id)  # which raises the revision
    return rows
