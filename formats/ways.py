"""What `compare` reads and prints: a piece and the ways it may be cut. See docs/formats/ways.md."""

from __future__ import annotations

from dataclasses import dataclass
from decimal import Decimal
from typing import Any

from cutting.errors import BadDocument, BadValue
from cutting.quantities import ONE, ZERO, UnitPrice, working
from cutting.sheet.cutting_test import Piece, Role, same_name
from cutting.ways.compared import FEWEST, MOST, Compared, Way, WayFigures, WayOutput
from formats.reading import Reader, check_head, what
from formats.result import plain

FORMAT, VERSION = "mindful-tally.ways", 1


@dataclass(frozen=True, slots=True)
class WaysDocument:
    piece: Piece
    ways: tuple[Way, ...]
    rate: Decimal | None


def read_ways(data: Any) -> WaysDocument:
    """Raises BadDocument with every fault found."""
    read = Reader()
    top = read.object(data, "$")
    check_head(read, top, FORMAT, VERSION)
    piece = _piece(read, top)
    rate = None
    if "labour_rate_per_hour" in top:
        rate = read.decimal(top, "labour_rate_per_hour", "$", "above 0")
    rows = read.list(top.get("ways"), "$.ways")
    if isinstance(top.get("ways"), list) and not FEWEST <= len(rows) <= MOST:
        read.fault("$.ways", f"{len(rows)}", f"{FEWEST} to {MOST} are right")
    ways, names = [], set()
    for number, row in enumerate(rows[:MOST]):
        path = f"$.ways[{number}]"
        way = _way(read, read.object(row, path), path)
        if way is None:
            continue
        if same_name(way.name) in names:
            read.fault(f"{path}.name", f"{way.name!a} stands there twice", "each name once")
        names.add(same_name(way.name))
        ways.append(way)
    if read.faults or piece is None:
        raise BadDocument(tuple(read.faults))
    return WaysDocument(piece, tuple(ways), rate)


def _piece(read: Reader, top: dict[str, Any]) -> Piece | None:
    path = "$.piece"
    holder = read.object(top.get("piece"), path)
    if not isinstance(top.get("piece"), dict):
        return None
    name = read.text(holder, "name", path)
    weight, price = read.weight(holder, "weight", path), read.price(holder, "price", path)
    freight, discount = (
        (read.decimal(holder, key, path, "0 or more") or ZERO) if key in holder else ZERO
        for key in ("freight", "discount")
    )
    if weight is None or price is None:
        return None
    try:
        return Piece(weight, price, name, freight=freight, discount=discount)
    except BadValue as bad:
        read.fault(f"{path}.{bad.field}", bad.wrong, bad.right)
        return None


def _way(read: Reader, holder: dict[str, Any], path: str) -> Way | None:
    before = len(read.faults)
    name = read.text(holder, "name", path)
    minutes = read.decimal(holder, "minutes", path, "0 or more") if "minutes" in holder else None
    rows = read.list(holder.get("outputs"), f"{path}.outputs")
    outputs: list[WayOutput] = []
    names: set[str] = set()
    for number, row in enumerate(rows):
        where = f"{path}.outputs[{number}]"
        output = _output(read, read.object(row, where), where)
        if output is None:
            continue
        if same_name(output.name) in names:
            read.fault(f"{where}.name", f"{output.name!a} stands there twice", "each name once")
        names.add(same_name(output.name))
        outputs.append(output)
    with working():
        total = sum((one.share for one in outputs), ZERO)
    if total > ONE:
        read.fault(f"{path}.outputs", f"shares of {total} in all", "at most 1 is right")
    return Way(name, tuple(outputs), minutes) if len(read.faults) == before else None


def _output(read: Reader, holder: dict[str, Any], path: str) -> WayOutput | None:
    before = len(read.faults)
    name, role = read.text(holder, "name", path), holder.get("role")
    if not (isinstance(role, str) and role in Role.__members__.values()):
        right = "main, secondary, credit, discard or purge is right"
        read.fault(f"{path}.role", what(role, "role" in holder), right)
    share = read.decimal(holder, "share", path, "0 or more")
    retail = read.price(holder, "retail", path) if "retail" in holder else None
    credit = read.price(holder, "credit", path, "0 or more") if "credit" in holder else None
    in_case = read.flag(holder, "in_case", path)
    if share is not None and share > 1:
        read.fault(f"{path}.share", f"{share}", "at most 1 is right")
    if len(read.faults) > before or share is None:
        return None
    return WayOutput(name, Role(str(role)), share, retail, credit, in_case)


def write_ways(found: Compared) -> dict[str, Any]:
    """What `compare` prints."""
    best = found.best
    return {
        "ways": [_write(one) for one in found.ways],
        "best": {"money": best.money, "percent": best.percent, "hour": best.hour},
        "flips": [
            {"way": flip.way, "output": flip.output, "price": price_in(flip.price)}
            for flip in found.flips
        ],
    }


def price_in(price: UnitPrice) -> dict[str, str]:
    return {"amount": plain(price.amount), "per": price.per.value}


def _write(one: WayFigures) -> dict[str, Any]:
    margin = one.margin

    def maybe(value: Decimal | None) -> str | None:
        return None if value is None else plain(value)

    return {
        "name": one.way.name,
        "saleable": plain(one.saleable),
        "true_cost": maybe(one.true_cost),
        "retail": maybe(margin.retail if margin else None),
        "gp": maybe(one.gp),
        "gp_percent": maybe(margin.gp_percent if margin else None),
        "gp_with_credits": maybe(margin.gp_with_credits if margin else None),
        "gp_per_unit_purchased": maybe(margin.gp_per_unit_purchased if margin else None),
        "gp_per_labour_hour": maybe(margin.gp_per_labour_hour if margin else None),
        "labour": plain(one.labour),
        "gp_after_labour": maybe(one.gp_after_labour),
    }
