"""Where the names of a seam drawing go, for one width: none lost, none on another. Pure."""

from __future__ import annotations

import math
from collections.abc import Collection, Mapping
from dataclasses import dataclass, replace
from functools import lru_cache

from drawings.bar import Words
from drawings.lettering import GAP, shorten, text_width
from drawings.seams import Drawing, Kind, Region, SeamLine
from drawings.shapes import Point, crossings, middle_of, spot

PLATE_PAD = 6.0
LETTERS = "abcdefghijklmnopqrstuvwxyz"
LABEL_ROW = 19.0
ANCHORS = 15
MARGIN = 40.0


@dataclass(frozen=True, slots=True)
class Plate:
    """A name on its plate inside the region."""

    x: float
    y: float
    width: float
    height: float
    text: str
    is_lit: bool

    @property
    def left(self) -> float:
        return round(self.x - self.width / 2, 1)

    @property
    def top(self) -> float:
        return round(self.y - self.height / 2, 1)


@dataclass(frozen=True, slots=True)
class Label:
    """A name outside, with a line to its region; or a letter in the region when `letter`."""

    x: float
    y: float
    text: str
    width: float
    line: tuple[float, float, float, float]
    is_lit: bool


@dataclass(frozen=True, slots=True)
class Badge:
    """A number at a cut line, or a letter in a region too small for its name."""

    x: float
    y: float
    text: str
    is_lit: bool


@dataclass(frozen=True, slots=True)
class Lettered:
    """The names of a drawing laid out for one width. `scale` and `top` place the shapes."""

    width: float
    height: float
    size: float
    scale: float
    top: float
    plates: tuple[Plate, ...]
    labels: tuple[Label, ...]
    letters: tuple[Badge, ...]
    key: tuple[tuple[str, str], ...]
    numbers: tuple[Badge, ...]
    ends: tuple[Words, ...]

    @property
    def radius(self) -> float:
        return self.size * 0.82


@dataclass(frozen=True)
class Frame:
    """The frame a drawing is lettered for: width and letter size, both in pixels."""

    width: float
    size: float


WIDE = Frame(760.0, 15.0)
NARROW = Frame(350.0, 13.0)


def lay_out(
    drawing: Drawing,
    glass: Frame,
    lit: Collection[str] = (),
    numbers: Mapping[str, int] | None = None,
    *,
    only_lit: bool = False,
) -> Lettered:
    """Names inside where they fit, else outside with a line, else a letter and a key below.

    `lit`: keys of the regions and lines a step touches. `numbers`: the step of each line; only
    lit lines show theirs when something is lit. `only_lit` leaves out outside names
    of what is not lit, for a glance at the block. No two names overlap.
    """
    scale = glass.width / drawing.width
    fixed = _fixed(drawing, glass)
    plates = [replace(plate, is_lit=key in lit) for key, plate in fixed.plates]
    badges = _numbers(drawing, numbers or {}, _Taken(plates, [], lit), scale, glass)
    pins = [pin for pin in fixed.pins if not only_lit or not lit or pin.what.key in lit]
    labels, letters, key, above, below = _outside(
        pins, _Taken(plates, badges, lit), glass, scale, drawing.height * scale
    )
    top = above + (LABEL_ROW if "top" in drawing.ends else 0.0)
    foot = top + drawing.height * scale
    plates = [Plate(p.x, round(p.y + top, 1), p.width, p.height, p.text, p.is_lit) for p in plates]
    ends, under = _ends(drawing, glass, foot + below, below > 0)
    return Lettered(
        glass.width,
        round(foot + below + under, 1),
        glass.size,
        round(scale, 4),
        round(top, 1),
        tuple(plates),
        tuple(_moved(labels, top)),
        _lowered(letters, top),
        tuple(key),
        _lowered(badges, top),
        ends,
    )


@dataclass(frozen=True)
class _Fixed:
    """What no step changes: plates by the key of their region, pins of the names outside."""

    plates: list[tuple[str, Plate]]
    pins: list[_Pin]


@lru_cache(maxsize=512)
def _fixed(drawing: Drawing, glass: Frame) -> _Fixed:
    """Worked out once for each drawing and width: looking for room takes a while."""
    scale = glass.width / drawing.width
    plates: list[tuple[str, Plate]] = []
    outside: list[Region | SeamLine] = []
    for region in drawing.regions:
        if not region.label or region.kind is Kind.GROUND:
            continue
        plate = _plate(region, drawing, glass, scale)
        if plate is None:
            outside.append(region)
        else:
            plates.append((region.key, plate))
    outside += [line for line in drawing.lines if line.label]
    pins: list[_Pin] = []
    for what in outside:
        pins.append(_pin(drawing, what, [plate for _, plate in plates], pins, scale))
    return _Fixed(plates, pins)


