"""What `choose` reads and prints: a day's bags, ways and wants, and what is cut. See
docs/formats/day.md.
"""

from __future__ import annotations

from collections.abc import Container, Iterable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from decimal import Decimal
from typing import Any

from cutting.errors import BadDocument, Fault
from cutting.planning.day import (
    Day,
    DayBag,
    DayFigures,
    DayProduct,
    DayWay,
    musts_do_not_fit,
    why_not,
)
from cutting.planning.day_solver import (
    NoDay,
    SoFar,
    Worth,
    best_by_the_hour,
    best_day,
    best_so_far,
    worth,
)
from cutting.planning.integer_program import OutOfTime
from cutting.quantities import ONE, ZERO, Unit, Weight, working
from formats.block import in_steps, machines_of, nobody_can, read_block, read_steps, write_hands
from formats.reading import Reader, check_head, what
from formats.result import plain
from wording.plan import not_cut_words

FORMAT, VERSION = "mindful-tally.day", 1


class DayReader(Reader):
    """Also reads weights that may be 0, and lists whose ids are there once."""

    def amount(self, holder: dict[str, Any], key: str, path: str, unit: Unit) -> Decimal | None:
        """A weight of 0 or more, in `unit`; None where it is left out."""
        if key not in holder:
            return None
        where = f"{path}.{key}"
        inner = self.object(holder[key], where)
        if not isinstance(holder[key], dict):
            return None
        value, own = (
            self.decimal(inner, "value", where, "0 or more"),
            self.unit(inner, "unit", where),
        )
        return None if value is None or own is None else Weight(value, own).to(unit)

    def rows(self, top: dict[str, Any], key: str) -> list[tuple[str, dict[str, Any]]]:
        path = f"$.{key}"
        return [
            (f"{path}[{i}]", self.object(row, f"{path}[{i}]"))
            for i, row in enumerate(self.list(top.get(key), path))
        ]

    def once(self, name: str, seen: set[str], path: str) -> None:
        if name and name in seen:
            self.fault(path, f"{name!a} stands there twice", "each once is right")
        seen.add(name)


@dataclass(frozen=True)
class Names(Container[str]):
    """Names that stand in a list, whatever else is wrong there: a fault is told where it is, not at each
    place that names it. While one of the names cannot be read, any name may be it."""

    known: frozenset[str]
    is_unsure: bool

    @classmethod
    def of(cls, top: dict[str, Any], key: str, name: str) -> Names:
        rows = top.get(key)
        some = [
            row.get(name) if isinstance(row, dict) else None
            for row in (rows if isinstance(rows, list) else ())
        ]
        texts = [one for one in some if isinstance(one, str) and one.strip() and one.isprintable()]
        return cls(frozenset(texts), not isinstance(rows, list) or len(texts) < len(some))

    def __contains__(self, name: object) -> bool:
        return isinstance(name, str) and (self.is_unsure or name in self.known)


def read_day(data: Any) -> Day:
    """Raises BadDocument with every fault found."""
    read = DayReader()
    top = read.object(data, "$")
    check_head(read, top, FORMAT, VERSION)
    minutes = read.decimal(top, "minutes", "$", "0 or more")
    named, known = Names.of(top, "products", "name"), Names.of(top, "ways", "id")
    products = _products(read, top)
    ways = _ways(read, top, named)
    bags = _bags(read, top, known)
    least = top.get("least_products", 0)
    if isinstance(least, bool) or not isinstance(least, int) or least < 0:
        read.fault("$.least_products", what(least), "a whole number from 0 on is right")
    block = read_block(read, top, known, named)
    steps = read_steps(read, top)
    if read.faults or minutes is None:
        raise BadDocument(tuple(read.faults))
    return in_steps(Day(minutes, ways, bags, products, least, block), steps)


