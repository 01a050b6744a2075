"""How sure it is that one way of cutting a piece is better than another."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from decimal import Decimal
from statistics import mean, variance

from cutting.quantities import ZERO, working
from cutting.sheet.cutting_test import CuttingTest, Piece, figures, same_name
from cutting.sheet.yields import t_of
from cutting.ways.compared import Way, WayFigures


@dataclass(frozen=True, slots=True)
class Sureness:
    """The difference of two ways in money a piece, by Welch's t over the tests behind them.

    `t` None where one of them has fewer than two tests. `is_sure`: beyond what chance explains one
    time in twenty.
    """

    better: str
    other: str
    difference: Decimal
    tests: tuple[int, int]
    t: Decimal | None
    degrees: int | None

    @property
    def is_sure(self) -> bool:
        return self.t is not None and self.degrees is not None and self.t > t_of(self.degrees)


def how_sure(
    piece: Piece, pairs: Sequence[tuple[WayFigures, Sequence[CuttingTest]]]
) -> Sureness | None:
    """Of the two best ways, the better first: each test valued at today's prices on this piece."""
    (one, first), (two, second) = pairs
    if one.money is None or two.money is None:
        return None
    values = [_values(piece, way.way, tests) for way, tests in ((one, first), (two, second))]
    t = degrees = None
    if all(len(each) >= 2 for each in values):
        t, degrees = welch(*values)
    with working():
        difference = one.money - two.money
    counts = len(values[0]), len(values[1])
    return Sureness(one.way.name, two.way.name, difference, counts, t, degrees)


def _values(piece: Piece, way: Way, tests: Sequence[CuttingTest]) -> list[Decimal]:
    """What each test's yields would have brought of this piece at the way's prices."""
    unit = piece.weight.unit
    worth = {}
    for output in way.outputs:
        price = output.retail if output.goes_to_case else output.credit
        worth[same_name(output.name)] = ZERO if price is None else price.to(unit)
    found = []
    with working():
        for test in tests:
            lines = figures(test).outputs
            money = sum(
                (line.share * worth.get(same_name(line.name), ZERO) for line in lines), ZERO
            )
            found.append(money * piece.weight.value)
    return found


def welch(one: Sequence[Decimal], other: Sequence[Decimal]) -> tuple[Decimal, int]:
    """Welch's t of two samples and its degrees of freedom, rounded down. Each has two or more."""
    with working():
        a, b = variance(one) / len(one), variance(other) / len(other)
        if a + b == 0:
            return Decimal(10**6) if mean(one) != mean(other) else ZERO, 1
        t = abs(mean(one) - mean(other)) / (a + b).sqrt()
        degrees = (a + b) ** 2 / (a**2 / (len(one) - 1) + b**2 / (len(other) - 1))
        return t, max(int(degrees), 1)
