"""What the meat of a test and of its piles is, as the core's `Meat`."""

from collections import defaultdict
from collections.abc import Collection
from dataclasses import replace
from datetime import date
from typing import Any

from django.utils import timezone

from cutting.meat import Meat
from cutting.sheet.cutting_test import Role
from rooms.bench.models import CuttingTest, Output, TestBag
from rooms.bench.queries.rows import TestRows
from rooms.cooler.models import Bag
from rooms.cooler.queries.meat import meat_of_bags

WASTE = (Role.DISCARD, Role.PURGE)


def bags_of_tests(tests: Collection[Any]) -> dict[Any, list[Bag]]:
    """Return the bags that tests were opened for, by the test's id: one query, none without tests."""
    found: dict[Any, list[Bag]] = defaultdict(list)
    rows = TestBag.objects.filter(test__in=tests).select_related("bag__piece") if tests else ()
    for row in rows:
        found[row.test_id].append(row.bag)
    return found


def meat_of_test(test: CuttingTest, bags: Collection[Bag]) -> Meat:
    """Return what all of a test's meat is."""
    meat = meat_of_bags(bags, test.species)
    return replace(meat, was_frozen=meat.was_frozen or test.was_frozen)


def meat_of_pile(rows: TestRows, output: Output, bags: Collection[Bag]) -> Meat:
    """Return what a pile is. Its cut is loaded."""
    cut = output.cut
    return replace(
        meat_of_test(rows.test, bags),
        cut=cut.key if cut is not None else "",
        muscle=cut.muscle.key if cut is not None and cut.muscle is not None else "",
        is_tenderized=cut is not None and cut.is_tenderized,
        is_cubed=cut is not None and cut.is_cubed,
        is_waste=output.role in WASTE,
        since=cut_on(rows, output),
    )


def cut_on(rows: TestRows, output: Output) -> date | None:
    """Return the day a pile was cut: of its last weighing, and never after its test was finished. What a
    correction added later was cut then too."""
    moments = [one.taken_at for one in rows.of(output) if one.correction_id is None]
    if rows.test.finished_at is not None:
        moments = [min([rows.test.finished_at, *([max(moments)] if moments else [])])]
    return timezone.localdate(max(moments)) if moments else None
