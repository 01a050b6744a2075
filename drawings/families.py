"""Seam drawings from a few parameters, for pieces without one of their own.

A family gives the outline; the piece names its parts as boxes in it. A box is
"x0 x1 t0 t1" or "x0 x1 t0 t0' t1 t1'": from end to end (x, 0 to 1) and from the upper to the
lower edge (t, 0 to 1), each edge at the left and at the right side of the box. Pure.
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from enum import StrEnum

from cutting.errors import BadValue
from drawings.seams import Drawing, Kind, LineKind, Region, SeamLine
from drawings.shapes import brief

WIDTH, LEFT, RIGHT = 760.0, 22.0, 738.0
SAMPLES = 6
CORNER = 0.018
"""How far the corners of a box are rounded, as a share of the whole length."""
EDGE = 0.2
"""How far a box may reach past the upper or lower edge."""


class Family(StrEnum):
    ROLL = "roll"
    """A tapered roll seen from the side: rib-eye, strip, tenderloin."""
    SLAB = "slab"
    """A flat piece seen from above: belly, flank, flat."""
    RACK = "rack"
    """Ribs side by side."""
    JOINT = "joint"
    """Boned, rolled and tied at even intervals."""
    LOIN = "loin"
    """A loin on the bone: its cut face and, beside it, from above."""


@dataclass(frozen=True)
class Look:
    """Size and roundness of a family: height, half thickness, exponent and least end."""

    height: float
    half: float
    round: float
    end: float
    taper: float


LOOKS = {
    Family.ROLL: Look(260.0, 96.0, 4.0, 0.42, 0.4),
    Family.SLAB: Look(380.0, 158.0, 9.0, 0.7, 0.22),
    Family.RACK: Look(300.0, 106.0, 12.0, 0.88, 0.14),
    Family.JOINT: Look(260.0, 96.0, 8.0, 0.62, 0.04),
    Family.LOIN: Look(350.0, 0.0, 0.0, 0.0, 0.0),
}
SLOTS = {
    "bone": "58,66 76,62 86,150 112,174 220,184 302,192 306,206 220,206 124,206 106,238 66,248 "
    "38,222 44,180 58,150",
    "strip": "94,82 150,50 240,54 312,108 326,164 300,184 220,176 124,166 96,144",
    "tenderloin": "118,214 180,212 236,214 230,254 182,278 132,270 108,246",
    "tail": "318,184! 348,158 368,204 354,282 320,322 304,302 326,252 312,206!",
    "backstrap": "82,78 92,70 98,112 92,140 84,124",
    "cover": "88,64 150,30 250,34 330,94 350,156 338,166 316,104 244,48 150,44 96,76",
}
ENDS_ABOVE = (0.36, 0.74)
"""Where the ends of a loin from above begin and stop, as shares of its length."""
FACE = "14,160 40,66 130,18 262,22 352,92 384,200 366,300 318,340 290,312 180,296 70,284 22,230"
ABOVE = "424,96 450,70 580,60 700,68 738,92 742,180 730,250 660,276 540,280 448,268 424,240"


@dataclass(frozen=True)
class FamilyPart:
    """One thing of the piece: a `box` in the outline, or a `slot` of a loin on the bone."""

    key: str
    label: str = ""
    muscle: str = ""
    box: str = ""
    slot: str = ""
    kind: Kind | None = None
    grain: str = ""
    tone: int = 1

    @property
    def of(self) -> Kind:
        if self.kind is not None:
            return self.kind
        if self.slot in ("bone", "backstrap") and not self.muscle:
            return Kind.BONE if self.slot == "bone" else Kind.GRISTLE
        return Kind.MUSCLE


@dataclass(frozen=True)
class Along:
    """A line: from (`at`, `start`) to (`to_x`, `end`) in the outline's own measures."""

    key: str
    at: float
    to_x: float
    start: float
    end: float
    kind: LineKind = LineKind.CUT
    label: str = ""
    of: tuple[str, ...] = ()


