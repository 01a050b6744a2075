"""Plane geometry of the seam drawings: smooth outlines, fibres along a grain, room for a label.

Pure and in drawing units. An outline is written "x,y x,y! …": the curve runs smoothly through
the points, and a point marked ! is a corner.
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from cutting.errors import BadValue

Point = tuple[float, float]
Box = tuple[float, float, float, float]
Stroke = tuple[float, float, float, float]
STEPS_A_CURVE = 8
FIBRE, FIBRE_GAP, ROWS_APART = 24.0, 9.0, 8.0
SPOT_TRIES = 22


@dataclass(frozen=True, slots=True)
class Curve:
    """A smooth line: its SVG path, and the same line as points close together."""

    path: str
    points: tuple[Point, ...]

    @property
    def box(self) -> tuple[float, float, float, float]:
        """Least and most x, then least and most y."""
        xs, ys = [p[0] for p in self.points], [p[1] for p in self.points]
        return min(xs), max(xs), min(ys), max(ys)


def brief(number: float) -> str:
    """At most one decimal, none where it is 0: drawings stay small."""
    return f"{number:.1f}".removesuffix(".0")


def read_points(text: str) -> list[tuple[float, float, bool]]:
    """ "10,20 30,40!" → [(10, 20, False), (30, 40, True)]. Raises BadValue."""
    found = []
    for word in text.split():
        try:
            x, y = word.removesuffix("!").split(",")
            found.append((_finite(x), _finite(y), word.endswith("!")))
        except ValueError:
            raise BadValue("outline", f"{word!r} is no point", "x,y or x,y! is right") from None
    if len(found) < 2:
        raise BadValue("outline", f"{text!r} has too few points", "two or more are right")
    return found


def _finite(text: str) -> float:
    number = float(text)
    if not math.isfinite(number):
        raise ValueError(text)
    return number


def curve(text: str, *, closed: bool) -> Curve:
    """The smooth line through the points of `text`; at corners it turns sharply."""
    marks = read_points(text)
    count = len(marks)
    spans = count if closed else count - 1
    path = [f"M{brief(marks[0][0])},{brief(marks[0][1])}"]
    points: list[Point] = [marks[0][:2]]
    for i in range(spans):
        a, b = marks[i], marks[(i + 1) % count]
        before = marks[i - 1] if closed or i else a
        after = marks[(i + 2) % count] if closed or i + 2 < count else b
        one, two = _handle(a, b, before), _handle(b, a, after)
        path.append(
            f"C{brief(one[0])},{brief(one[1])} {brief(two[0])},{brief(two[1])} "
            f"{brief(b[0])},{brief(b[1])}"
        )
        points += _along(a[:2], one, two, b[:2])
    if closed:
        path.append("Z")
        points.pop()
    return Curve("".join(path), tuple(points))


def _handle(
    at: tuple[float, float, bool], to: tuple[float, float, bool], other: tuple[float, float, bool]
) -> Point:
    """The Bézier handle at `at` of the span toward `to`; `other` is the neighbour behind it."""
    if at[2]:
        return at[0] + (to[0] - at[0]) / 4, at[1] + (to[1] - at[1]) / 4
    dx, dy = to[0] - other[0], to[1] - other[1]
    span = math.hypot(to[0] - at[0], to[1] - at[1])
    long = math.hypot(dx, dy) or 1.0
    reach = min(1 / 6, span / 3 / long)
    return at[0] + dx * reach, at[1] + dy * reach


def _along(a: Point, one: Point, two: Point, b: Point) -> Iterator[Point]:
    for i in range(1, STEPS_A_CURVE + 1):
        t = i / STEPS_A_CURVE
        u = 1 - t
        k = (u**3, 3 * u * u * t, 3 * u * t * t, t**3)
        yield (
            k[0] * a[0] + k[1] * one[0] + k[2] * two[0] + k[3] * b[0],
            k[0] * a[1] + k[1] * one[1] + k[2] * two[1] + k[3] * b[1],
        )


def area(points: Sequence[Point]) -> float:
    """Area inside a closed line, in square drawing units."""
    total = 0.0
    for i, (x, y) in enumerate(points):
        nx, ny = points[(i + 1) % len(points)]
        total += x * ny - nx * y
    return abs(total) / 2


def centre(points: Sequence[Point]) -> Point:
    """The middle of the area inside a closed line; of the points when it has no area."""
    total = x = y = 0.0
    for i, (ax, ay) in enumerate(points):
        bx, by = points[(i + 1) % len(points)]
        part = ax * by - bx * ay
        total, x, y = total + part, x + (ax + bx) * part, y + (ay + by) * part
    if abs(total) < 1e-9:
        return sum(p[0] for p in points) / len(points), sum(p[1] for p in points) / len(points)
    return x / (3 * total), y / (3 * total)


def inside(points: Sequence[Point], x: float, y: float) -> bool:
    """Whether a point lies inside a closed line (even-odd)."""
    found = False
    ax, ay = points[-1]
    for bx, by in points:
        if (ay > y) != (by > y) and x < (bx - ax) * (y - ay) / (by - ay) + ax:
            found = not found
        ax, ay = bx, by
    return found


def distance(points: Sequence[Point], x: float, y: float) -> float:
    """How far a point is from a closed line, from inside or outside."""
    found = math.inf
    ax, ay = points[-1]
    for bx, by in points:
        dx, dy = bx - ax, by - ay
        share = ((x - ax) * dx + (y - ay) * dy) / (dx * dx + dy * dy or 1.0)
        share = min(max(share, 0.0), 1.0)
        found = min(found, math.hypot(ax + dx * share - x, ay + dy * share - y))
        ax, ay = bx, by
    return found


def crossings(points: Sequence[Point], x: float) -> list[float]:
    """The y where the upright through `x` meets a closed line, from top to bottom."""
    found = []
    ax, ay = points[-1]
    for bx, by in points:
        if (ax > x) != (bx > x):
            found.append(ay + (by - ay) * (x - ax) / (bx - ax))
        ax, ay = bx, by
    return sorted(found)


@dataclass(frozen=True, slots=True)
class Grain:
    """Direction of the fibres in degrees, 0 along x, turning from `start` to `end` across x."""

    start: float
    end: float

    @classmethod
    def read(cls, text: str) -> Grain:
        """ "30" or "60>120". Raises BadValue."""
        try:
            first, _, last = text.partition(">")
            found = cls(_finite(first), _finite(last or first))
        except ValueError:
            found = None
        if found is None or max(abs(found.start), abs(found.end)) > 360:
            raise BadValue("grain", f"{text!r} is no angle", "30 or 60>120 is right")
        return found

    def at(self, share: float) -> float:
        """The direction in radians, `share` of the way across."""
        return math.radians(self.start + (self.end - self.start) * share)


def fibres(line: Curve, grain: Grain) -> list[Stroke]:
    """Short strokes along the grain, all inside the line, in rows like the fibres of meat."""
    left, right, top, bottom = line.box
    mid = grain.at(0.5)
    along, across = (math.cos(mid), math.sin(mid)), (-math.sin(mid), math.cos(mid))
    middle = ((left + right) / 2, (top + bottom) / 2)
    reach = math.hypot(right - left, bottom - top) / 2
    strokes = []
    rows = int(reach // ROWS_APART) + 1
    for row in range(-rows, rows + 1):
        at = -reach + (row * 0.618 % 1) * (FIBRE + FIBRE_GAP)
        while at < reach:
            long = FIBRE * (0.72 + 0.5 * ((row * 7 + at * 13) * 0.381 % 1))
            x = middle[0] + along[0] * at + across[0] * row * ROWS_APART
            y = middle[1] + along[1] * at + across[1] * row * ROWS_APART
            turn = grain.at(min(max((x - left) / (right - left or 1), 0), 1))
            dx, dy = math.cos(turn) * long / 2, math.sin(turn) * long / 2
            if all(inside(line.points, x + k * dx, y + k * dy) for k in (-1.15, 0.0, 1.15)):
                strokes.append((x - dx, y - dy, 2 * dx, 2 * dy))
            at += FIBRE + FIBRE_GAP
    return strokes


def spot(
    points: Sequence[Point], width: float, height: float, avoid: Sequence[Curve] = ()
) -> Point | None:
    """Middle of a place for a box of this size well inside a closed line, None where none fits.

    The place nearest the middle of the outline is taken; what is in `avoid` lies on top of it.
    """
    xs, ys = [p[0] for p in points], [p[1] for p in points]
    left, right, top, bottom = min(xs), max(xs), min(ys), max(ys)
    middle = centre(points)
    near = [
        one
        for one in avoid
        if one.box[0] < right and one.box[1] > left and one.box[2] < bottom and one.box[3] > top
    ]
    places = [
        (left + (right - left) * i / SPOT_TRIES, top + (bottom - top) * j / SPOT_TRIES)
        for i in range(1, SPOT_TRIES)
        for j in range(1, SPOT_TRIES)
    ]
    places.sort(key=lambda at: math.hypot(at[0] - middle[0], at[1] - middle[1]))
    for x, y in places:
        box = (x, y, width / 2, height / 2)
        if _fits(points, box) and not any(_meets(one.points, box) for one in near):
            return x, y
    return None


def _around(box: Box) -> list[Point]:
    x, y, dx, dy = box
    return [(x + dx * k / 3, y + s * dy) for k in range(-3, 4) for s in (-1, 1)]


def _touches(points: Sequence[Point], box: Box) -> bool:
    x, y, dx, dy = box
    return any(abs(px - x) < dx and abs(py - y) < dy for px, py in points)


def _fits(points: Sequence[Point], box: Box) -> bool:
    return all(inside(points, *one) for one in _around(box)) and not _touches(points, box)


def _meets(points: Sequence[Point], box: Box) -> bool:
    return any(inside(points, *one) for one in _around(box)) or _touches(points, box)


def middle_of(points: Sequence[Point]) -> Point:
    """A point surely inside, far from the edge: where a small mark may stand."""
    for size in (40.0, 28.0, 18.0, 10.0, 5.0, 2.0):
        found = spot(points, size, size)
        if found is not None:
            return found
    return points[0]
