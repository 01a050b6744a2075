"""What the next cut should be, and how many are left. Common practice, no published source."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass
from decimal import Decimal
from fractions import Fraction

from cutting.quantities import ZERO, Unit, Weight, working
from cutting.sheet.cutting_test import portion_tolerance

LOOKS_BACK = 3
"""The hint rests on so many of the last portions: a hand changes, one portion is chance."""
QUIET = Decimal("0.25")
"""Within this share of the tolerance nothing is said: no hand cuts closer."""
FINEST = Fraction(1, 32)
_THICKNESS = re.compile(r"\s*(?:(\d+)\s+)?(\d+)(?:/(\d+)|\.(\d+))?\s*in\s*")


@dataclass(frozen=True, slots=True)
class Hint:
    """`off`: how far the last portions are from the target, in its unit, above 0 when heavy.
    `thinner`: by how many inches the next one is cut thinner (below 0: thicker), if known.
    `rests_on`: so many of the last portions. `is_right`: the same again."""

    off: Decimal
    unit: Unit
    rests_on: int
    is_right: bool
    thinner: Fraction | None = None


def parse_thickness(text: str) -> Fraction | None:
    """ "3/4 in", "1.25 in", "1 1/2 in" as inches; None for anything else or nothing."""
    found = _THICKNESS.fullmatch(text)
    if not found:
        return None
    whole, number, below, decimals = found.groups()
    if below is not None:
        inches = Fraction(int(number), int(below)) if int(below) else Fraction(0)
    else:
        inches = Fraction(f"{number}.{decimals or 0}")
    return inches + int(whole or 0) or None


def next_cut(portions: Sequence[Weight], target: Weight, thickness: str = "") -> Hint | None:
    """How the next portion should differ from the last ones; None before the first.

    Weight goes with thickness, so the next is cut (mean / target − 1) of the thickness thinner.
    """
    if not portions:
        return None
    last = [portion.to(target.unit) for portion in portions[-LOOKS_BACK:]]
    with working():
        mean = sum(last, ZERO) / len(last)
        off = mean - target.value
        quiet = portion_tolerance(target.value, target.unit) * QUIET
    is_right = abs(off) <= quiet
    inches = None if is_right else parse_thickness(thickness)
    if inches is None:
        return Hint(off, target.unit, len(last), is_right)
    exact = inches * (1 - Fraction(target.value) / Fraction(mean))
    step = max(round(abs(exact) / FINEST), 1) * FINEST
    return Hint(off, target.unit, len(last), is_right, step if off > 0 else -step)


def off_band(portion: Weight, target: Weight) -> int:
    """1 over the band around the target, -1 under it, 0 inside."""
    with working():
        off = portion.to(target.unit) - target.value
    if abs(off) <= portion_tolerance(target.value, target.unit):
        return 0
    return 1 if off > 0 else -1


def expected_weight(share: Decimal | None, paid: Decimal) -> Decimal | None:
    """What a pile should come to, by its usual share of the weight paid for."""
    with working():
        return None if share is None else share * paid


def how_many_left(
    left: Decimal, expected: Decimal | None, taken: Decimal, each: Decimal
) -> int | None:
    """Portions still to come, all weights in one unit.

    `left`: still on the block. `expected`: what the plan gives this pile, None when it says
    nothing. `each`: what a portion weighs by now, or should. None when nothing can be said.
    """
    if each <= 0:
        return None
    rest = left if expected is None else min(left, expected - taken)
    with working():
        return max(int(rest / each + Decimal("0.15")), 0)
