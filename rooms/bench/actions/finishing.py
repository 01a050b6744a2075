"""A test is finished, reopened, approved, left out."""

from decimal import Decimal
from typing import Any
from uuid import UUID, uuid4

from django.utils import timezone

from cutting.sheet.cutting_test import figures
from cutting.sheet.time_spent import minutes
from rooms.bench.actions.layout import keep_shape
from rooms.bench.actions.record import add_note
from rooms.bench.actions.revision import touch
from rooms.bench.models import CuttingTest, Output, TestBag, Unplaced
from rooms.bench.queries.finishing import Agreed, Unfinished, unfinished
from rooms.bench.queries.rows import TestRows, must_load
from rooms.bench.queries.time_spent import time_spent
from rooms.common.db.writing import write
from rooms.common.errors import BadInput, Refused
from rooms.cooler.actions.bags import return_to_cooler
from rooms.shop.queries.dates import said_moment

SHORTEST_REASON, LONGEST_REASON = 3, 200
LONGEST_APPROVAL = 500


class NotWeighedOut(Refused):
    """Weight is left, or a pile is empty: somebody has to agree to it first. `told`: to what."""

    def __init__(self, told: Unfinished) -> None:
        parts = [f"{told.unweighed} {told.unit} not weighed"] if told.unweighed else []
        parts += [f"{output} empty" for output in told.empty]
        super().__init__(f"Finish: {', '.join(parts)}. Weigh it, or finish with it as it is.")
        self.told = told


def finish(test_id: UUID, seen: str, at: Any = None, *, agreed: Agreed | None = None) -> TestRows:
    """Close a test for weighing. `seen`: the revision the page showed; `agreed`: what is left open by it.

    Refused when nothing was weighed, or when somebody weighed since the page was loaded; NotWeighedOut where
    more is left unweighed, or another pile empty, than was agreed to. Finishing twice changes nothing.
    """
    agreed = agreed or Agreed()
    with write():
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
        told = unfinished(rows, agreed.none_of)
        if told.empty or (told.unweighed != agreed.unweighed and told.unweighed):
            raise NotWeighedOut(told)
        Output.objects.filter(test=rows.test, pk__in=agreed.none_of).update(is_none=True)
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


def approve(
    test_id: UUID, reason: str, by_id: int | None, at: Any = None, *, seen: str | None = None
) -> TestRows:
    """Approve a finished sheet. Out of balance it needs a written reason. Twice: no change.

    `seen`: the revision that the page showed; Refused where the sheet changed since: what is approved is
    what was read.
    """
    reason = " ".join(reason.split())
    if len(reason) > LONGEST_APPROVAL:
        raise BadInput(f"Reason: {len(reason)} characters; at most {LONGEST_APPROVAL} are right.")
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


def void_test(test_id: UUID, reason: str, by_id: int | None) -> CuttingTest:
    """Its bags are in the cooler again, its number stays. Twice changes nothing.

    Raises BadInput for no reason; Refused once it was weighed, finished, or part of it was put back.
    """
    words = " ".join(reason.split())
    if not SHORTEST_REASON <= len(words) <= LONGEST_REASON:
        raise BadInput(f"Reason: {SHORTEST_REASON} to {LONGEST_REASON} characters; write why.")
    with write():
        rows = must_load(test_id)
        test = rows.test
        if test.voided_at is not None:
            return test
        if not test.is_open:
            raise Refused(f"Test {test.number} is finished; it stays as it is.")
        if rows.weighings or Unplaced.objects.waiting().filter(test=test).exists():
            raise Refused(
                f"Test {test.number}: something was weighed, so it cannot be voided. Finish it, and say in"
                " a note what happened."
            )
        bags = list(TestBag.objects.filter(test=test).select_related("bag"))
        if any(row.bag.parts.exists() for row in bags):
            raise Refused(f"Test {test.number}: part of it was put back into the cooler already.")
        for row in bags:
            return_to_cooler(row.bag_id, f"test {test.number} was voided: {words}", by_id)
        test.void_bags = [str(row.bag_id) for row in bags]
        # The link never held; it stays readable in the test and in the bag's own events.
        TestBag.objects.filter(test=test).delete()
        test.voided_at, test.voided_by_id, test.void_reason = timezone.now(), by_id, words
        test.save(update_fields=["voided_at", "voided_by", "void_reason", "void_bags"])
        touch(test)
    return test
