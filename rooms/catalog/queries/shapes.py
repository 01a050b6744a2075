"""Typical shapes of pieces, scaled to one piece's weight and length. All are assumptions."""

import tomllib
from dataclasses import dataclass
from decimal import Decimal
from functools import lru_cache
from pathlib import Path
from typing import Any

from cutting.layout.bones import reach
from cutting.layout.placing import Stretch
from cutting.layout.profile import MM, Profile, Section, Station
from cutting.quantities import CONSTANTS, Unit, Weight, working

DATA = Path(__file__).parents[1] / "data" / "shapes.toml"
FINE = Decimal("0.01")
"""mm: no shape is known more finely, and its numbers stay small."""
DENSITY = Decimal(CONSTANTS["common_practice"]["meat"]["density"])


@dataclass(frozen=True)
class ShapeZone:
    """A named stretch of a shape that a product may be cut from.

    `stretches` are shares of the length. `from_bone` and `to_bone` count bones from the near end,
    below 0 from the last bone. `tender`: as far as the tenderloin is so wide, in inches; `behind`:
    from where it no longer is. `is_taken_apart`: its products lie side by side along it, such as
    ribs below an eye.
    """

    key: str
    name: str
    stretches: tuple[tuple[Decimal, Decimal], ...] = ()
    from_bone: int | None = None
    to_bone: int | None = None
    tender: Decimal | None = None
    behind: Decimal | None = None
    is_taken_apart: bool = False

    @property
    def is_between_bones(self) -> bool:
        """Whether it begins and ends at bones, or at an end of the piece."""
        return self.to_bone is not None or (self.from_bone is not None and not self.stretches)


@dataclass(frozen=True)
class Shape:
    """`length` in mm at the usual weight; stations as shares, relative width and height."""

    section: Section
    length: Decimal
    aspect: Decimal
    stations: tuple[tuple[Decimal, Decimal, Decimal], ...]
    ends: tuple[str, str]
    bones: int | None = None
    bone_counts: tuple[int, ...] = ()
    """How many bones such a piece may have, as it is bought; none where no knife goes between them."""
    ribs: Decimal = Decimal(1)
    """The share of the length that has those bones; behind it a saw cuts anywhere."""
    is_sawn: bool = False
    key: str = ""
    """Of a part that is laid out by itself; empty for the whole piece."""
    name: str = ""
    share: Decimal = Decimal(1)
    """Of the weight paid for, once it is cleaned and lies ready to be cut."""
    muscles: frozenset[str] = frozenset()
    """Keys of the muscles that lie in it."""
    across: tuple[int, ...] = (1,)
    """Into how many portions a slice may be parted."""
    opens: bool = False
    """Whether thin ends are usually butterflied."""
    grain: str = ""
    tender: tuple[tuple[Decimal, Decimal], ...] = ()
    """Shares of the length, and inches of tenderloin there."""
    zones: tuple[ShapeZone, ...] = ()
    out_of: tuple[str, ...] = ()
    """Keys of the zones of the whole piece that this part is taken out of."""

    def profile(self, length: Decimal, width: Decimal, height: Decimal) -> Profile:
        """At a length, with its widest and highest place as measured, all in mm."""
        last = len(self.stations) - 1
        with working():
            rows = [
                Station(
                    length if i == last else (length * share).quantize(FINE),
                    (width * wide).quantize(FINE),
                    (height * high).quantize(FINE),
                )
                for i, (share, wide, high) in enumerate(self.stations)
            ]
        return Profile(self.section, tuple(rows))

    def usual(self, weight: Weight, length: Decimal) -> Profile:
        """As wide and high as lean meat of that weight and length must be."""
        with working():
            flat = self.profile(length, self.aspect * 100, Decimal(100))
            across = (flat.density(weight.to(Unit.G)) / DENSITY).sqrt()
            return self.profile(length, self.aspect * across * 100, across * 100)

    @property
    def is_parted(self) -> bool:
        """Whether a slice may be more than one portion."""
        return self.across != (1,)

    def zone(self, key: str) -> ShapeZone | None:
        return next((one for one in self.zones if one.key == key), None)

    def bone_cuts(self, length: Decimal, bones: int) -> list[Decimal]:
        """Where a knife goes between so many bones, in mm."""
        with working():
            return [self.ribs * length * i / bones for i in range(1, bones)]

    def stretches(self, zone: ShapeZone, length: Decimal, bones: int | None) -> list[Stretch]:
        """Return from where to where a zone lies on a piece of a length, in mm."""
        with working():
            found = [(start * length, end * length) for start, end in zone.stretches]
            start, end = found[0] if found else (Decimal(0), length)
            if zone.tender is not None:
                end = reach(self.tender, zone.tender) * length
            if zone.behind is not None:
                start = reach(self.tender, zone.behind) * length
            cuts = [*self.bone_cuts(length, bones), self.ribs * length] if bones else []
        if cuts and zone.from_bone is not None:
            start = self._behind_bone(cuts, zone.from_bone)
        if cuts and zone.to_bone is not None:
            end = self._behind_bone(cuts, zone.to_bone)
        return [(start, end), *found[1:]]

    @staticmethod
    def _behind_bone(cuts: list[Decimal], number: int) -> Decimal:
        """Where the knife goes behind a bone; the last of them where there are fewer."""
        number = number if number > 0 else len(cuts) + number
        return cuts[min(max(number, 1), len(cuts)) - 1]