def _products(read: DayReader, top: dict[str, Any]) -> tuple[DayProduct, ...]:
    found: list[DayProduct] = []
    names: set[str] = set()
    for path, row in read.rows(top, "products"):
        name = read.text(row, "name", path)
        read.once(name, names, f"{path}.name")
        price = read.price(row, "price", path)
        if price is None:
            continue
        have, least, most = (read.amount(row, key, path, price.per) for key in AMOUNTS)
        over = read.price(row, "over", path, "0 or more") if "over" in row else None
        worth_over = ZERO if over is None else over.to(price.per)
        if worth_over > price.amount:
            right = f"at most its price, {price.amount:f}, is right"
            read.fault(f"{path}.over", f"{worth_over:f}", right)
        elif most is not None and (least or ZERO) > most:
            read.fault(f"{path}.least", f"{least:f}", f"at most {most:f} is right")
        else:
            found.append(DayProduct(name, price, have or ZERO, least or ZERO, most, worth_over))
    return tuple(found)


AMOUNTS = ("have", "least", "most")


def _ways(read: DayReader, top: dict[str, Any], products: Container[str]) -> tuple[DayWay, ...]:
    found: list[DayWay] = []
    ids: set[str] = set()
    for path, row in read.rows(top, "ways"):
        own, name = read.text(row, "id", path), read.text(row, "name", path)
        read.once(own, ids, f"{path}.id")
        minutes = read.decimal(row, "minutes", path, "0 or more")
        per_lb = read.decimal(row, "minutes_per_lb", path, "0 or more")
        outputs = _outputs(read, row, path, products)
        species = read.text(row, "species", path) if "species" in row else ""
        machines, waits = machines_of(read, row, path), read.flag(row, "waits", path)
        if minutes is not None and per_lb is not None and outputs is not None:
            found.append(DayWay(own, name, minutes, per_lb, outputs, species, machines, waits))
    return tuple(found)


def _outputs(
    read: DayReader, row: dict[str, Any], path: str, products: Container[str]
) -> tuple[tuple[str, Decimal], ...] | None:
    before, found = len(read.faults), []
    names: set[str] = set()
    for i, each in enumerate(read.list(row.get("outputs"), f"{path}.outputs")):
        where = f"{path}.outputs[{i}]"
        one = read.object(each, where)
        name = read.text(one, "product", where)
        read.once(name, names, f"{where}.product")
        if name and name not in products:
            read.fault(f"{where}.product", f"{name!a}", "one of the products is right")
        share = read.decimal(one, "share", where, "0 or more")
        if share is not None:
            found.append((name, share))
    with working():
        total = sum((share for _, share in found), ZERO)
    if total > ONE:
        read.fault(f"{path}.outputs", f"shares of {total} in all", "at most 1 is right")
    return tuple(found) if len(read.faults) == before else None


def _bags(read: DayReader, top: dict[str, Any], ways: Container[str]) -> tuple[DayBag, ...]:
    found: list[DayBag] = []
    ids: set[str] = set()
    for path, row in read.rows(top, "bags"):
        own = read.text(row, "id", path)
        read.once(own, ids, f"{path}.id")
        weight, must = read.weight(row, "weight", path), read.flag(row, "must", path)
        cost = read.decimal(row, "cost", path, "0 or more")
        allowed: list[str] = []
        for i, way in enumerate(read.list(row.get("ways"), f"{path}.ways")):
            where = f"{path}.ways[{i}]"
            if not isinstance(way, str) or way not in ways:
                read.fault(where, what(way), "the id of one of the ways is right")
            elif way in allowed:
                read.fault(where, f"{way!a} stands there twice", "each once is right")
            else:
                allowed.append(way)
        if isinstance(row.get("ways"), list) and not row["ways"]:
            read.fault(f"{path}.ways", "is empty", "at least one way is right")
        if weight is not None and cost is not None and allowed:
            found.append(DayBag(own, weight, cost, tuple(allowed), must))
    return tuple(found)


def solve_plan(day: Day, seconds: float = 30.0, *, by_the_hour: bool = False) -> DayFigures:
    """The plan alone: the most gross profit, or the most a minute of hands. Raises BadDocument with
    what cannot be met."""
    with _told(day):
        if by_the_hour:
            return best_by_the_hour(day, seconds=seconds)
        return best_day(day, seconds=seconds)


