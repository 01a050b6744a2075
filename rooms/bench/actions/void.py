"""A test that was opened by mistake: while nothing but its opening stands it can be voided."""

from uuid import UUID

from django.utils import timezone

from rooms.bench.actions.revision import touch
from rooms.bench.models import CuttingTest, TestBag, Unplaced
from rooms.bench.queries.rows import must_load
from rooms.common.db.writing import write
from rooms.common.errors import BadInput, Refused
from rooms.cooler.actions.bags import return_to_cooler

SHORTEST_REASON, LONGEST_REASON = 3, 200


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
