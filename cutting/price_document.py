"""What `price` reads and prints: a cutting test document with its `pricing`, and the prices.

See docs/formats/price.md. Reading reports every fault with its JSON path.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from decimal import Decimal
from typing import Any

from cutting.building import Adder, Aim, Built, Line, Priced, each_alone, solve, with_adders
from cutting.costing import School, unit_costs
from cutting.cutting_test import CuttingTest, Output, same_name
from cutting.document import Document, Reader, read_document, what
from cutting.errors import BadDocument, BadValue
from cutting.pricing import Convention, Loads, Whole
from cutting.quantities import (
    HUNDRED,
    ZERO,
    Band,
    Direction,
    EndingRule,
    Unit,
    UnitPrice,
    Weight,
    working,
)
from cutting.result import plain
from cutting.sheet import compute

PIECE, EACH = "piece", "each"
SHARE = 'a share below 1 such as "0.42" is right'


@dataclass(frozen=True, slots=True)
class Wishes:
    """One product's own wishes in the document."""

    rung: UnitPrice | None = None
    lock: UnitPrice | None = None
    target: Decimal | None = None
    floor: Decimal | None = None
    loads: Loads = field(default_factory=Loads)
    adders: tuple[Adder, ...] = ()


@dataclass(frozen=True, slots=True)
class Pricing:
    """How the outputs of a test are to be priced."""

    aim: Aim
    way: str
    school: School
    endings: EndingRule
    floor: Decimal | None
    tax: Decimal
    wishes: Mapping[str, Wishes]
    """By the output's name, folded."""


def read_pricing(data: Any) -> tuple[Document, Pricing]:
    """The document and its `pricing`. Raises BadDocument with every fault found."""
    document = read_document(data)
    read = Reader()
    holder = read.object(data["pricing"], "$.pricing") if "pricing" in data else None
    if holder is None:
        read.fault("$.pricing", "is missing", 'an object with a "target" is right')
        raise BadDocument(tuple(read.faults))
    path = "$.pricing"
    target = read.decimal(holder, "target", path, "0 or more")
    by = _choice(read, holder, "by", [c.value for c in Convention], Convention.MARGIN.value)
    way = _choice(read, holder, "way", [PIECE, EACH], PIECE)
    school = _choice(read, holder, "school", [s.value for s in School], School.SALES_VALUE.value)
    endings = _endings(read, holder)
    floor = _share(read, holder, "floor", path)
    tax = _share(read, holder, "tax", path)
    wishes = _products(read, holder, document.test)
    aim = None
    if target is not None:
        aim = Aim(target, Convention(by))
        try:
            _ = aim.margin
        except BadValue as bad:
            read.fault(f"{path}.target", bad.wrong, bad.right)
    if read.faults or aim is None or endings is None:
        raise BadDocument(tuple(read.faults))
    return document, Pricing(aim, way, School(school), endings, floor, tax or ZERO, wishes)


def _choice(read: Reader, holder: dict[str, Any], key: str, known: list[str], usual: str) -> str:
    value = holder.get(key, usual)
    if value in known and isinstance(value, str):
        return value
    right = f"{', '.join(known[:-1])} or {known[-1]} is right"
    read.fault(f"$.pricing.{key}", what(value), right)
    return usual


def _share(read: Reader, holder: dict[str, Any], key: str, path: str) -> Decimal | None:
    if key not in holder:
        return None
    value = read.decimal(holder, key, path, "0 or more")
    if value is not None and value >= 1:
        read.fault(f"{path}.{key}", f"{value} is too much", SHARE)
    return value


def _endings(read: Reader, holder: dict[str, Any]) -> EndingRule | None:
    """`endings`: bands from low to high. Without them every cent is allowed, nearest."""
    way = _choice(read, holder, "direction", [d.value for d in Direction], Direction.NEAREST.value)
    if "endings" not in holder:
        cent = Decimal("0.01")
        return EndingRule((Band(None, (ZERO,), cent),), Direction(way))
    bands, before = [], len(read.faults)
    for i, entry in enumerate(read.list(holder["endings"], "$.pricing.endings")):
        path = f"$.pricing.endings[{i}]"
        inner = read.object(entry, path)
        under = read.decimal(inner, "under", path, "above 0") if "under" in inner else None
        values = read.list(inner.get("endings"), f"{path}.endings")
        each = [
            read.decimal({str(j): value}, str(j), f"{path}.endings", "0 or more")
            for j, value in enumerate(values)
        ]
        try:
            bands.append(Band(under, tuple(one for one in each if one is not None)))
        except BadValue as bad:
            read.fault(path, bad.wrong, bad.right)
    if len(read.faults) > before:
        return None
    try:
        return EndingRule(tuple(bands), Direction(way))
    except BadValue as bad:
        read.fault("$.pricing.endings", bad.wrong, bad.right)
        return None