def _plate(region: Region, drawing: Drawing, glass: Frame, scale: float) -> Plate | None:
    """The name inside its region, clear of what lies on top of it."""
    width = text_width(region.label, glass.size) + 2 * PLATE_PAD
    height = glass.size + 8
    place = drawing.regions.index(region)
    above = [one for other in drawing.regions[place + 1 :] for one in other.curves]
    found = spot(region.largest.points, width / scale, height / scale, above)
    if found is None:
        return None
    return Plate(
        round(found[0] * scale, 1),
        round(found[1] * scale, 1),
        round(width, 1),
        height,
        region.label,
        False,
    )


@dataclass(frozen=True)
class _Pin:
    """Where the line of an outside name starts, in pixels without the margin."""

    what: Region | SeamLine
    x: float
    y: float
    is_above: bool


@dataclass(frozen=True)
class _Taken:
    """What already stands in the drawing: names on plates, numbers of steps."""

    plates: list[Plate]
    numbers: list[Badge]
    lit: Collection[str]

    def leaves_free(self, x: float, y: float, radius: float, others: list[Badge]) -> bool:
        badges = [*self.numbers, *others]
        return all(math.hypot(b.x - x, b.y - y) > 1.95 * radius for b in badges) and not any(
            abs(p.x - x) < p.width / 2 + radius and abs(p.y - y) < p.height / 2 + radius
            for p in self.plates
        )


