"""What grinding loses, and whether that is as usual: a chart of single values.

NIST/SEMATECH e-Handbook of Statistical Methods, 6.3.2.2 (limits at the mean ± 2.66 mean moving ranges; value
from memory).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from decimal import Decimal
from itertools import pairwise
from statistics import mean

from cutting.errors import BadValue
from cutting.quantities import ZERO, working

FACTOR = Decimal("2.66")
FEWEST = 8
"""Batches before limits are told."""


@dataclass(frozen=True, slots=True)
class Limits:
    """The usual loss as a share, and what lies inside chance."""

    usual: Decimal
    low: Decimal
    high: Decimal
    batches: int

    def holds(self, loss: Decimal) -> bool:
        return self.low <= loss <= self.high


def loss_of(went_in: Decimal, got: Decimal, machine: Decimal) -> Decimal:
    """The share that neither came out nor stayed in the grinder; below 0 where more came out. Raises
    BadValue where nothing went in."""
    if went_in <= 0:
        raise BadValue("weight", f"{went_in:f}", "more than 0 is right")
    with working():
        return (went_in - got - machine) / went_in


def limits_of(losses: Sequence[Decimal]) -> Limits | None:
    """From losses in their order; None for fewer than eight."""
    if len(losses) < FEWEST:
        return None
    with working():
        usual = mean(losses)
        moving = mean(abs(b - a) for a, b in pairwise(losses))
        reach = FACTOR * moving
        return Limits(usual, usual - reach, usual + reach, len(losses))


@dataclass(frozen=True, slots=True)
class Patties:
    """So many of one weight, boxes of them, and what is left over."""

    count: int
    boxes: int
    left: Decimal


def patties(weight: Decimal, each: Decimal, in_box: int = 1) -> Patties:
    """`weight` and `each` in one unit. Raises BadValue for nothing."""
    if each <= 0 or in_box < 1:
        raise BadValue("patty", f"{each:f}, {in_box} in a box", "more than 0 is right")
    with working():
        count = int(max(weight, ZERO) // each)
        return Patties(count, count // in_box, weight - count * each)
