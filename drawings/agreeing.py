"""What of a seam drawing cannot be: lines against bones, seams against muscles, cuts against fibers."""

from __future__ import annotations

import math
from collections.abc import Iterator
from itertools import pairwise

from drawings.seams import Drawing, Kind, LineKind, Region, SeamLine
from drawings.shapes import Curve, Point, distance, inside

APART = 2.0
"""How close together a line is looked at, in drawing units."""
ACROSS = (70.0, 110.0)
"""Degrees between a cut and the fibers that it crosses. House rule."""
NEAR = 26.0
"""How far a seam may lie from each of its two muscles, in drawing units: the fat between is drawn."""
DEEP = 7.0
"""How far it may run into one of them."""
MOSTLY = 0.8
"""The share of a line that must be as said: its ends leave the piece."""


def drawing_faults(drawing: Drawing) -> list[str]:
    """Return what cannot be: a knife through a bone, a saw that meets none, a seam that is not between
    the two muscles it names, a cut along the fibers it crosses, two views with one grain."""
    found = [fault for line in drawing.lines for fault in _of_line(drawing, line)]
    return found + [fault for region in drawing.regions for fault in _of_views(drawing, region)]


def _of_line(drawing: Drawing, line: SeamLine) -> Iterator[str]:
    regions = {one.key: one for one in drawing.regions}
    sides = [key.split("/") for key in line.of]
    unknown = [key for side in sides for key in side if key not in regions]
    if unknown:
        yield f"{line.key} names {', '.join(unknown)}, which is not drawn"
        return
    along = _along(line.curve)
    bones = [one for one in drawing.regions if one.kind is Kind.BONE]
    met = [one.key for one in bones if any(_is_in(one, at) for at, _ in along)]
    if line.kind in (LineKind.CUT, LineKind.SEAM) and met:
        yield f"{line.key}, a {line.kind}, crosses {', '.join(met)}"
    if line.kind is LineKind.SAW and not met:
        yield f"{line.key} is sawn and meets no bone"
    if "between" in line.label and "rib" in line.label:
        near = [one.key for one in bones if "rib" in one.key and one.key in met]
        if near:
            yield f"{line.key} is said to be between ribs and crosses one"
    if line.kind is LineKind.SEAM:
        yield from _of_seam(line, [[regions[key] for key in side] for side in sides], along)
    elif line.kind is LineKind.CUT:
        for side in sides:
            for key in side:
                yield from _of_crossing(line, regions[key], along)


def _of_seam(
    line: SeamLine, of: list[list[Region]], along: list[tuple[Point, float]]
) -> Iterator[str]:
    if len(of) != 2:
        yield f"{line.key} is a seam and says not which two it lies between"
        return
    for side in of:
        name = "/".join(one.key for one in side)
        away = [min(_depth(one, at) for one in side) for at, _ in along]
        far = sum(depth > NEAR for depth in away) / len(away)
        deep = sum(depth < -DEEP for depth in away) / len(away)
        if far > 1 - MOSTLY:
            yield f"{line.key} lies away from {name} ({far:.0%} of it)"
        if deep > 1 - MOSTLY:
            yield f"{line.key} runs through {name} ({deep:.0%} of it)"


def _of_crossing(line: SeamLine, region: Region, along: list[tuple[Point, float]]) -> Iterator[str]:
    angles = [
        abs(math.degrees(turn - grain.at(_share(one, at[0])))) % 180
        for one, grain in zip(region.curves, region.grains, strict=True)
        for at, turn in along
        if inside(one.points, *at)
    ]
    if not angles:
        yield f"{line.key} does not cross {region.key}"
    elif sum(ACROSS[0] <= angle <= ACROSS[1] for angle in angles) < MOSTLY * len(angles):
        angles.sort()
        yield f"{line.key} crosses {region.key} at {angles[len(angles) // 2]:.0f}°"


def _of_views(drawing: Drawing, region: Region) -> Iterator[str]:
    """A muscle in two views shows two grains."""
    if not region.grain:
        return
    grains: dict[int, set[tuple[float, float]]] = {}
    for one, grain in zip(region.curves, region.grains, strict=True):
        x, y = (one.box[0] + one.box[1]) / 2, (one.box[2] + one.box[3]) / 2
        for view, (left, right, top, bottom) in enumerate(drawing.views):
            if left <= x <= right and top <= y <= bottom:
                grains.setdefault(view, set()).add((grain.start, grain.end))
    if len(grains) > 1 and len({frozenset(one) for one in grains.values()}) == 1:
        yield f"{region.key} has one grain in {len(grains)} views"


def _along(line: Curve) -> list[tuple[Point, float]]:
    """Points close together on a line, with its direction there in radians."""
    found = []
    for (ax, ay), (bx, by) in pairwise(line.points):
        long = math.hypot(bx - ax, by - ay)
        turn = math.atan2(by - ay, bx - ax)
        for i in range(int(long / APART) + 1 if long else 0):
            share = i * APART / long
            found.append(((ax + (bx - ax) * share, ay + (by - ay) * share), turn))
    return found


def _is_in(region: Region, at: Point) -> bool:
    return any(inside(one.points, *at) for one in region.curves)


def _depth(region: Region, at: Point) -> float:
    """How far a point is from a region; below 0 within it."""
    away = min(distance(one.points, *at) for one in region.curves)
    return -away if _is_in(region, at) else away


def _share(line: Curve, x: float) -> float:
    left, right, _, _ = line.box
    return min(max((x - left) / (right - left or 1), 0), 1)