@dataclass(frozen=True)
class Spec:
    """A family with its parts, as a piece's file gives it."""

    family: Family
    view: str
    parts: Sequence[FamilyPart]
    lines: Sequence[Along] = ()
    ends: Mapping[str, str] = field(default_factory=dict)
    thick: str = "left"
    taper: float | None = None
    bones: int = 0


def draw(key: str, spec: Spec) -> Drawing:
    """The drawing of a piece. Raises BadValue that names the drawing and the part."""
    if not spec.parts:
        raise BadValue(f"drawing {key}", "no parts", "one or more are right")
    if spec.family is Family.LOIN:
        return _loin(key, spec)
    outline = _Outline(spec)
    look = LOOKS[spec.family]
    regions = [Region("body", Kind.GROUND, (outline.around(),))]
    regions += [_region(key, part, outline.box(key, part)) for part in spec.parts]
    if spec.family is Family.RACK:
        regions.append(_ribs(outline, max(spec.bones, 2)))
    lines = [_line(outline, line) for line in spec.lines]
    if spec.family is Family.JOINT:
        lines += _strings(outline)
    return Drawing(
        key, spec.view, WIDTH, look.height, tuple(regions), tuple(lines), dict(spec.ends)
    )


def _region(key: str, part: FamilyPart, *outlines: str) -> Region:
    try:
        return Region(
            part.key,
            part.of,
            outlines,
            part.label,
            part.muscle,
            part.grain or ("0" if part.of is Kind.MUSCLE else ""),
            part.tone,
        )
    except BadValue as bad:
        raise BadValue(f"drawing {key}, {bad.field}", bad.wrong, bad.right) from bad


class _Outline:
    """Where (x, t) of a piece lies in the drawing."""

    def __init__(self, spec: Spec) -> None:
        self.look = LOOKS[spec.family]
        self.taper = self.look.taper if spec.taper is None else spec.taper
        self.turned = spec.thick == "right"

    def half(self, x: float) -> float:
        """Half the thickness at `x`, rounded off at both ends."""
        bent = max(1 - abs(2 * min(max(x, 0), 1) - 1) ** self.look.round, 0.0)
        rounding = self.look.end + (1 - self.look.end) * math.sqrt(bent)
        from_thick = 1 - x if self.turned else x
        return self.look.half * rounding * (1 - self.taper * from_thick)

    def at(self, x: float, t: float) -> tuple[float, float]:
        half = self.half(x)
        wave = 5 * math.sin(3.4 * x + 0.6)
        return LEFT + (RIGHT - LEFT) * x, self.look.height / 2 + wave + half * (2 * t - 1)

    def text(self, x: float, t: float, corner: str = "") -> str:
        px, py = self.at(x, t)
        return f"{brief(px)},{brief(py)}{corner}"

    def around(self) -> str:
        """The whole piece, a little larger than its parts."""
        xs = [i / 10 for i in range(11)]
        upper = [self.text(x, -0.045) for x in xs]
        lower = [self.text(x, 1.045) for x in reversed(xs)]
        return " ".join([self.text(-0.012, 0.5), *upper, self.text(1.012, 0.5), *lower])

    def box(self, key: str, part: FamilyPart) -> str:
        """The outline of a box, following the edges of the piece."""
        try:
            numbers = [float(number) for number in part.box.split()]
            if len(numbers) == 4:
                numbers = [*numbers[:3], *numbers[2:], numbers[3]]
            x0, x1, t0, u0, t1, u1 = numbers
            if not (0 <= x0 < x1 <= 1 and t0 < t1 and u0 < u1):
                raise ValueError
            if not all(-EDGE <= t <= 1 + EDGE for t in (t0, u0, t1, u1)):
                raise ValueError
        except ValueError:
            raise BadValue(
                f"drawing {key}, part {part.key}", f"box {part.box!r}", "like 0 0.5 0 1"
            ) from None
        inset = min(CORNER, (x1 - x0) / 5) / (x1 - x0)
        steps = [inset + (1 - 2 * inset) * i / SAMPLES for i in range(SAMPLES + 1)]
        deep = [(0.0, t0, t1), (1.0, u0, u1)]
        upper = [self.text(x0 + (x1 - x0) * s, t0 + (u0 - t0) * s) for s in steps]
        lower = [self.text(x0 + (x1 - x0) * s, t1 + (u1 - t1) * s) for s in reversed(steps)]
        left, right = (
            [self.text(x0 + (x1 - x0) * s, a + (b - a) * k) for k in (0.16, 0.5, 0.84)]
            for s, a, b in deep
        )
        return " ".join([*upper, *right, *lower, *reversed(left)])