def _products(read: Reader, holder: dict[str, Any], test: CuttingTest) -> dict[str, Wishes]:
    known = {same_name(o.name) for o in test.outputs if o.goes_to_case}
    found: dict[str, Wishes] = {}
    for i, entry in enumerate(read.list(holder.get("products", []), "$.pricing.products")):
        path = f"$.pricing.products[{i}]"
        inner = read.object(entry, path)
        name = read.text(inner, "name", path)
        if name and same_name(name) not in known:
            read.fault(f"{path}.name", what(name), "an output that goes to the case is right")
        elif same_name(name) in found:
            read.fault(f"{path}.name", what(name), "each product once is right")
        found[same_name(name)] = _wishes(read, inner, path)
    return found


def _wishes(read: Reader, inner: dict[str, Any], path: str) -> Wishes:
    loads = {
        key: (read.decimal(inner, key, path, "0 or more") if key in inner else ZERO) or ZERO
        for key in ("labour", "packaging")
    }
    shrink = _share(read, inner, "shrink", path) or ZERO
    adders = []
    for i, entry in enumerate(read.list(inner.get("adders", []), f"{path}.adders")):
        here = f"{path}.adders[{i}]"
        holder = read.object(entry, here)
        amounts = {
            key: (read.decimal(holder, key, here, "0 or more") if key in holder else ZERO) or ZERO
            for key in ("price", "minutes", "material", "pick_up")
        }
        try:
            adders.append(Adder(read.text(holder, "name", here), **amounts))
        except BadValue as bad:
            read.fault(here, bad.wrong, bad.right)
    return Wishes(
        read.price(inner, "rung", path) if "rung" in inner else None,
        read.price(inner, "lock", path) if "lock" in inner else None,
        _share(read, inner, "target", path), _share(read, inner, "floor", path),
        Loads(shrink=min(shrink, Decimal("0.99")), **loads), tuple(adders),
    )  # fmt: skip


def build(test: CuttingTest, pricing: Pricing) -> Built:
    """The prices the document asks for."""
    sheet = compute(test)
    unit, found = sheet.figures.unit, sheet.figures
    costs = unit_costs(test, found, sheet.costing, pricing.school)
    lines = [
        _line(output, Weight(figures.weight, unit), cost, pricing, test.labour_rate or ZERO)
        for output, figures, cost in zip(test.outputs, found.outputs, costs, strict=True)
        if output.goes_to_case
    ]
    if pricing.way == EACH:
        return each_alone(found.cost, lines)
    return solve(found.cost, lines, pricing.aim)


def _line(
    output: Output, weight: Weight, cost: Decimal | None, pricing: Pricing, rate: Decimal
) -> Line:
    wish = pricing.wishes.get(same_name(output.name), Wishes())
    rung = wish.rung or output.retail
    said = wish.lock or rung
    per = weight.unit if said is None else said.per
    line = Line(
        output.name, weight.to(per),
        None if cost is None else UnitPrice(cost, weight.unit).to(per),
        None if rung is None else rung.to(per), pricing.endings, per,
        locked=None if wish.lock is None else wish.lock.to(per),
        floor=pricing.floor if wish.floor is None else wish.floor, loads=wish.loads,
        tax=pricing.tax, target=pricing.aim.margin if wish.target is None else wish.target,
    )  # fmt: skip
    return with_adders(line, wish.adders, rate)


def write_prices(built: Built, unit: Unit, currency: str, pricing: Pricing) -> dict[str, Any]:
    """What `price` prints. A part whose inputs are missing is None, never zero."""
    return {
        "currency": currency,
        "unit": unit.value,
        "way": pricing.way,
        "school": pricing.school.value,
        "target_percent": _hundred(pricing.aim.margin),
        "cost": plain(built.cost),
        "factor": _maybe(built.factor),
        "outputs": [_output(row) for row in built.lines],
        "whole": _whole(built.whole),
        "before_endings": _whole(built.before_endings),
        "endings_bring": plain(built.endings_bring),
        "troubles": list(built.troubles),
    }


def _output(row: Priced) -> dict[str, Any]:
    return {
        "name": row.line.name,
        "per": row.line.per.value,
        "weight": plain(row.line.weight),
        "cost": _maybe(row.line.cost),
        "loaded_cost": _maybe(row.loaded),
        "exact": _maybe(row.exact),
        "price": _maybe(row.price),
        "locked": row.line.locked is not None,
        "gp_percent": _hundred(row.margin),
        "markup_percent": _hundred(row.markup),
        "why": row.why,
    }


def _whole(whole: Whole | None) -> dict[str, Any] | None:
    if whole is None:
        return None
    return {
        "sales": plain(whole.retail),
        "gp": plain(whole.gp),
        "gp_percent": _hundred(whole.margin),
        "markup_percent": _hundred(whole.markup),
    }


def _hundred(share: Decimal | None) -> str | None:
    with working():
        return None if share is None else plain(share * HUNDRED)


def _maybe(value: Decimal | None) -> str | None:
    return None if value is None else plain(value)
