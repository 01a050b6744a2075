"""The part of a day that says who is there: cutters, machines, washes, the freezer, the grinder, bags
cut by two ways. Left out, hands are alike and bags are cut whole. See docs/formats/day.md."""

from __future__ import annotations

from collections.abc import Container
from decimal import Decimal
from typing import Any

from cutting.planning.day import Day, DayFigures, DayWay
from cutting.planning.hands import MOST_CUTTERS, SET_UP, WAIT, WASH, Block, Cutter, Grind
from cutting.planning.hands_solver import balanced
from cutting.planning.mixing import FEWEST_STEPS, MOST_STEPS, mixed
from cutting.quantities import ONE, ZERO, working
from cutting.sheet.machines import Machine
from formats.reading import Reader, what
from formats.result import plain

MACHINES = frozenset(one.value for one in Machine)


def read_block(
    read: Reader, top: dict[str, Any], ways: Container[str], products: Container[str]
) -> Block | None:
    """None where it is left out, or where something is wrong with it."""
    if "block" not in top:
        return None
    path, before = "$.block", len(read.faults)
    data = read.object(top["block"], path)
    cutters = [
        _cutter(read, read.object(row, f"{path}.cutters[{i}]"), f"{path}.cutters[{i}]", ways)
        for i, row in enumerate(read.list(data.get("cutters"), f"{path}.cutters"))
    ]
    known = tuple(one for one in cutters if one is not None)
    names = [one.name for one in known]
    for i, name in enumerate(names):
        if name in names[:i]:
            wrong = f"{name!a} stands there twice"
            read.fault(f"{path}.cutters[{i}].name", wrong, "each once is right")
    if not 1 <= len(cutters) <= MOST_CUTTERS:
        read.fault(f"{path}.cutters", f"{len(cutters)}", f"1 to {MOST_CUTTERS} are right")
    wash, saw, wait = (
        read.decimal(data, key, path, "0 or more") if key in data else usual
        for key, usual in (("wash", WASH), ("saw", SET_UP), ("wait", WAIT))
    )
    freezer = read.weight(data, "freezer", path) if "freezer" in data else None
    grind = _grind(read, data, path, products) if "grind" in data else None
    if len(read.faults) > before or wash is None or saw is None or wait is None:
        return None
    return Block(known, wash, saw, wait, freezer, grind)


def _cutter(read: Reader, row: dict[str, Any], path: str, ways: Container[str]) -> Cutter | None:
    name, minutes = read.text(row, "name", path), read.decimal(row, "minutes", path, "above 0")
    machines = machines_of(read, row, path)
    own: frozenset[str] | None = None
    if "ways" in row:
        found = read.list(row["ways"], f"{path}.ways")
        for i, way in enumerate(found):
            if not isinstance(way, str) or way not in ways:
                read.fault(f"{path}.ways[{i}]", what(way), "the id of one of the ways is right")
        own = frozenset(way for way in found if isinstance(way, str))
    return Cutter(name, minutes, machines, own) if name and minutes else None


def machines_of(read: Reader, row: dict[str, Any], path: str) -> frozenset[str]:
    """The machines a row names; none where it names none."""
    found = read.list(row["machines"], f"{path}.machines") if "machines" in row else []
    for i, one in enumerate(found):
        if not isinstance(one, str) or one not in MACHINES:
            right = f"one of {', '.join(sorted(MACHINES))} is right"
            read.fault(f"{path}.machines[{i}]", what(one), right)
    return frozenset(one for one in found if isinstance(one, str))


def _grind(read: Reader, data: dict[str, Any], path: str, products: Container[str]) -> Grind | None:
    where = f"{path}.grind"
    row = read.object(data["grind"], where)
    names = read.list(row.get("products"), f"{where}.products")
    for i, name in enumerate(names):
        if name not in products:
            wrong, right = what(name), "one of the products is right"
            read.fault(f"{where}.products[{i}]", wrong, right)
    minutes = read.decimal(row, "minutes", where, "0 or more")
    per_lb = read.decimal(row, "minutes_per_lb", where, "0 or more")
    if minutes is None or per_lb is None:
        return None
    return Grind(frozenset(name for name in names if isinstance(name, str)), minutes, per_lb)


def read_steps(read: Reader, top: dict[str, Any]) -> int:
    """Into how many equal steps a bag may be split; 1 for whole bags."""
    block = top.get("block")
    steps = block.get("steps", 1) if isinstance(block, dict) else 1
    if isinstance(steps, bool) or not isinstance(steps, int) or not 1 <= steps <= MOST_STEPS:
        read.fault("$.block.steps", what(steps), f"1 to {MOST_STEPS} is right")
        return 1
    return steps


def in_steps(day: Day, steps: int) -> Day:
    return mixed(day, steps) if steps >= FEWEST_STEPS else day


def write_hands(day: Day, found: DayFigures) -> dict[str, Any]:
    """Who does what, what is lost at the block, and the ways that are made of others."""
    if day.block is None or found.hands is None:
        return {}
    with working():
        ground = day.ground({line.product.name: line.made for line in found.products})
    hands = balanced(day.block, day.tasks(found.choice, ground), found.hands)
    used = sorted({way for way in found.choice if way is not None})
    return {
        "hands": [
            {
                "cutter": day.block.cutters[one.cutter].name,
                "way": one.way,
                "minutes": plain(one.minutes),
            }
            for one in hands.shares
        ],
        "lost": plain(hands.extra),
        "ground": plain(ground),
        "made_of": [_made_of(day.ways[way]) for way in used if day.ways[way].parts],
    }


def _made_of(way: DayWay) -> dict[str, Any]:
    found: dict[str, Any] = {
        "id": way.id,
        "name": way.name,
        "parts": [{"way": own, "part": plain(part)} for own, part in way.parts],
        "minutes": plain(way.minutes),
        "minutes_per_lb": plain(way.minutes_per_lb),
    }
    if way.part < ONE:
        with working():
            found["back"] = plain(ONE - way.part)
    return found


def nobody_can(day: Day) -> list[tuple[str, Decimal]]:
    """Bags that must be cut and that nobody who is there may cut, with their minutes."""
    if day.block is None:
        return []
    found = []
    for bag in day.bags:
        ways = [day.ways[day.by_id[one]] for one in bag.ways]
        if bag.must and not any(
            cutter.may(way.task()) for way in ways for cutter in day.block.cutters
        ):
            found.append((bag.id, min((day.minutes_of(bag, way) for way in ways), default=ZERO)))
    return found
