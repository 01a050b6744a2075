"""What `blend` reads and prints: tubs, batches, and the cheapest way to make them. See
docs/formats/blend.md."""

from __future__ import annotations

from collections.abc import Callable
from decimal import Decimal
from enum import StrEnum
from typing import Any, TypeVar

from cutting.errors import BadDocument
from cutting.grinding.blend import Batch, BatchFigures, Blend, Blended, Kind, Rule, Tub
from cutting.quantities import ONE, ZERO, Unit, Weight, working
from cutting.sheet.cutting_test import same_name
from formats.reading import Reader, check_head, what
from formats.result import plain

FORMAT, VERSION = "mindful-tally.blend", 1
HALF = Decimal("0.5")
Word = TypeVar("Word", bound=StrEnum)


def read_blend(data: Any) -> Blend:
    """Raises BadDocument with every fault found."""
    read = Reader()
    top = read.object(data, "$")
    check_head(read, top, FORMAT, VERSION)
    tubs = _rows(read, top, "tubs", _tub)
    batches = _rows(read, top, "batches", _batch)
    if read.faults:
        raise BadDocument(tuple(read.faults))
    return Blend(tuple(tubs), tuple(batches))


Row = TypeVar("Row", Tub, Batch)


def _rows(
    read: Reader,
    top: dict[str, Any],
    key: str,
    one: Callable[[Reader, dict[str, Any], str], Row | None],
) -> list[Row]:
    """At least one; names are there once."""
    path = f"$.{key}"
    rows = read.list(top.get(key), path)
    if isinstance(top.get(key), list) and not rows:
        read.fault(path, "is empty", "at least one is right")
    found: list[Row] = []
    names: set[str] = set()
    for i, row in enumerate(rows):
        own = one(read, read.object(row, f"{path}[{i}]"), f"{path}[{i}]")
        if own is None:
            continue
        if same_name(own.name) in names:
            wrong = f"{own.name!a} stands there twice"
            read.fault(f"{path}[{i}].name", wrong, "each name once is right")
        names.add(same_name(own.name))
        found.append(own)
    return found


def _tub(read: Reader, row: dict[str, Any], path: str) -> Tub | None:
    before = len(read.faults)
    name, species = read.text(row, "name", path), read.text(row, "species", path)
    kind = _word(read, row, "kind", path, Kind)
    weight, cost = read.weight(row, "weight", path), read.price(row, "cost", path, "0 or more")
    lean = _share(read, row, "lean", path)
    spread = _share(read, row, "lean_sd", path) if "lean_sd" in row else ZERO
    primal = read.text(row, "primal", path) if "primal" in row else ""
    must = read.flag(row, "must", path)
    if kind is None or weight is None or cost is None or lean is None or spread is None:
        return None
    if len(read.faults) > before:
        return None
    return Tub(name, species, kind, weight, lean, cost, spread, primal, must)


def _batch(read: Reader, row: dict[str, Any], path: str) -> Batch | None:
    before = len(read.faults)
    name, rule = read.text(row, "name", path), _word(read, row, "rule", path, Rule)
    weight = read.weight(row, "weight", path)
    fat = read.object(row.get("fat"), f"{path}.fat")
    least, most = (
        (_share(read, fat, key, f"{path}.fat") for key in ("least", "most"))
        if isinstance(row.get("fat"), dict)
        else (None, None)
    )
    if least is not None and most is not None and least > most:
        read.fault(f"{path}.fat.least", f"{least:f}", f"at most {most:f} is right")
    primal = read.text(row, "primal", path) if "primal" in row else ""
    no_ends = read.flag(row, "no_ends", path)
    limit = _share(read, row, "limit", path) if "limit" in row else None
    chance = read.decimal(row, "chance", path, "above 0") if "chance" in row else None
    for key, other in (("limit", "chance"), ("chance", "limit")):
        if key in row and other not in row:
            read.fault(f"{path}.{other}", "is missing", f"beside {key} it is right")
    if chance is not None and chance > HALF:
        read.fault(f"{path}.chance", f"{chance:f}", "at most 0.5 is right")
    if len(read.faults) > before or rule is None or weight is None or least is None or most is None:
        return None
    return Batch(name, rule, weight, least, most, primal, no_ends, limit, chance)


def _share(read: Reader, row: dict[str, Any], key: str, path: str) -> Decimal | None:
    value = read.decimal(row, key, path, "0 or more")
    if value is not None and value > ONE:
        read.fault(f"{path}.{key}", f"{value:f}", "at most 1 is right")
        return None
    return value


def _word(read: Reader, row: dict[str, Any], key: str, path: str, kind: type[Word]) -> Word | None:
    value = row.get(key)
    if not (isinstance(value, str) and value in kind.__members__.values()):
        right = f"{', '.join(kind.__members__.values())}: one of them is right"
        read.fault(f"{path}.{key}", what(value, key in row), right)
        return None
    return kind(value)


def write_blend(blend: Blend, found: Blended) -> dict[str, Any]:
    """What `blend` prints."""
    return {
        "cost": plain(found.cost),
        "batches": [
            _written(blend, batch, own)
            for batch, own in zip(blend.batches, found.batches, strict=True)
        ],
        "worth": [
            {"tub": blend.tubs[t].name, "amount": plain(amount), "per": "lb"}
            for t, amount in sorted(found.worth.items())
        ],
        "left": [
            {"tub": tub.name, "weight": _weight(pounds, tub.weight.unit)}
            for tub, pounds in zip(blend.tubs, found.left, strict=True)
            if pounds > LEAST_TOLD
        ],
    }


LEAST_TOLD = Decimal("1e-15")
"""Pounds: what is less is nothing."""


def _weight(pounds: Decimal, unit: Unit) -> dict[str, str]:
    return {"value": plain(Weight(pounds, Unit.LB).to(unit)), "unit": unit.value}


def _written(blend: Blend, batch: Batch, own: BatchFigures) -> dict[str, Any]:
    unit = batch.weight.unit
    with working():
        cost_per_unit = own.cost / batch.weight.value
    return {
        "name": batch.name,
        "take": [
            {"tub": blend.tubs[t].name, "weight": _weight(pounds, unit)}
            for t, pounds in sorted(own.take.items())
        ],
        "fat": plain(own.fat),
        "fat_sd": plain(own.fat_sd),
        "chance_over": None if own.chance_over is None else plain(own.chance_over),
        "cost": plain(own.cost),
        "cost_per_unit": plain(cost_per_unit),
    }
