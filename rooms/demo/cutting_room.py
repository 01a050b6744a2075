"""A believable cutter: takes a plan and a piece and gives the weighings a scale would show.

Seeded, so the same seed always cuts the same way. Shares scatter as real cutting does: large
piles by a few percent, small ones by more; portions by about three percent of their target.
"""

import itertools
import random
from dataclasses import dataclass
from decimal import Decimal
from typing import Any

from cutting.quantities import Unit, Weight

LB_DIVISION = Decimal("0.01")
OZ_DIVISION = Decimal("0.1")
PORTION_SCATTER = 0.03
DRYING = (0.0005, 0.0035)
"""Share of the piece that is lost to drying and to what sticks to the block."""


@dataclass(frozen=True)
class Shown:
    """One reading: which output of the plan, what the scale showed, in which unit."""

    output: int
    value: Decimal
    unit: str
    division: Decimal


def cut(outputs: Any, weight_lb: Decimal, rng: random.Random, rough: float = 1.0) -> list[Shown]:
    """Weigh out a piece of `weight_lb` by a plan's outputs (each with share, target_value …).

    `rough` above 1: more discard, purge and fat than usual, as in a bad week of a supplier.
    """
    shares = [_scattered(float(o.share or 0), o.pile, rng, rough) for o in outputs]
    usable = 1 - rng.uniform(*DRYING)
    scale = usable / sum(shares)
    pounds = [float(weight_lb) * share * scale for share in shares]
    shown: list[Shown] = []
    spare = 0.0
    for i, output in enumerate(outputs):
        if output.is_counted and output.target_value is not None:
            target = float(Weight(output.target_value, Unit(output.target_unit)).to(Unit.LB))
            portions, rest = _portions(pounds[i], target, rng)
            spare += rest
            shown += [_read(i, portion, Unit.OZ) for portion in portions]
    takes_spare = _where_ends_go(outputs)
    for i, output in enumerate(outputs):
        if not (output.is_counted and output.target_value is not None):
            pile = pounds[i] + (spare if i == takes_spare else 0.0)
            shown += [_read(i, part, Unit.LB) for part in _in_tubs(pile, rng)]
    return [reading for reading in shown if reading.value > 0]


def _scattered(share: float, pile: str, rng: random.Random, rough: float) -> float:
    spread = 0.03 if share > 0.3 else 0.07 if share > 0.08 else 0.16
    worse = rough if pile in ("discard", "purge", "fat") else 1.0
    return max(share * worse * min(max(rng.gauss(1, spread), 0.6), 1.4), 0.001)


def _portions(pounds: float, target: float, rng: random.Random) -> tuple[list[float], float]:
    """Portions close to the target, and what is left at the tapered end."""
    count = max(int(pounds / target + 0.35), 1)
    portions = [target * rng.gauss(1.004, PORTION_SCATTER) for _ in range(count)]
    rest = pounds - sum(portions)
    if rest < 0:
        portions[-1] += rest
        rest = 0.0
    return [portion for portion in portions if portion > 0.02], rest


def _where_ends_go(outputs: Any) -> int:
    """Ends of the portioned muscles go to the first secondary pile, else to lean trim."""
    for pile in ("secondary", "lean"):
        for i, output in enumerate(outputs):
            if output.pile == pile:
                return i
    return len(outputs) - 1


def _in_tubs(pounds: float, rng: random.Random) -> list[float]:
    """A large pile comes to the scale in two or three goes."""
    goes = 1 if pounds < 1.2 else rng.choice((1, 2, 2, 3))
    cuts = sorted(rng.uniform(0.25, 0.75) for _ in range(goes - 1))
    edges = [0.0, *cuts, 1.0]
    return [pounds * (b - a) for a, b in itertools.pairwise(edges)]


def _read(output: int, pounds: float, unit: Unit) -> Shown:
    division = OZ_DIVISION if unit is Unit.OZ else LB_DIVISION
    amount = pounds * 16 if unit is Unit.OZ else pounds
    value = (Decimal(repr(amount)) / division).to_integral_value() * division
    return Shown(output, value, unit.value, division)
