"""The shape of a piece along its length, and the volume up to any place: exact, in fractions.

Lengths are in millimetres. A station says how wide and how high the piece is at a distance from
its near end, or how large its face is there; between stations these run straight.
"""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Sequence
from dataclasses import dataclass, field
from decimal import Decimal
from enum import StrEnum
from fractions import Fraction
from functools import lru_cache
from itertools import pairwise
from math import lcm

from cutting.errors import BadValue
from cutting.quantities import working

MM = {"mm": Decimal(1), "cm": Decimal(10), "in": Decimal("25.4")}
"""1 in = 25.4 mm exactly (NIST SP 811)."""
PI = Decimal("3.14159265358979323846264338327950288419716939937511")
LEANEST, HEAVIEST = Decimal("1.04"), Decimal("1.07")
"""g/cm³ of lean meat: common practice, no published source."""
LEAST_STATIONS, MOST_STATIONS = 2, 60


class Section(StrEnum):
    """The family of the piece's face. The height of half an ellipse is from its flat side."""

    ELLIPSE = "ellipse"
    HALF_ELLIPSE = "half_ellipse"
    BOX = "box"
    AREA = "area"

    @property
    def is_round(self) -> bool:
        """Its area is π/4 · width · height."""
        return self in (Section.ELLIPSE, Section.HALF_ELLIPSE)


@dataclass(frozen=True, slots=True)
class Station:
    """`at`, `width` and `height` in mm, or `area` in mm² in place of the two."""

    at: Decimal
    width: Decimal | None = None
    height: Decimal | None = None
    area: Decimal | None = None


