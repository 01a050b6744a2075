"""A finished test on one sheet: figures, the four costings, the margin."""

from __future__ import annotations

from dataclasses import dataclass

from cutting.costing.schools import Costing, Margin, costing
from cutting.quantities import working
from cutting.sheet.cutting_test import CuttingTest, Figures, figures


@dataclass(frozen=True, slots=True)
class Sheet:
    test: CuttingTest
    figures: Figures
    costing: Costing
    margin: Margin | None


def compute(test: CuttingTest) -> Sheet:
    """Everything a test gives. Pure: the same test always gives the same sheet."""
    with working():
        found = figures(test)
        return Sheet(test, found, *costing(test, found))
