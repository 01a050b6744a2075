"""Typical shapes of pieces, scaled to one piece's weight and length. All are assumptions."""

import tomllib
from dataclasses import dataclass
from decimal import Decimal
from functools import lru_cache
from pathlib import Path
from typing import Any

from cutting.layout.profile import MM, Profile, Section, Station
from cutting.quantities import CONSTANTS, Unit, Weight, working

DATA = Path(__file__).parents[1] / "data" / "shapes.toml"
DENSITY = Decimal(CONSTANTS["common_practice"]["meat"]["density"])


@dataclass(frozen=True)
class Shape:
    """`length` in mm at the piece's usual weight; stations as shares, relative width and height."""

    section: Section
    length: Decimal
    aspect: Decimal
    stations: tuple[tuple[Decimal, Decimal, Decimal], ...]
    ends: tuple[str, str]
    bones: int | None = None
    is_sawn: bool = False

    def profile(self, length: Decimal, width: Decimal, height: Decimal) -> Profile:
        """At a length, with its widest and highest place as measured, all in mm."""
        last = len(self.stations) - 1
        with working():
            rows = [
                Station(length if i == last else length * share, width * wide, height * high)
                for i, (share, wide, high) in enumerate(self.stations)
            ]
        return Profile(self.section, tuple(rows))

    def usual(self, weight: Weight, length: Decimal) -> Profile:
        """As wide and high as lean meat of that weight and length must be."""
        with working():
            flat = self.profile(length, self.aspect, Decimal(1))
            across = (flat.density(weight.to(Unit.G)) / DENSITY).sqrt()
            return self.profile(length, self.aspect * across, across)


@lru_cache(maxsize=1)
def shapes() -> dict[str, Shape]:
    """By the key of the piece."""
    data = tomllib.loads(DATA.read_text(encoding="utf-8"))
    return {key: _shape({**data.get(row.get("like", ""), {}), **row}) for key, row in data.items()}


def _shape(row: dict[str, Any]) -> Shape:
    stations = tuple((Decimal(a), Decimal(w), Decimal(h)) for a, w, h in row["stations"])
    return Shape(
        Section(row["section"]),
        Decimal(row["length"]) * MM["in"],
        Decimal(row["aspect"]),
        stations,
        (row["ends"][0], row["ends"][1]),
        row.get("bones"),
        row.get("sawn", False),
    )


def length_of(shape: Shape, weight: Weight, usual: Weight | None) -> Decimal:
    """How long a piece of that weight usually is: length goes with the cube root of weight."""
    if usual is None:
        return shape.length
    ratio = float(weight.to(Unit.G) / usual.to(Unit.G))
    return (shape.length * Decimal(repr(ratio ** (1 / 3)))).quantize(Decimal(1))
