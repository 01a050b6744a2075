"""Which tests count together, of one plan and of many at once."""

import pytest

from rooms.bench.actions.finishing import approve
from rooms.bench.models import CuttingTest
from rooms.bench.queries import pool as pooling
from rooms.bench.queries.pool import of_same_plan, pool, pools

pytestmark = pytest.mark.django_db


def test_many_plans_at_once_have_the_tests_that_each_has_alone(weighed, shop, monkeypatch):
    monkeypatch.setattr(pooling, "MOST_TESTS", 2)
    rows = [weighed() for _ in range(4)]
    other = weighed(("8.00", "5.00", "3.00", "1.50"), piece="beef-shoulder-clod", paid="17.50")
    waits, *counted = [row.test for row in [*rows, other]]
    off = weighed(("1.00",)).test
    for test in [*counted, off]:
        approve(test.pk, "looked at", shop["bram"].pk)
    plans = {counted[0].plan_id, other.test.plan_id, 0}
    found = {plan: [row.test.number for row in some] for plan, some in pools(plans).items()}
    alone = {
        test.plan_id: [row.test.number for row in pool(of_same_plan(test))]
        for test in (counted[0], other.test)
    }
    assert found == alone
    assert found[other.test.plan_id] == [other.test.number]
    assert waits.number not in found[waits.plan_id]
    # The newest two are asked for first; what does not come back to its weight is left out then.
    assert found[waits.plan_id] == [rows[-1].test.number]
    assert off.number == CuttingTest.objects.latest("number").number
