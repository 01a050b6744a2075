"""Tubs as vessels to scale, and the fat of a batch as a curve: coordinates only."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from decimal import Decimal

TALL, WIDE, TOP = 170.0, 120.0, 10.0
CURVE_WIDTH, CURVE_HEIGHT = 520.0, 80.0
STEPS, SPREADS = 80, 4.0


@dataclass(frozen=True)
class Vessel:
    """A tub: what is in it and where the line stands down to which it is taken; both from the top."""

    fill: float
    line: float | None

    @property
    def depth(self) -> float:
        return round(TOP + TALL - self.fill, 1)

    @property
    def taken(self) -> float:
        """How deep the part is that goes."""
        return 0.0 if self.line is None else round(TOP + TALL - self.line, 1)


def vessels(tubs: Sequence[tuple[Decimal, Decimal | None]]) -> list[Vessel]:
    """`tubs`: pounds in each, and pounds taken of it (None where nothing is asked of it). The fullest
    reaches three quarters of its vessel. The part that goes is drawn below, up to its line."""
    fullest = float(max((left for left, _ in tubs), default=Decimal(0))) or 1.0
    scale = TALL * 0.75 / fullest

    def at(pounds: Decimal) -> float:
        return round(TOP + TALL - float(pounds) * scale, 1)

    return [Vessel(at(left), None if not take else at(take)) for left, take in tubs]


@dataclass(frozen=True)
class Curve:
    """The fat of a batch: a line, ticks in percent, and where the limit stands."""

    points: str
    ticks: tuple[tuple[float, str], ...]
    limit: float | None
    width: float = CURVE_WIDTH
    height: float = CURVE_HEIGHT


def fat_curve(fat: Decimal, spread: Decimal, limit: Decimal | None) -> Curve:
    """A normal curve over whole percents that hold four spreads and the limit."""
    middle, sd = float(fat) * 100, max(float(spread) * 100, 0.05)
    edge = None if limit is None else float(limit) * 100
    low = math.floor(min(middle - SPREADS * sd, edge if edge is not None else middle))
    high = math.ceil(max(middle + SPREADS * sd, edge if edge is not None else middle)) or 1
    low = max(low, 0)
    scale = CURVE_WIDTH / max(high - low, 1)
    points = []
    for step in range(STEPS + 1):
        value = low + (high - low) * step / STEPS
        tall = math.exp(-(((value - middle) / sd) ** 2) / 2)
        x, y = (value - low) * scale, CURVE_HEIGHT * (1 - tall)
        points.append(f"{x:.1f},{y:.1f}")
    every = max((high - low) // 5, 1)
    ticks = tuple(
        (round((percent - low) * scale, 1), f"{percent}") for percent in range(low, high + 1, every)
    )
    return Curve(" ".join(points), ticks, None if edge is None else round((edge - low) * scale, 1))