@dataclass(frozen=True)
class Profile:
    """Stations from the near end, at 0, to the far end, at the length.

    Raises BadValue for stations out of order, for a piece without volume, and for sides that are
    missing or below 0; at the two ends 0 is allowed.
    """

    section: Section
    stations: tuple[Station, ...]
    _cubics: tuple[tuple[Fraction, Fraction, Fraction, Fraction, Fraction], ...] = field(
        init=False, repr=False, compare=False
    )
    """For each stretch its start, the volume before it, and the volume in it as c1·t + c2·t² + c3·t³
    of the distance t into it; π/4 is left out."""

    def __post_init__(self) -> None:
        self._check()
        cubics, before = [], Fraction(0)
        for one, other in pairwise(self.stations):
            size = Fraction(other.at) - Fraction(one.at)
            a0, a1, a2 = self._area(one, other)
            c1, c2, c3 = a0, a1 / (2 * size), a2 / (3 * size * size)
            cubics.append((Fraction(one.at), before, c1, c2, c3))
            before += size * (c1 + size * (c2 + size * c3))
        if before <= 0:
            raise BadValue("stations", "they hold no volume", "sides above 0 are right")
        object.__setattr__(self, "_cubics", tuple(cubics))

    def _check(self) -> None:
        places = [one.at for one in self.stations]
        if not LEAST_STATIONS <= len(places) <= MOST_STATIONS:
            right = f"{LEAST_STATIONS} to {MOST_STATIONS} stations are right"
            raise BadValue("stations", f"{len(places)}", right)
        if places[0] != 0:
            raise BadValue("stations[0].at", f"{places[0]}", "0 is right")
        for i, (before, at) in enumerate(pairwise(places), start=1):
            if at <= before:
                raise BadValue(f"stations[{i}].at", f"{at}", f"more than {before} is right")
        for i, one in enumerate(self.stations):
            is_end = i in (0, len(places) - 1)
            names = ("area",) if self.section is Section.AREA else ("width", "height")
            for name in names:
                value = getattr(one, name)
                if value is None:
                    raise BadValue(f"stations[{i}].{name}", "is missing", "a size is right")
                if value < 0 or (value == 0 and not is_end):
                    right = "0 or more is right" if is_end else "more than 0 is right"
                    raise BadValue(f"stations[{i}].{name}", f"{value}", right)

    def _area(self, one: Station, other: Station) -> tuple[Fraction, Fraction, Fraction]:
        """The face between two stations as a0 + a1·s + a2·s², s from 0 to 1; π/4 left out."""
        if self.section is Section.AREA:
            start, end = Fraction(one.area or 0), Fraction(other.area or 0)
            return start, end - start, Fraction(0)
        w0, h0 = Fraction(one.width or 0), Fraction(one.height or 0)
        dw, dh = Fraction(other.width or 0) - w0, Fraction(other.height or 0) - h0
        return w0 * h0, w0 * dh + h0 * dw, dw * dh

    @property
    def length(self) -> Decimal:
        return self.stations[-1].at

    @property
    def whole(self) -> Fraction:
        """The volume of the piece in mm³, π/4 left out where the face is round."""
        return self.before(Fraction(self.length))

    def before(self, at: Fraction) -> Fraction:
        """The volume from the near end to a place, as `whole`."""
        index = max(bisect_right(self._cubics, at, key=lambda cubic: cubic[0]) - 1, 0)
        start, volume, c1, c2, c3 = self._cubics[index]
        into = at - start
        return volume + into * (c1 + into * (c2 + into * c3))

    def grid(self, step: Decimal, places: int) -> tuple[list[int], int]:
        """`before` at every multiple of the step and at the end, as whole numbers, and the number
        that makes them whole."""
        return _grid(self, step, places)

    def density(self, grams: Decimal) -> Decimal:
        """What the piece weighs by its volume, g/cm³, if it weighs so many grams."""
        with working():
            volume = Decimal(self.whole.numerator) / Decimal(self.whole.denominator)
            if self.section.is_round:
                volume = volume * PI / 4
            return grams * 1000 / volume

    def size_at(self, at: Decimal) -> tuple[Decimal, Decimal]:
        """Width and height at a place; of an area the circle of the same size."""
        index = bisect_right([one.at for one in self.stations], at) - 1
        index = min(max(index, 0), len(self.stations) - 2)
        one, other = self.stations[index], self.stations[index + 1]
        with working():
            share = (at - one.at) / (other.at - one.at)
            if self.section is Section.AREA:
                area = (one.area or 0) + ((other.area or 0) - (one.area or 0)) * share
                side = (area * 4 / PI).sqrt()
                return side, side
            w0, h0 = one.width or Decimal(0), one.height or Decimal(0)
            w1, h1 = other.width or Decimal(0), other.height or Decimal(0)
            return w0 + (w1 - w0) * share, h0 + (h1 - h0) * share

    def scaled(self, length: Decimal, across: Decimal = Decimal(1)) -> Profile:
        """The same shape at another length; `across` scales width and height."""
        with working():
            ratio = length / self.length
            last = len(self.stations) - 1
            moved = [
                Station(
                    length if i == last else one.at * ratio,
                    None if one.width is None else one.width * across,
                    None if one.height is None else one.height * across,
                    None if one.area is None else one.area * across * across,
                )
                for i, one in enumerate(self.stations)
            ]
        return Profile(self.section, tuple(moved))


@lru_cache(maxsize=32)
def _grid(profile: Profile, step: Decimal, places: int) -> tuple[list[int], int]:
    cubics = profile._cubics
    starts, length = [cubic[0] for cubic in cubics], Fraction(profile.length)
    unit = lcm(*(one.denominator for one in (*starts, length, Fraction(step))))
    parts = [(before, c1 / unit, c2 / unit**2, c3 / unit**3) for _, before, c1, c2, c3 in cubics]
    scale = lcm(*(one.denominator for part in parts for one in part))
    whole = [tuple(int(one * scale) for one in part) for part in parts]
    own = [int(one * unit) for one in starts]
    ends, far, per = [*own[1:], int(length * unit)], int(length * unit), int(Fraction(step) * unit)
    found, stretch = [], 0
    for place in range(places):
        at = per * place if place < places - 1 else far
        while at > ends[stretch]:
            stretch += 1
        into = at - own[stretch]
        before, c1, c2, c3 = whole[stretch]
        found.append(before + into * (c1 + into * (c2 + into * c3)))
    return found, scale


def is_lean(density: Decimal) -> bool:
    """Whether weight and measures may belong together: what they imply is lean meat's density."""
    return LEANEST <= density <= HEAVIEST


def reversed_profile(profile: Profile) -> Profile:
    """The piece turned round: its far end is the near one."""
    length = profile.length
    turned: Sequence[Station] = [
        Station(length - one.at, one.width, one.height, one.area)
        for one in reversed(profile.stations)
    ]
    return Profile(profile.section, tuple(turned))
