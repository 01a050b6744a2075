"""Seam drawings: the muscles of a piece, their grain, fat, bone, seams and cut lines.

A `Drawing` is what a data file says, in drawing units. `seam_lettering` lays out its names.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from enum import StrEnum
from functools import cached_property

from cutting.errors import BadValue
from drawings.shapes import Box, Curve, Grain, Stroke, area, brief, curve, fibres


class Kind(StrEnum):
    """What a region is made of."""

    MUSCLE = "muscle"
    FAT = "fat"
    BONE = "bone"
    CARTILAGE = "cartilage"
    MEMBRANE = "membrane"
    GRISTLE = "gristle"
    GLAND = "gland"
    SKIN = "skin"
    AREA = "area"
    """A part of an animal's side, to touch."""
    GROUND = "ground"
    """The body of the piece under everything else; carries no label of its own."""


class LineKind(StrEnum):
    SEAM = "seam"
    CUT = "cut"
    SAW = "saw"
    SCRAPE = "scrape"
    """A knife over bones, not through them."""
    STRING = "string"


@dataclass(frozen=True)
class Region:
    """One thing in the drawing, in one or several outlines. `key` is what steps name."""

    key: str
    kind: Kind
    outlines: tuple[str, ...]
    label: str = ""
    muscle: str = ""
    grain: str = ""
    tone: int = 1

    def __post_init__(self) -> None:
        if self.kind is Kind.MUSCLE and not self.muscle:
            raise BadValue(f"region {self.key}", "no muscle", "a key of the muscles is right")
        if self.kind is Kind.MUSCLE and not self.grain:
            raise BadValue(f"region {self.key}", "no grain", "an angle such as 30 is right")
        found, many = len(self.grains), len(self.outlines)
        if found not in (0, many):
            raise BadValue(f"region {self.key}", f"{found} grains", f"one, or {many}, is right")

    @cached_property
    def curves(self) -> tuple[Curve, ...]:
        return tuple(curve(text, closed=True) for text in self.outlines)

    @cached_property
    def grains(self) -> tuple[Grain, ...]:
        """The grain in each outline; the same in all where one is written."""
        found = tuple(Grain.read(one) for one in self.grain.split(";")) if self.grain else ()
        return found * len(self.outlines) if len(found) == 1 else found

    @cached_property
    def largest(self) -> Curve:
        return max(self.curves, key=lambda one: area(one.points))

    @cached_property
    def strokes(self) -> list[Stroke]:
        pairs = zip(self.curves, self.grains, strict=True) if self.grain else ()
        return [stroke for one, grain in pairs for stroke in fibres(one, grain)]


@dataclass(frozen=True)
class SeamLine:
    """A seam to follow, or where the knife, the saw or a string goes.

    `of`: keys of regions: the two that a seam lies between, each one or several with slashes, or those
    that a cut crosses across their fibers.
    """

    key: str
    kind: LineKind
    points: str
    label: str = ""
    of: tuple[str, ...] = ()

    @cached_property
    def curve(self) -> Curve:
        return curve(self.points, closed=False)


@dataclass(frozen=True, slots=True)
class Shape:
    """A path with its classes; `strokes` are the fibres, every second one in `more`."""

    path: str
    look: str
    strokes: str = ""
    more: str = ""
    title: str = ""
    key: str = ""


@dataclass(frozen=True, eq=False)
class Drawing:
    """A piece in drawing units, `width` by `height`. `ends` by side: left, right, top, bottom.

    Equal only to itself, so that what is worked out for it once can be kept.
    """

    key: str
    view: str
    width: float
    height: float
    regions: tuple[Region, ...]
    lines: tuple[SeamLine, ...] = ()
    ends: Mapping[str, str] = field(default_factory=dict)
    views: tuple[Box, ...] = ()
    """Where each view lies, as least and most x, least and most y; none where there is but one."""

    def __post_init__(self) -> None:
        keys = [one.key for one in self.parts]
        twice = {key for key in keys if keys.count(key) > 1}
        if twice:
            raise BadValue(f"drawing {self.key}", f"{sorted(twice)} twice", "each key once")
        unknown = set(self.ends) - {"left", "right", "top", "bottom"}
        if unknown:
            raise BadValue(f"drawing {self.key}", f"ends {sorted(unknown)}", "left, right, top")

    @property
    def parts(self) -> tuple[Region | SeamLine, ...]:
        return (*self.regions, *self.lines)

    @property
    def keys(self) -> frozenset[str]:
        return frozenset(one.key for one in self.parts)

    @property
    def muscles(self) -> frozenset[str]:
        return frozenset(one.muscle for one in self.regions if one.muscle)

    @cached_property
    def shapes(self) -> tuple[Shape, ...]:
        """Every shape from the ground up: the part of a drawing no width and no step changes."""
        found = [_shape(region) for region in self.regions]
        found += [
            Shape(line.curve.path, f"line-{line.kind}", title=line.label, key=line.key)
            for line in self.lines
        ]
        return tuple(found)


def _shape(region: Region) -> Shape:
    look = f"of-{region.kind}"
    if region.kind is Kind.MUSCLE:
        look += f" m{region.tone}"
    strokes = [f"M{x:.0f} {y:.0f}l{brief(dx)} {brief(dy)}" for x, y, dx, dy in region.strokes]
    path = "".join(one.path for one in region.curves)
    return Shape(
        path, look, "".join(strokes[::2]), "".join(strokes[1::2]), region.label, region.key
    )
