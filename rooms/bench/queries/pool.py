"""Which tests count together: the newest approved ones that come back to their weight."""

from collections.abc import Collection

from django.db.models import QuerySet, Window
from django.db.models.functions import RowNumber

from cutting.sheet.cutting_test import figures
from rooms.bench.models import BY_ONE_PLAN, CuttingTest
from rooms.bench.queries.rows import TestRows, load_all

MOST_TESTS = 24
"""The newest so many are pooled: older ones were other hands and other suppliers."""


def pool(tests: QuerySet[CuttingTest]) -> list[TestRows]:
    """Of these tests, those whose yields count together, the newest first: three queries."""
    approved = tests.finished().exclude(approved_at=None).order_by("-number")
    return balanced(list(approved[:MOST_TESTS]))


def pools(plans: Collection[int]) -> dict[int, list[TestRows]]:
    """As `pool` for the tests of each plan, by the plan's id; three queries for any number.
    Plans without a test that counts are left out."""
    place = Window(RowNumber(), partition_by="plan_id", order_by="-number")
    counted = CuttingTest.objects.filter(BY_ONE_PLAN, plan__in=plans)
    newest = counted.annotate(place=place).filter(place__lte=MOST_TESTS).values("number")
    tests = CuttingTest.objects.filter(number__in=newest).order_by("-number")
    found: dict[int, list[TestRows]] = {}
    for rows in balanced(list(tests)):
        found.setdefault(rows.test.plan_id, []).append(rows)
    return found


def of_same_plan(test: CuttingTest) -> QuerySet[CuttingTest]:
    """Tests of its piece cut by the same plan, it too: as the guide and the ads ask."""
    tests = CuttingTest.objects.filter(piece=test.piece_id)
    if test.plan_id is not None:
        return tests.filter(plan=test.plan_id, second_plan=test.second_plan_id, split=test.split)
    return tests.filter(plan=None, plan_name=test.plan_name)


def balanced(tests: list[CuttingTest]) -> list[TestRows]:
    """Those that come back to their weight."""
    return [rows for rows in load_all(tests) if balances(rows)] if tests else []


def balances(rows: TestRows) -> bool:
    """Only a test that comes back to its weight is pooled."""
    return figures(rows.weighed).balance.in_balance
