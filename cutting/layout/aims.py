"""The aims of a layout: most money, least give-away, equal weight, equal thickness."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from decimal import Decimal
from enum import StrEnum
from fractions import Fraction

from cutting.errors import BadValue
from cutting.layout.solver import LOST, NONE, NoLayout, Search, lay_out, made, plain_rule
from cutting.layout.task import Layout, Slice, Task
from cutting.layout.ways import count_for, equal_thickness, equal_weight, is_right
from cutting.quantities import Weight, working


class Aim(StrEnum):
    MONEY = "money"
    GIVE_AWAY = "give_away"
    WEIGHT = "weight"
    THICKNESS = "thickness"


def lay_out_for(
    task: Task, aim: Aim, first: int = 0, cut: Mapping[str, int] | None = None
) -> Layout:
    """The layout of a whole piece, or of what lies behind the place `first` when so many portions
    of each name are `cut` already. Its parts begin at `first`.

    Raises NoLayout, or BadValue where a product has no limit that the aim goes by.
    """
    if aim in (Aim.MONEY, Aim.GIVE_AWAY) or task.bone_cuts is not None:
        if aim is Aim.MONEY and not first and not cut:
            return lay_out(task)
        return _by_money(task, aim, first, cut or {})
    if task.last - first < 1:
        return Layout(task, ())
    return _equal(task, aim, first)


def _by_money(task: Task, aim: Aim, first: int, cut: Mapping[str, int]) -> Layout:
    kinds = _sides_of_target(task) if aim is Aim.GIVE_AWAY else None
    asked = replace(task, products=tuple(one for one, _, _ in kinds)) if kinds else task
    search = Search(asked, first, [value for _, value, _ in kinds] if kinds else None)
    code = search.counting.code(cut)
    if code == NONE or search.any_part[code][first] <= LOST:
        if not first and not cut:
            lay_out(task)  # which says why
        raise NoLayout((BadValue("products", "not enough is left", "lower counts are right"),))
    parts = search.parts(first, code)
    if kinds:
        numbers = [number for _, _, number in kinds]
        parts = tuple(
            made(
                task,
                search.grid,
                part.start,
                part.end,
                NONE if part.product is None else numbers[part.product],
            )
            for part in parts
        )
    return Layout(task, parts, plain_rule(task) if not first else None)


def target_of(one: Slice) -> Weight | None:
    """The aim of a portion, else the middle of its band."""
    if one.aim is not None or one.lightest is None or one.heaviest is None:
        return one.aim
    unit = one.lightest.unit
    with working():
        return Weight((one.lightest.value + one.heaviest.to(unit)) / 2, unit)


def _sides_of_target(task: Task) -> list[tuple[Slice, tuple[Fraction, Fraction], int]]:
    """Each product as two: up to its target, worth what it brings; over it, where every bit more
    counts as lost as every bit too little. With what they count as, and their number."""
    found: list[tuple[Slice, tuple[Fraction, Fraction], int]] = []
    for number, one in enumerate(task.products):
        aim = target_of(one)
        slope, fixed = task.value_of(one)
        if aim is None:
            found.append((one, (slope, fixed), number))
            continue
        whole = task.in_unit(aim) / one.kept
        """What a slice weighs whose portions meet their target."""
        worth = slope * whole + fixed
        per = worth / whole if fixed else slope
        low, high = one.lightest or Weight(Decimal(0), aim.unit), one.heaviest
        if task.in_unit(low) <= task.in_unit(aim):
            found.append((replace(one, lightest=low, heaviest=aim), (slope, fixed), number))
        if high is None or task.in_unit(aim) <= task.in_unit(high):
            heavy = replace(one, lightest=aim)
            found.append((heavy, (-per, worth + per * whole), number))
    return found


def _equal(task: Task, aim: Aim, first: int) -> Layout:
    """Equal weight or thickness of the first name, in as many as its middle asks for; by that of
    its kinds of slices which brings most within its limits."""
    name = task.products[0].name
    numbers = [i for i, one in enumerate(task.products) if one.name == name]
    found = [_equal_of(task, aim, first, number) for number in numbers]
    return max(found, key=_within_limits)


def _within_limits(layout: Layout) -> Fraction:
    values = (part.value for part in layout.slices if is_right(layout.task, part))
    return sum(values, Fraction(0))


def _equal_of(task: Task, aim: Aim, first: int, number: int) -> Layout:
    one = task.products[number]
    target = target_of(one)
    if target is not None:
        count = count_for(task, task.in_unit(target) / one.kept, first, number)
    elif one.thinnest is not None and one.thickest is not None:
        near = max(task.near, task.at(first), one.start or task.near)
        behind = task.profile.length - task.far
        length = (behind if one.end is None else min(behind, one.end)) - near
        count = max(round(length / ((one.thinnest + one.thickest) / 2)), 1)
    else:
        raise BadValue(one.name, "neither weight nor thickness", "one of them is needed")
    laid = equal_weight if aim is Aim.WEIGHT else equal_thickness
    return laid(task, count, number, first)
