"""What lies on the piles of many tests, by what becomes of it, without loading them."""

from collections import defaultdict
from collections.abc import Iterable
from decimal import Decimal
from typing import Any

from django.db.models import OuterRef, Subquery

from cutting.quantities import ZERO, Unit, Weight, working
from rooms.bench.models import CuttingTest, Move, Weighing

Piles = dict[tuple[str, bool], Decimal]
"""Grams by the role of the pile and whether it goes to the case."""


def grams_on_piles(tests: Iterable[CuttingTest]) -> dict[Any, Piles]:
    """By the test's id: what counts, where it lies now. One query, none without tests."""
    keys = [test.pk for test in tests]
    if not keys:
        return {}
    moved = Move.objects.filter(weighing=OuterRef("pk")).order_by("-pk")
    rows = Weighing.objects.filter(test__in=keys, taken_back=None).annotate(
        to_role=Subquery(moved.values("to__role")[:1]),
        to_case=Subquery(moved.values("to__in_case")[:1]),
    )
    names = ("test", "value", "unit", "output__role", "output__in_case", "to_role", "to_case")
    found: dict[Any, Piles] = defaultdict(lambda: defaultdict(lambda: ZERO))
    with working():
        for test, value, unit, role, in_case, to_role, to_case in rows.values_list(*names):
            pile = (to_role, bool(to_case)) if to_role is not None else (role, in_case)
            found[test][pile] += Weight(value, Unit(unit)).to(Unit.G)
    return found