def _outside(
    pins: list[_Pin], taken: _Taken, glass: Frame, scale: float, height: float
) -> tuple[list[Label], list[Badge], list[tuple[str, str]], float, float]:
    """Names that found no room inside, above and below; the margins they take."""
    labels: list[Label] = []
    lettered: list[_Pin] = list(pins) if glass.width < WIDE.width else []
    margins = {True: 0.0, False: 0.0}
    for is_above in (True, False):
        group = sorted(
            (p for p in pins if p.is_above is is_above and p not in lettered), key=lambda p: p.x
        )
        while _too_wide(group, glass):
            dropped = max(group, key=lambda p: p.y if is_above else -p.y)
            group.remove(dropped)
            lettered.append(dropped)
        if group:
            margins[is_above] = MARGIN
            labels += _in_a_row(
                group, glass, -MARGIN + glass.size if is_above else height + MARGIN - 6, taken.lit
            )
    letters, key = [], []
    for i, pin in enumerate(sorted(lettered, key=lambda p: (p.y // 40, p.x))):
        x, y = _at(pin.what)
        mark = LETTERS[i]
        letters.append(
            Badge(round(x * scale, 1), round(y * scale, 1), mark, pin.what.key in taken.lit)
        )
        key.append((mark, pin.what.label))
    return labels, _apart(letters, taken, glass, height), key, margins[True], margins[False]


def _too_wide(group: list[_Pin], glass: Frame) -> bool:
    return sum(text_width(p.what.label, glass.size) + GAP for p in group) - GAP > glass.width


def _in_a_row(group: list[_Pin], glass: Frame, y: float, lit: Collection[str]) -> list[Label]:
    """Names in one row, each as near its pin as the others let it, in the order of the pins."""
    wide = [text_width(p.what.label, glass.size) for p in group]
    lefts = [p.x - w / 2 for p, w in zip(group, wide, strict=True)]
    edge = 0.0
    for i, left in enumerate(lefts):
        lefts[i] = max(left, edge)
        edge = lefts[i] + wide[i] + GAP
    edge = glass.width
    for i in range(len(lefts) - 1, -1, -1):
        lefts[i] = min(lefts[i], edge - wide[i])
        edge = lefts[i] - GAP
    end = y + 5 if group[0].is_above else y - glass.size
    return [
        Label(
            round(left + w / 2, 1),
            round(y, 1),
            p.what.label,
            round(w, 1),
            (
                round(p.x, 1),
                round(p.y, 1),
                round(min(max(p.x, left + 8), left + w - 8), 1),
                round(end, 1),
            ),
            p.what.key in lit,
        )
        for p, left, w in zip(group, lefts, wide, strict=True)
    ]


def _apart(letters: list[Badge], taken: _Taken, glass: Frame, height: float) -> list[Badge]:
    """The same badges, each moved a little where it would stand on another or on a plate."""
    placed: list[Badge] = []
    step = glass.size * 0.9
    near = sorted(
        ((i * step, j * step) for i in range(-3, 4) for j in range(-5, 6)),
        key=lambda at: abs(at[0]) * 1.1 + abs(at[1]),
    )
    for badge in letters:
        tries = (
            (
                min(max(badge.x + dx, step), glass.width - step),
                min(max(badge.y + dy, step), height - step),
            )
            for dx, dy in near
        )
        x, y = next(
            (at for at in tries if taken.leaves_free(*at, step, placed)), (badge.x, badge.y)
        )
        placed.append(Badge(round(x, 1), round(y, 1), badge.text, badge.is_lit))
    return placed


def _at(what: Region | SeamLine) -> Point:
    if isinstance(what, SeamLine):
        return what.curve.points[len(what.curve.points) // 2]
    return middle_of(what.largest.points)


def _pin(
    drawing: Drawing, what: Region | SeamLine, plates: list[Plate], others: list[_Pin], scale: float
) -> _Pin:
    """The upright line that leaves the region soonest, past plates and other lines."""
    best: tuple[float, _Pin] | None = None
    for x, y, is_above in _candidates(drawing, what):
        px, py = x * scale, y * scale
        way = py if is_above else (drawing.height - y) * scale
        cost = way
        for plate in plates:
            hit = abs(plate.x - px) < plate.width / 2 + 4
            cost += 400 if hit and ((plate.y < py) is is_above) else 0
        same = [other for other in others if other.is_above is is_above]
        cost += 12 * len(same) + 200 * sum(abs(other.x - px) < 60 for other in same)
        if best is None or cost < best[0]:
            best = (cost, _Pin(what, px, py, is_above))
    if best is None:
        x, y = _at(what)
        return _Pin(what, x * scale, y * scale, y < drawing.height / 2)
    return best[1]


def _candidates(drawing: Drawing, what: Region | SeamLine) -> list[tuple[float, float, bool]]:
    if isinstance(what, SeamLine):
        points = what.curve.points
        some = [points[len(points) * k // 6] for k in range(1, 6)]
        return [(x, y, up) for x, y in some for up in (True, False)]
    left, right, _, _ = what.largest.box
    found = []
    for i in range(1, ANCHORS):
        x = left + (right - left) * i / ANCHORS
        met = crossings(what.largest.points, x)
        if len(met) >= 2:
            deep = min(8.0, (met[1] - met[0]) / 2)
            found += [(x, met[0] + deep, True), (x, met[-1] - deep, False)]
    return found


def _moved(labels: list[Label], top: float) -> list[Label]:
    return [
        Label(
            one.x,
            round(one.y + top, 1),
            one.text,
            one.width,
            (one.line[0], round(one.line[1] + top, 1), one.line[2], round(one.line[3] + top, 1)),
            one.is_lit,
        )
        for one in labels
    ]


def _ends(
    drawing: Drawing, glass: Frame, foot: float, crowded: bool
) -> tuple[tuple[Words, ...], float]:
    """The names of the ends and the height they take below the drawing."""
    words = []
    y = round(foot + glass.size + (8 if crowded else 4), 1)
    named = [
        (anchor, x, shorten(drawing.ends[side], glass.size, glass.width))
        for side, anchor, x in (
            ("left", "start", 0.0),
            ("right", "end", glass.width),
            ("bottom", "middle", glass.width / 2),
        )
        if drawing.ends.get(side)
    ]
    rows: list[list[tuple[float, float]]] = []  # taken of each; an end stays at its own side
    for anchor, x, text in named:
        wide = text_width(text, glass.size)
        start = {"start": x, "end": x - wide, "middle": x - wide / 2}[anchor]
        row = next(
            (
                i
                for i, taken in enumerate(rows)
                if all(start > end + 24 or start + wide + 24 < begin for begin, end in taken)
            ),
            len(rows),
        )
        if row == len(rows):
            rows.append([])
        rows[row].append((start, start + wide))
        words.append(Words(x, round(y + row * LABEL_ROW, 1), text, anchor))
    if "top" in drawing.ends:
        words.append(Words(glass.width / 2, glass.size, drawing.ends["top"], "middle"))
    used = (len(rows) - 1) * LABEL_ROW + glass.size + 14 if rows else 6.0
    return tuple(words), used


def _lowered(badges: list[Badge], by: float) -> tuple[Badge, ...]:
    return tuple(Badge(b.x, round(b.y + by, 1), b.text, b.is_lit) for b in badges)


def _numbers(
    drawing: Drawing, numbers: Mapping[str, int], taken: _Taken, scale: float, glass: Frame
) -> list[Badge]:
    """The step's number at the start of its line, or further along where a name stands there."""
    found: list[Badge] = []
    radius = glass.size * 0.82
    for line in drawing.lines:
        number = numbers.get(line.key)
        if number is None or (taken.lit and line.key not in taken.lit):
            continue
        places = [
            (min(max(x * scale, radius), glass.width - radius), y * scale)
            for x, y in line.curve.points
        ]
        x, y = next((at for at in places if taken.leaves_free(*at, radius, found)), places[0])
        found.append(Badge(round(x, 1), round(y, 1), str(number), line.key in taken.lit))
    return found
