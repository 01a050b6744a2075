"""A finished test on one sheet: figures, the four costings, the margin."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from decimal import Decimal

from cutting.costing.schools import Costing, Margin, costing
from cutting.quantities import HUNDRED, working
from cutting.sheet.cutting_test import CuttingTest, Figures, figures


@dataclass(frozen=True, slots=True)
class Sheet:
    test: CuttingTest
    figures: Figures
    costing: Costing
    margin: Margin | None


def sales_of(test: CuttingTest, found: Figures) -> tuple[Decimal | None, ...]:
    """Money of every output at its price; None for one that is not sold or has no price."""
    with working():
        return tuple(
            o.retail.to(found.unit) * line.weight if o.retail and o.goes_to_case else None
            for o, line in zip(test.outputs, found.outputs, strict=True)
        )


def costs_of(per_unit: Sequence[Decimal | None], found: Figures) -> tuple[Decimal | None, ...]:
    """Money that every output carries at its cost a unit; None where there is none."""
    with working():
        return tuple(
            None if cost is None else cost * line.weight
            for cost, line in zip(per_unit, found.outputs, strict=True)
        )


def percents_of_paid(sizes: Sequence[Decimal], paid: Decimal) -> list[Decimal]:
    """Weights as percents of the weight paid for."""
    with working():
        return [size / paid * HUNDRED for size in sizes]


def at_cost(true_cost: Decimal | None, weight: Decimal | None) -> Decimal | None:
    """What weight given away over the target cost the shop; None where one is unknown."""
    if weight is None or true_cost is None:
        return None
    with working():
        return true_cost * weight


def compute(test: CuttingTest) -> Sheet:
    """Everything a test gives. Pure: the same test always gives the same sheet."""
    with working():
        found = figures(test)
        return Sheet(test, found, *costing(test, found))
