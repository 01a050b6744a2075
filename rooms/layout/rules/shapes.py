"""Typical shapes of pieces, scaled to one piece's weight and length. All are assumptions."""

import tomllib
from dataclasses import dataclass
from decimal import Decimal
from functools import lru_cache
from pathlib import Path
from typing import Any

from cutting.layout.bones import reach
from cutting.layout.profile import MM, Profile, Section, Station
from cutting.quantities import CONSTANTS, Unit, Weight, working

DATA = Path(__file__).parents[1] / "data" / "shapes.toml"
FINE = Decimal("0.01")
"""mm: no shape is known more finely, and its numbers stay small."""
DENSITY = Decimal(CONSTANTS["common_practice"]["meat"]["density"])


@dataclass(frozen=True)
class Within:
    """Where on the piece a cut may come from, as shares of the length or from bone to bone; how
    many bones it has. `tender`: as far as the tenderloin is so wide, in inches; `behind`: where it
    no longer is."""

    start: Decimal | None = None
    end: Decimal | None = None
    bones: int | None = None
    from_bone: int | None = None
    to_bone: int | None = None
    tender: Decimal | None = None
    behind: Decimal | None = None


NOWHERE = Within()


@dataclass(frozen=True)
class Apart:
    """Bones taken off and the meat sold as several cuts: keys with their shares of the stretch."""

    name: str
    within: Within
    cuts: tuple[tuple[str, Decimal], ...]


@dataclass(frozen=True)
class Shape:
    """`length` in mm at the usual weight; stations as shares, relative width and height."""

    section: Section
    length: Decimal
    aspect: Decimal
    stations: tuple[tuple[Decimal, Decimal, Decimal], ...]
    ends: tuple[str, str]
    bones: int | None = None
    ribs: Decimal = Decimal(1)
    """The share of the length that has those bones; behind it a saw cuts anywhere."""
    is_sawn: bool = False
    key: str = ""
    """Of a part that is laid out by itself; empty for the whole piece."""
    name: str = ""
    share: Decimal = Decimal(1)
    """Of the piece's weight."""
    cuts: tuple[str, ...] = ()
    """Keys of the cuts that come from it; none: all."""
    across: tuple[int, ...] = (1,)
    """Into how many portions a slice may be parted."""
    opens: bool = False
    """Whether thin ends are usually butterflied."""
    grain: str = ""
    tender: tuple[tuple[Decimal, Decimal], ...] = ()
    """Shares of the length, and inches of tenderloin there."""
    within: tuple[tuple[str, Within], ...] = ()
    """By the key of the cut."""
    apart: tuple[Apart, ...] = ()

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

    def of_cut(self, cut: str) -> Within:
        return dict(self.within).get(cut, NOWHERE)

    def bone_cuts(self, length: Decimal, bones: int) -> list[Decimal]:
        """Where a knife goes between so many bones, in mm."""
        with working():
            return [self.ribs * length * i / bones for i in range(1, bones)]

    def stretch(
        self, within: Within, length: Decimal, bones: int | None
    ) -> tuple[Decimal | None, Decimal | None]:
        """From where to where on a piece of a length a cut may come, in mm; None for no limit."""

        def share(value: Decimal | None) -> Decimal | None:
            return None if value is None else value * length

        with working():
            start, end = share(within.start), share(within.end)
            if within.tender is not None:
                end = reach(self.tender, within.tender) * length
            if within.behind is not None:
                start = reach(self.tender, within.behind) * length
            ends = [*self.bone_cuts(length, bones), self.ribs * length] if bones else []
        if within.from_bone and within.from_bone <= len(ends):
            start = ends[within.from_bone - 1]
        if within.to_bone and within.to_bone <= len(ends):
            end = ends[within.to_bone - 1]
        return start, end


@lru_cache(maxsize=1)
def shapes() -> dict[str, tuple[Shape, ...]]:
    """By the key of the piece: its parts, or the one shape it has."""
    data = tomllib.loads(DATA.read_text(encoding="utf-8"))
    found = {}
    for key, row in data.items():
        parts = row.get("parts") or [{**data.get(row.get("like", ""), {}), **row}]
        found[key] = tuple(_shape(part) for part in parts)
    return found


def shape_of(key: str, part: str) -> Shape:
    """One shape of a piece that has any; the first where the part is not known."""
    found = shapes()[key]
    return next((one for one in found if one.key == part), found[0])


def _shape(row: dict[str, Any]) -> Shape:
    decimals = {"share": Decimal(row.get("share", 1)), "ribs": Decimal(row.get("ribs", 1))}
    return Shape(
        Section(row["section"]),
        Decimal(row["length"]) * MM["in"],
        Decimal(row["aspect"]),
        tuple((Decimal(a), Decimal(w), Decimal(h)) for a, w, h in row["stations"]),
        (row["ends"][0], row["ends"][1]),
        bones=row.get("bones"),
        is_sawn=row.get("sawn", False),
        key=row.get("key", ""),
        name=row.get("name", ""),
        cuts=tuple(row.get("cuts", ())),
        across=tuple(row.get("across", (1,))),
        opens=row.get("opens", False),
        grain=row.get("grain", ""),
        tender=tuple((Decimal(a), Decimal(w)) for a, w in row.get("tender", ())),
        within=tuple((one["cut"], _within(one)) for one in row.get("within", ())),
        apart=tuple(_apart(one) for one in row.get("apart", ())),
        **decimals,
    )


def _within(row: dict[str, Any]) -> Within:
    def decimal(name: str) -> Decimal | None:
        return Decimal(row[name]) if name in row else None

    return Within(
        start=decimal("from"),
        end=decimal("to"),
        bones=row.get("bones"),
        from_bone=row.get("from_bone"),
        to_bone=row.get("to_bone"),
        tender=decimal("tender"),
        behind=decimal("behind"),
    )


def _apart(row: dict[str, Any]) -> Apart:
    cuts = tuple((key, Decimal(share)) for key, share in row["cuts"])
    return Apart(row["name"], _within(row), cuts)


def length_of(shape: Shape, weight: Weight, usual: Weight | None) -> Decimal:
    """How long a piece of that weight usually is: length goes with the cube root of weight.
    `usual`: the weight of the whole piece, of which the shape may be a part."""
    if usual is None:
        return shape.length
    ratio = float(weight.to(Unit.G) / usual.to(Unit.G) / shape.share)
    return (shape.length * Decimal(repr(ratio ** (1 / 3)))).quantize(Decimal(1))