def look_for_plan(day: Day, seconds: float) -> SoFar:
    """The best plan found in so many seconds, and how far it is proven. Raises BadDocument."""
    with _told(day):
        return best_so_far(day, seconds)


@contextmanager
def _told(day: Day) -> Iterator[None]:
    """What cannot be met, said with its place in the document."""
    too_long = musts_do_not_fit(day)
    if too_long:
        raise BadDocument(_too_long(day, too_long))
    try:
        yield
    except NoDay as none:
        raise BadDocument(_nothing_fits(day, none)) from None
    except OutOfTime as slow:
        wrong, right = f"not proven in time: {slow}", "fewer bags or ways are right"
        raise BadDocument((Fault("$", wrong, right),)) from None


def _nothing_fits(day: Day, none: NoDay) -> tuple[Fault, ...]:
    if none.most_products is not None:
        right = f"{none.most_products} or fewer is right"
        return (Fault("$.least_products", f"{day.least_products}", right),)
    numbers = {bag.id: i for i, bag in enumerate(day.bags)}
    nobody = nobody_can(day)
    if nobody:
        right = "somebody who may is right"
        return tuple(
            Fault(f"$.bags[{numbers[bag]}].must", f"{bag!a} may be cut by nobody there", right)
            for bag, _ in nobody
        )
    wrong = "the bags that must be cut do not fit the hours of those who may cut them"
    return (Fault("$.block.cutters", wrong, "more hours, or others, are right"),)


def solve_day(day: Day) -> tuple[DayFigures, Worth]:
    """The plan and what things are worth. Raises BadDocument with what cannot be met."""
    found = solve_plan(day)
    return found, worth(day, found)


def _too_long(day: Day, bags: Iterable[tuple[DayBag, Decimal]]) -> tuple[Fault, ...]:
    rows = list(bags)
    numbers = {bag.id: i for i, bag in enumerate(day.bags)}
    with working():
        total = sum((minutes for _, minutes in rows), ZERO)
    together = Fault(
        "$.minutes", f"{plain(day.minutes)}", f"{plain(total)} is what the bags that must take"
    )
    each = tuple(
        Fault(
            f"$.bags[{numbers[bag.id]}].must",
            f"{bag.id!a} takes {plain(minutes)} minutes by its fastest way",
            "a day that has them is right",
        )
        for bag, minutes in rows
    )
    return (*each, together)


def write_plan(day: Day, found: DayFigures) -> dict[str, Any]:
    """The plan as `choose` prints it, without what things are worth."""

    def weight(value: Decimal, unit: Unit) -> dict[str, str]:
        return {"value": plain(value), "unit": unit.value}

    return {
        "cut": [
            {"bag": bag.id, "way": day.ways[way].id}
            for bag, way in zip(day.bags, found.choice, strict=True)
            if way is not None
        ],
        **write_hands(day, found),
        "minutes": plain(found.minutes),
        "gross_profit": plain(found.gross_profit),
        "shortfall": plain(found.shortfall),
        "products": [
            {
                "name": line.product.name,
                "have": weight(line.product.have, line.product.unit),
                "made": weight(line.made, line.product.unit),
                "short": weight(line.short, line.product.unit),
                "over": weight(line.over, line.product.unit),
            }
            for line in found.products
        ],
        "not_cut": [{"bag": one.bag.id, "why": not_cut_words(one)} for one in why_not(day, found)],
    }


def write_day(day: Day, found: DayFigures, values: Worth) -> dict[str, Any]:
    """What `choose` prints."""

    def maybe(value: Decimal | None) -> str | None:
        return None if value is None else plain(value)

    plan = write_plan(day, found)
    not_cut = plan.pop("not_cut")
    return {
        **plan,
        "worth": {
            "hour": maybe(values.hour),
            "products": {name: maybe(value) for name, value in values.products.items()},
        },
        "musts": [{"bag": bag.id, "costs": maybe(value)} for bag, value in values.musts],
        "not_cut": not_cut,
    }
