"""A task as plain text and numbers, to be kept beside a test and read back the same."""

from __future__ import annotations

from dataclasses import fields
from decimal import Decimal
from fractions import Fraction
from typing import Any

from cutting.layout.follow import Asked
from cutting.layout.profile import Profile, Section, Station
from cutting.layout.task import Slice, Task, Zone
from cutting.quantities import Unit, UnitPrice, Weight


def plain_task(task: Task) -> dict[str, Any]:
    """For JSON; `task_of` reads it."""
    return {
        "weight": _plain(task.weight),
        "section": task.profile.section.value,
        "stations": [_row(one) for one in task.profile.stations],
        "products": [_row(one) for one in task.products],
        "zones": [_row(one) for one in task.zones],
        "bone_cuts": None if task.bone_cuts is None else [str(one) for one in task.bone_cuts],
        "rest": _plain(task.rest),
        **{name: str(getattr(task, name)) for name in LENGTHS},
    }


LENGTHS = ("step", "kerf", "near", "far", "least_gap")


def task_of(data: dict[str, Any]) -> Task:
    """The task that `plain_task` wrote."""
    cuts = data["bone_cuts"]
    stations = tuple(Station(**_read(one)) for one in data["stations"])
    return Task(
        _weight(data["weight"]),
        Profile(Section(data["section"]), stations),
        tuple(Slice(**_read(one)) for one in data["products"]),
        zones=tuple(Zone(**_read(one)) for one in data["zones"]),
        rest=None if data["rest"] is None else UnitPrice.of(*data["rest"]),
        bone_cuts=None if cuts is None else tuple(Decimal(one) for one in cuts),
        **{name: Decimal(data[name]) for name in LENGTHS},
    )


def plain_asked(asked: Asked) -> dict[str, Any]:
    """For JSON; `asked_of` reads it."""
    return _row(asked) | {"expected": str(asked.expected)}


def asked_of(data: dict[str, Any]) -> Asked:
    """What `plain_asked` wrote."""
    return Asked(**_read({**data, "expected": None}) | {"expected": Fraction(data["expected"])})


WEIGHTS = ("lightest", "heaviest", "aim")
SIZES = {"at", "width", "height", "area", "start", "end", "share", "thinnest", "thickest", "each"}
DECIMALS = SIZES | {"lost", "thick", "before"}


def _row(one: Any) -> dict[str, Any]:
    return {each.name: _plain(getattr(one, each.name)) for each in fields(one)}


def _plain(value: Any) -> Any:
    if isinstance(value, Weight):
        return [str(value.value), value.unit.value]
    if isinstance(value, UnitPrice):
        return [str(value.amount), value.per.value]
    return str(value) if isinstance(value, Decimal) else value


def _read(row: dict[str, Any]) -> dict[str, Any]:
    return {name: _value(name, value) for name, value in row.items()}


def _value(name: str, value: Any) -> Any:
    if value is None:
        return None
    if name in WEIGHTS:
        return _weight(value)
    if name in ("price", "outside"):
        return UnitPrice.of(*value)
    return Decimal(value) if name in DECIMALS else value


def _weight(value: list[str]) -> Weight:
    return Weight(Decimal(value[0]), Unit(value[1]))