def _line(outline: _Outline, line: Along) -> SeamLine:
    steps = [i / 6 for i in range(7)]
    points = " ".join(
        outline.text(line.at + (line.to_x - line.at) * s, line.start + (line.end - line.start) * s)
        for s in steps
    )
    return SeamLine(line.key, line.kind, points, line.label, line.of)


def _ribs(outline: _Outline, count: int) -> Region:
    bones = []
    for i in range(count):
        x = (i + 0.62) / (count + 0.24)
        wide = 0.17 / count
        left = [outline.text(x - wide + 0.012 * math.sin(t * 3), t) for t in (0.1, 0.4, 0.75)]
        right = [outline.text(x + wide + 0.012 * math.sin(t * 3), t) for t in (0.75, 0.4, 0.1)]
        bones.append(" ".join([*left, outline.text(x, 1.1), *right, outline.text(x, 0.04)]))
    return Region("rib-bones", Kind.BONE, tuple(bones), f"{count} ribs")


def _strings(outline: _Outline) -> list[SeamLine]:
    return [
        SeamLine(
            f"string-{i}",
            LineKind.STRING,
            " ".join(
                outline.text(i / 8 + 0.014 * math.sin(math.pi * t), t)
                for t in (-0.045, 0.2, 0.5, 0.8, 1.045)
            ),
        )
        for i in range(1, 8)
    ]


def _loin(key: str, spec: Spec) -> Drawing:
    """The cut face on the left, the loin from above on the right with its cuts."""
    slots = {part.slot for part in spec.parts}
    start = ENDS_ABOVE[0] if "above-left" in slots else 0.03
    end = ENDS_ABOVE[1] if "above-right" in slots else 0.97
    above = {
        "above-left": _above(0.03, start - 0.02),
        "above-right": _above(end + 0.02, 0.97),
    }
    regions = [Region("body", Kind.GROUND, (FACE, ABOVE))]
    for part in spec.parts:
        slot = part.slot
        if slot == "backstrap" and part.of is not Kind.GRISTLE:
            slot = "cover"
        outline = SLOTS.get(slot) or above.get(slot)
        if outline is None:
            raise BadValue(
                f"drawing {key}, part {part.key}",
                f"slot {part.slot!r}",
                f"{', '.join((*SLOTS, *above))} are right",
            )
        also = (_above(start, end),) if part.slot == "strip" else ()
        regions.append(_region(key, part, outline, *also))
    lines = [
        SeamLine(line.key, line.kind, _across(line.at), line.label, line.of) for line in spec.lines
    ]
    height = LOOKS[Family.LOIN].height
    return Drawing(key, spec.view, WIDTH, height, tuple(regions), tuple(lines), dict(spec.ends))


def _above(start: float, end: float) -> str:
    left, right = 424 + 318 * start, 424 + 318 * end
    middle, bend = (left + right) / 2, min(30.0, (right - left) / 4)
    return (
        f"{brief(left)},110 {brief(left + bend)},86 {brief(middle)},78 {brief(right - bend)},82 "
        f"{brief(right)},108 {brief(right)},230 {brief(right - bend)},256 {brief(middle)},262 "
        f"{brief(left + bend)},254 {brief(left)},232"
    )


def _across(at: float) -> str:
    x = brief(424 + 318 * at)
    return f"{x},56 {x},170 {x},286"
