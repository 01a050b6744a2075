"""What `price` reads and prints: a cutting test document with its `pricing`, and the prices.

See docs/formats/price.md. Reading reports every fault with its JSON path.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from decimal import Decimal
from typing import Any

from cutting.costing.schools import CostingSchool, unit_costs
from cutting.costing.sheet import compute
from cutting.errors import BadDocument, BadValue
from cutting.prices.ladder import (
    Adder,
    Aim,
    Built,
    Priced,
    PriceLine,
    each_alone,
    solve,
    with_adders,
)
from cutting.prices.margins import Convention, Loads, Whole
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
from cutting.sheet.cutting_test import CuttingTest, Output, same_name
from formats.reading import Document, Reader, read_document, what
from formats.result import plain

PIECE, EACH = "piece", "each"
SHARE = 'a share below 1 such as "0.42" is right'


@dataclass(frozen=True, slots=True)
class Wishes:
    """One product's own wishes in the document."""

    rung: UnitPrice | None = None
    lock: UnitPrice | None = None
    target: Decimal | None = None
    """Of sales, whichever way the document says it."""
    floor: Decimal | None = None
    loads: Loads = field(default_factory=Loads)
    adders: tuple[Adder, ...] = ()
    per: Unit | None = None


@dataclass(frozen=True, slots=True)
class Pricing:
    """How the outputs of a test are to be priced."""

    aim: Aim
    way: str
    school: CostingSchool
    endings: EndingRule
    floor: Decimal | None
    tax: Decimal
    wishes: Mapping[str, Wishes]
    """By the output's name, folded."""


def read_pricing(data: Any) -> tuple[Document, Pricing]:
    """The document and its `pricing`. Raises BadDocument with every fault found."""
    document = read_document(data)
    read = Reader()
    path = "$.pricing"
    if "pricing" not in data:
        read.fault(path, "is missing", 'an object with a "target" is right')
        raise BadDocument(tuple(read.faults))
    holder = read.object(data["pricing"], path)
    target = read.decimal(holder, "target", path, "0 or more")
    convention = _choice(read, holder, "by", [c.value for c in Convention], Convention.MARGIN.value)
    by = Convention(convention)
    way = _choice(read, holder, "way", [PIECE, EACH], PIECE)
    school = _choice(
        read, holder, "school", [s.value for s in CostingSchool], CostingSchool.SALES_VALUE.value
    )
    endings = _endings(read, holder)
    floor = _share(read, holder, "floor", path)
    tax = _share(read, holder, "tax", path)
    wishes = _products(read, holder, document.test, by)
    aim = _aim(read, target, by, f"{path}.target")
    if read.faults or aim is None or endings is None:
        raise BadDocument(tuple(read.faults))
    return document, Pricing(aim, way, CostingSchool(school), endings, floor, tax or ZERO, wishes)


def _aim(read: Reader, target: Decimal | None, by: Convention, path: str) -> Aim | None:
    """A target of sales or of cost, whichever the document speaks of."""
    if target is None:
        return None
    aim = Aim(target, by)
    try:
        _ = aim.margin
    except BadValue as bad:
        read.fault(path, bad.wrong, bad.right)
        return None
    return aim


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
        if "endings" not in inner:
            read.fault(f"{path}.endings", "is missing", 'a list such as ["0.49", "0.99"] is right')
            continue
        each = [
            read.number(value, f"{path}.endings[{j}]", "0 or more")
            for j, value in enumerate(read.list(inner["endings"], f"{path}.endings"))
        ]
        if None not in each:
            try:
                bands.append(Band(under, tuple(one for one in each if one is not None)))
            except BadValue as bad:
                read.fault(f"{path}.endings", bad.wrong, bad.right)
    if len(read.faults) > before:
        return None
    try:
        return EndingRule(tuple(bands), Direction(way))
    except BadValue as bad:
        read.fault("$.pricing.endings", bad.wrong, bad.right)
        return None


def _products(
    read: Reader, holder: dict[str, Any], test: CuttingTest, by: Convention
) -> dict[str, Wishes]:
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
        found[same_name(name)] = _wishes(read, inner, path, by)
    return found


def _wishes(read: Reader, inner: dict[str, Any], path: str, by: Convention) -> Wishes:
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
    target = read.decimal(inner, "target", path, "0 or more") if "target" in inner else None
    aim = _aim(read, target, by, f"{path}.target")
    return Wishes(
        rung=read.price(inner, "rung", path) if "rung" in inner else None,
        lock=read.price(inner, "lock", path) if "lock" in inner else None,
        target=None if aim is None else aim.margin,
        floor=_share(read, inner, "floor", path),
        loads=Loads(shrink=shrink if shrink < 1 else ZERO, **loads),
        adders=tuple(adders),
        per=read.unit(inner, "per", path) if "per" in inner else None,
    )


def build(test: CuttingTest, pricing: Pricing) -> Built:
    """The prices the document asks for.

    Sales-value shares rest on the last prices, and on the ladder where there is no last price.
    """
    test = replace(test, outputs=tuple(_on_ladder(output, pricing) for output in test.outputs))
    sheet = compute(test)
    unit, found = sheet.figures.unit, sheet.figures
    costs = unit_costs(test, found, sheet.costing, pricing.school)
    lines = [
        _line(output, Weight(figures.weight, unit), cost, pricing, test.labour_rate)
        for output, figures, cost in zip(test.outputs, found.outputs, costs, strict=True)
        if output.goes_to_case
    ]
    if pricing.way == EACH:
        return each_alone(found.cost, lines)
    return solve(found.cost, lines, pricing.aim)


def _on_ladder(output: Output, pricing: Pricing) -> Output:
    wish = pricing.wishes.get(same_name(output.name), Wishes())
    return output if output.retail is not None else replace(output, retail=wish.rung)


def _line(
    output: Output, weight: Weight, cost: Decimal | None, pricing: Pricing, rate: Decimal | None
) -> PriceLine:
    """The product in its unit of sale: its own, else that of its last price or rung, else of its
    lock, else of the piece. Labour and packaging are per that unit."""
    wish = pricing.wishes.get(same_name(output.name), Wishes())
    rung = wish.rung or output.retail
    said = output.retail or wish.lock
    per = wish.per or (weight.unit if said is None else said.per)
    line = PriceLine(
        output.name,
        weight.to(per),
        None if cost is None else UnitPrice(cost, weight.unit).to(per),
        None if rung is None else rung.to(per),
        pricing.endings,
        per,
        locked=None if wish.lock is None else wish.lock.to(per),
        floor=pricing.floor if wish.floor is None else wish.floor,
        loads=wish.loads,
        tax=pricing.tax,
        target=pricing.aim.margin if wish.target is None else wish.target,
    )
    return with_adders(line, wish.adders, rate)


def write_prices(built: Built, unit: Unit, currency: str, pricing: Pricing) -> dict[str, Any]:
    """What `price` prints. A part whose inputs are missing is None, never zero."""
    return {
        "currency": currency,
        "unit": unit.value,
        "way": pricing.way,
        "school": pricing.school.value,
        "target_percent": _hundred(pricing.aim.margin),
        "cost": _maybe(built.cost),
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
