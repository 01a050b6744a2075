"""Other ways to lay out one product: equal weight, equal thickness. Common practice, no published
source: two schools, each right for its own shop.
"""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Sequence
from fractions import Fraction
from itertools import pairwise

from cutting.errors import BadValue
from cutting.layout.solver import NONE, Grid, keeps_limits, made
from cutting.layout.task import ZERO, Layout, Part, Task


def equal_thickness(task: Task, count: int, number: int = 0, first: int = 0) -> Layout:
    """So many slices of one product, all as thick, between the two faces. `first`: the place
    where the knife stands already."""
    grid = Grid(task)
    start, end = _span(task, grid, first, number)
    places = [round(start + (end - start) * Fraction(i, count)) for i in range(count + 1)]
    return _row(task, grid, places, number, first)


def equal_weight(task: Task, count: int, number: int = 0, first: int = 0) -> Layout:
    """So many slices of one product, all as heavy as the grid allows, between the two faces."""
    grid = Grid(task)
    start, end = _span(task, grid, first, number)
    total = grid.cumulative[end] - grid.cumulative[start]
    places = [start]
    for i in range(1, count):
        goal = grid.cumulative[start] + Fraction(total * i, count)
        place = bisect_left(grid.cumulative, goal)
        if goal - grid.cumulative[place - 1] < grid.cumulative[place] - goal:
            place -= 1
        places.append(max(place, places[-1] + 1))
    return _row(task, grid, [*places, end], number, first)


def _span(task: Task, grid: Grid, first: int, number: int) -> tuple[int, int]:
    """The places between the faces, within the stretch of a product."""
    one = task.products[number]
    near = max(task.near, one.start or task.near)
    start = next((i for i in range(first, grid.last) if task.at(i) >= near), grid.last - 1)
    behind = task.profile.length - task.far
    behind = max(behind if one.end is None else min(behind, one.end), task.at(start + 1))
    return start, next(i for i in range(grid.last, -1, -1) if task.at(i) <= behind)


def _row(task: Task, grid: Grid, places: list[int], number: int, first: int) -> Layout:
    """Parts between these places, gaps at the two ends; the kerf is taken off each slice's start."""
    ends = [*([(first, places[0], NONE)] if places[0] > first else [])]
    ends += [(a, b, number) for a, b in pairwise(places)]
    ends += [(places[-1], grid.last, NONE)] if places[-1] < grid.last else []
    parts = []
    for i, (before, end, product) in enumerate(ends):
        start = before + (grid.kerf if i else 0)
        if start >= end:
            continue
        parts.append(made(task, grid, start, end, product))
    return Layout(task, tuple(parts))


def with_marks(layout: Layout, marks: Sequence[int]) -> Layout:
    """The same products with the knife at other places, as a hand has moved them.

    Raises BadValue unless there are as many marks, each behind the one before it and its kerf.
    """
    task, grid = layout.task, Grid(layout.task)
    if len(marks) != len(layout.marks):
        raise BadValue("marks", f"{len(marks)}", f"{len(layout.marks)} are right")
    starts = [0, *(mark + grid.kerf for mark in marks)]
    parts = []
    for part, start, end in zip(layout.parts, starts, [*marks, grid.last], strict=True):
        if not 0 <= start < end <= grid.last:
            raise BadValue(
                "marks", f"{end}", f"a place between {start + 1} and {grid.last} is right"
            )
        parts.append(made(task, grid, start, end, NONE if part.product is None else part.product))
    return Layout(task, tuple(parts))


def is_right(task: Task, part: Part) -> bool:
    """Whether a slice keeps the limits of its product."""
    if part.product is None:
        return True
    thick = Fraction(task.at(part.end)) - Fraction(task.at(part.start))
    return keeps_limits(task, task.products[part.product], part.weight, thick)


def elsewhere(layout: Layout) -> Fraction:
    """Return what of the gaps lies in no product's stretch, in the piece's unit: the layout does not cut
    there, the plan does otherwise. The two faces belong to what is cut."""
    task, grid = layout.task, Grid(layout.task)
    behind = task.profile.length - task.far
    inside = [not task.near <= task.at(place) < behind for place in range(grid.last + 1)]
    for one in task.products:
        start, end = one.start or ZERO, task.profile.length if one.end is None else one.end
        for place in range(grid.last):
            if start <= task.at(place + 1) and task.at(place) <= end:
                inside[place] = True
    gaps = (part for part in layout.parts if part.product is None)
    return sum(
        (
            grid.weight(place, place + 1)
            for part in gaps
            for place in range(part.start, part.end)
            if not inside[place]
        ),
        Fraction(0),
    )


def sold(layout: Layout) -> Fraction:
    """What the parts of a layout bring that may lie outside their limits: laid by another rule, or moved by
    hand."""
    task = layout.task
    return sum(
        (
            part.value
            if part.product is None
            else task.brings(
                task.products[part.product], part.weight, is_right=is_right(task, part)
            )
            for part in layout.parts
        ),
        Fraction(0),
    )


def count_for(task: Task, aim: Fraction, first: int = 0, number: int = 0) -> int:
    """How many slices of about `aim` (in the piece's unit) lie between the faces: at least one."""
    grid = Grid(task)
    start, end = _span(task, grid, first, number)
    return max(round(grid.weight(start, end) / aim), 1)