@lru_cache(maxsize=1)
def shapes() -> dict[str, tuple[Shape, ...]]:
    """By the key of the piece: its parts, or the one shape it has."""
    data = tomllib.loads(DATA.read_text(encoding="utf-8"))
    found = {}
    for key, row in data.items():
        parts = row.get("parts") or [{**data.get(row.get("like", ""), {}), **row}]
        found[key] = tuple(_shape(part) for part in parts)
    return found


WHOLE = "whole"
"""What an output calls the one shape of a piece that has no parts."""


def part_of(key: str, part: str) -> Shape | None:
    """Return the shape that an output of a piece names; None where there is no such part."""
    return next((one for one in shapes().get(key, ()) if (one.key or WHOLE) == part), None)


def shape_of(key: str, part: str) -> Shape:
    """One shape of a piece that has any; the first where the part is not known."""
    return part_of(key, part or WHOLE) or shapes()[key][0]


def _shape(row: dict[str, Any]) -> Shape:
    decimals = {"share": Decimal(row.get("share", 1)), "ribs": Decimal(row.get("ribs", 1))}
    return Shape(
        Section(row["section"]),
        Decimal(row["length"]) * MM["in"],
        Decimal(row["aspect"]),
        tuple((Decimal(a), Decimal(w), Decimal(h)) for a, w, h in row["stations"]),
        (row["ends"][0], row["ends"][1]),
        bones=row.get("bones"),
        bone_counts=tuple(row.get("bone_counts", ())),
        is_sawn=row.get("sawn", False),
        key=row.get("key", ""),
        name=row.get("name", ""),
        muscles=frozenset(row.get("muscles", ())),
        across=tuple(row.get("across", (1,))),
        opens=row.get("opens", False),
        grain=row.get("grain", ""),
        tender=tuple((Decimal(a), Decimal(w)) for a, w in row.get("tender", ())),
        zones=tuple(_zone(one) for one in row.get("zones", ())),
        out_of=tuple(row.get("of", ())),
        **decimals,
    )


def _zone(row: dict[str, Any]) -> ShapeZone:
    def decimal(name: str) -> Decimal | None:
        return Decimal(row[name]) if name in row else None

    return ShapeZone(
        row["key"],
        row["name"],
        tuple((Decimal(start), Decimal(end)) for start, end in row.get("at", ())),
        from_bone=row.get("from_bone"),
        to_bone=row.get("to_bone"),
        tender=decimal("tender"),
        behind=decimal("behind"),
        is_taken_apart=row.get("apart", False),
    )


def length_of(shape: Shape, weight: Weight, usual: Weight | None) -> Decimal:
    """How long a piece of that weight usually is: length goes with the cube root of weight.
    `usual`: the weight of the whole piece, of which the shape may be a part."""
    if usual is None:
        return shape.length
    ratio = float(weight.to(Unit.G) / usual.to(Unit.G) / shape.share)
    return (shape.length * Decimal(repr(ratio ** (1 / 3)))).quantize(Decimal(1))
