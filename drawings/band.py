"""Portions as dots against their target band. Pure geometry in pixels."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from decimal import Decimal

from cutting.quantities import Unit, Weight
from cutting.sheet.cutting_test import portion_tolerance

SHOWN_TOLERANCES = Decimal("2.6")
"""How far to each side of the target the strip reaches, in tolerances."""
DOT = 9.0
TEXT_GAP = 14.0
MOST_STACKED = 3


@dataclass(frozen=True, slots=True)
class Dot:
    x: float
    y: float
    within: bool
    text: str


@dataclass(frozen=True, slots=True)
class Strip:
    """The strip from `low` to `high` grams; the band between `band_x` and `band_end`."""

    width: float
    height: float
    low_grams: Decimal
    high_grams: Decimal
    target_grams: Decimal
    band_low_grams: Decimal
    band_high_grams: Decimal
    band_x: float
    band_end: float
    target_x: float
    low_text: str
    high_text: str
    target_text: str
    dots: tuple[Dot, ...]

    @property
    def edge(self) -> float:
        """How far the scale of grams begins and ends inside the strip."""
        return DOT

    @property
    def low_x(self) -> float:
        """Where the words left of the band end."""
        return round(self.band_x - TEXT_GAP, 1)

    @property
    def high_x(self) -> float:
        """Where the words right of the band begin."""
        return round(self.band_end + TEXT_GAP, 1)

    @property
    def band_width(self) -> float:
        return round(self.band_end - self.band_x, 1)


def strip(portions: Sequence[Weight], target: Weight, width: float = 540.0) -> Strip:
    """Lay out weighed portions on a strip around the target. Dots past an end stay at the end."""
    tolerance = portion_tolerance(target.value, target.unit)
    low = target.value - SHOWN_TOLERANCES * tolerance
    high = target.value + SHOWN_TOLERANCES * tolerance

    start, scale = float(low), (width - 2 * DOT) / float(high - low)

    def x(value: Decimal) -> float:
        at = (float(value) - start) * scale
        return round(min(max(at, 0.0), width - 2 * DOT) + DOT, 1)

    dots: list[Dot] = []
    height = MOST_STACKED * DOT * 2 + 8
    for portion in portions:
        value = portion.to(target.unit)
        at = x(value)
        below = sum(abs(dot.x - at) < 2 * DOT for dot in dots)
        y = height - 6 - DOT - 2 * DOT * (below % MOST_STACKED)
        dots.append(Dot(at, round(y, 1), abs(value - target.value) <= tolerance, str(portion)))
    grams = target.unit.grams
    places = 2 if target.unit in (Unit.LB, Unit.KG) else (1 if target.unit is Unit.OZ else 0)
    return Strip(
        width=width,
        height=height,
        low_grams=low * grams,
        high_grams=high * grams,
        target_grams=target.value * grams,
        band_low_grams=(target.value - tolerance) * grams,
        band_high_grams=(target.value + tolerance) * grams,
        band_x=x(target.value - tolerance),
        band_end=x(target.value + tolerance),
        target_x=x(target.value),
        low_text=f"{target.value - tolerance:.{places}f}",
        high_text=f"{target.value + tolerance:.{places}f} {target.unit}",
        target_text=str(target),
        dots=tuple(dots),
    )
