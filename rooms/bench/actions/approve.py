"""A manager approves a sheet."""

from typing import Any
from uuid import UUID

from django.utils import timezone

from cutting.sheet.cutting_test import figures
from rooms.bench.actions.revision import touch
from rooms.bench.queries.rows import TestRows, must_load
from rooms.common.db.writing import write
from rooms.common.errors import BadInput, Refused

LONGEST_REASON = 500


def approve(
    test_id: UUID, reason: str, by_id: int | None, at: Any = None, *, seen: str | None = None
) -> TestRows:
    """Approve a finished sheet. Out of balance it needs a written reason. Twice: no change.

    `seen`: the revision that the page showed; Refused where the sheet changed since: what is approved is
    what was read.
    """
    reason = " ".join(reason.split())
    if len(reason) > LONGEST_REASON:
        raise BadInput(f"Reason: {len(reason)} characters; at most {LONGEST_REASON} are right.")
    with write():
        rows = must_load(test_id)
        if rows.test.is_open:
            raise Refused("Approve: the test is still open; finish it first.")
        if rows.test.approved_at is not None:
            return rows
        if seen is not None and seen != str(rows.revision):
            raise Refused(
                "Approve: the sheet was changed since this page was shown. Nothing was approved; read it as"
                " it is now."
            )
        balance = figures(rows.weighed).balance
        if not balance.in_balance and not reason:
            raise BadInput("Reason: it is empty; the sheet is out of balance, so write why.")
        rows.test.approved_at = at or timezone.now()
        rows.test.approved_by_id = by_id
        rows.test.approval_reason = reason
        rows.test.save(update_fields=["approved_at", "approved_by", "approval_reason"])
        touch(rows.test)
    return rows
