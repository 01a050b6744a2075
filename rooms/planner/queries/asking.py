"""The document of a day: the bags that may be cut, their ways, and what the case wants."""

from collections import defaultdict
from collections.abc import Collection, Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from datetime import date
from decimal import Decimal
from statistics import mean, stdev
from typing import Any

from django.db.models import prefetch_related_objects

from cutting.cooler.ageing import Seal
from cutting.cooler.receiving import bag_cost
from cutting.errors import BadValue
from cutting.quantities import ONE, ZERO, Unit, UnitPrice, Weight, round_half_up, working
from cutting.sheet.cutting_test import Role, same_name
from rooms.bench.queries.pool import pools
from rooms.bench.queries.rows import TestRows
from rooms.catalog.models import Piece, Plan, PlanOutput
from rooms.cooler.models import Bag
from rooms.demand.queries.wants import WantedOn, wants_on
from rooms.planner.queries.at_hand import pounds_at_hand
from rooms.planner.queries.chains import Plans, pooled_of, shares_of, with_what_follows
from rooms.planner.queries.crew import DayAsked, block, is_firmed, machines_needed
from rooms.pricebook.models import Product
from rooms.pricebook.queries.book import unit_prices_on
from rooms.shop.queries.current import house

FEWEST_TIMED = 3
"""Tests that used the clock, before a plan's minutes are theirs and no longer assumed. House rule."""
MINUTES_A_POUND = Decimal("1.8")
"""Where no test with a clock says. Common practice, no published source."""
MOST_BAGS = 200
NOT_TODAY = ""


@dataclass
class Asking:
    """What a page knows beside the document itself."""

    document: dict[str, Any]
    left_out: list[str] = field(default_factory=list)
    """Bags and ways that cannot be planned, with the reason."""


CARRIED_ON = "c"
"""After the id of its plan: a way that is carried on into the plans of the pieces it gives."""


@dataclass(frozen=True)
class OneWay:
    """A plan as a way to cut a piece: as it ends, or carried on into other plans."""

    key: str
    plan: Plan
    outputs: list[PlanOutput]
    """Where its cutting ends."""
    cut: list[tuple[Plan, Decimal]]
    """Every plan on the way with its share of what the first one cuts."""

    @property
    def name(self) -> str:
        is_carried_on = self.key.endswith(CARRIED_ON)
        return f"{self.plan.name}; carried on" if is_carried_on else self.plan.name


def plan_of_way(key: str) -> str:
    """Return the id of the plan that a way begins with, as text."""
    return key.removesuffix(CARRIED_ON)


@dataclass(frozen=True)
class WaysOf:
    """The ways of some pieces as a day's document has them, and what their products are."""

    rows: list[dict[str, Any]]
    by_piece: dict[int, list[OneWay]]
    products: list[Product]
    prices: dict[str, UnitPrice]
    used: set[str]
    left_out: list[str]


def ways_of(pieces: Collection[int], day: date) -> WaysOf:
    """Every way of these pieces that gives a product with a price, and what it asks of the hands:
    seven queries at any size, and two for each depth to which plans go on."""
    found = yields_of(pieces, day)
    ways = {way.key: way for some in found.by_piece.values() for way in some}
    plans = {plan.pk: plan for way in ways.values() for plan, _ in way.cut}
    machines = machines_needed(list(plans.values()))
    for row in found.rows:
        row.update(_at_block(ways[row["id"]], machines))
    return found


def yields_of(pieces: Collection[int], day: date) -> WaysOf:
    """The same without what it asks of the hands: six queries, and two for each depth."""
    outputs = _outputs(pieces)
    own = [rows[0].plan for rows in outputs.values()]
    on = [plan for plan in own if any(row.goes_on for row in outputs[plan.pk])]
    every = with_what_follows(on) if on else Plans({}, {})
    prefetch_related_objects(every.rows, "cut")
    tests = pools(list(outputs) + [plan.pk for plan in every.plans.values()])
    products, prices = _prices([*outputs.values(), *every.outputs.values()], day)
    names = {product.cut_id: product for product in products}
    found = WaysOf([], defaultdict(list), products, prices, set(), [])
    for plan in own:
        rows = outputs[plan.pk]
        ends = OneWay(str(plan.pk), plan, rows, [(plan, ONE)])
        ways = [(ends, _given(rows, tests.get(plan.pk)))]
        if every.goes_on(plan):
            try:
                ways.append(_carried_on(plan, every, tests))
            except BadValue as circle:
                found.left_out.append(f"{plan.piece.shown_name}, carried on: {circle}")
        for way, given in ways:
            made = _made(given, names, prices)
            if not made:
                words = f"{plan.piece.shown_name}, {way.name}: no product of it has a price"
                found.left_out.append(words)
                continue
            found.rows.append(_way(way, made, tests))
            found.by_piece[plan.piece_id].append(way)
            found.used.update(made)
    return found


Row = tuple[PlanOutput, Decimal, Decimal | None]
"""An output with its share, and the standard deviation of a single test's where it is known."""


def _given(rows: list[PlanOutput], tests: list[TestRows] | None) -> list[Row]:
    """Outputs as the shop's tests have them; where there are none, their usual shares."""
    shares, pooled = shares_of(rows, tests), pooled_of(tests)
    spreads = {name: one.deviation for name, one in pooled.items()}
    return [(row, shares[row.name], spreads.get(same_name(row.name))) for row in rows]


def _carried_on(
    plan: Plan, every: Plans, tests: Mapping[int, list[TestRows]]
) -> tuple[OneWay, list[Row]]:
    """A plan carried on. How far a single test is off is not known of several plans together."""
    through = every.through(plan, every.shares(tests))
    rows = [one.given.row for one in through.outputs]
    way = OneWay(f"{plan.pk}{CARRIED_ON}", plan, rows, every.cut(through))
    return way, [(one.given.row, one.share, None) for one in through.outputs]


def asking(day: date, asked: DayAsked) -> Asking:
    """Everything of one day: fifteen queries, seventeen with factors and restaurants."""
    bags = bags_to_plan(day)
    ways = ways_of({bag.piece_id for bag in bags}, day)
    left_out = ways.left_out
    cut = [_bag(bag, ways.by_piece, day, asked.pins, left_out) for bag in bags]
    ground = [
        name
        for one in ways.products
        if one.cut.is_ground
        for name in (sold_as(one), kept_as(one))
        if name in ways.used
    ]
    own = [(way.key, way.plan) for some in ways.by_piece.values() for way in some]
    hands, missing = block(asked, own, ground)
    left_out += [missing] if missing else []
    return Asking(
        {
            "format": "mindful-tally.day",
            "version": 1,
            "currency": house().currency,
            "minutes": f"{asked.in_all:f}",
            "ways": ways.rows,
            "bags": [row for row in cut if row is not None][:MOST_BAGS],
            "products": _with_days(_wants(ways, day), bags, ways, day),
            "least_products": asked.least_products,
            "block": hands,
        },
        left_out,
    )


def bags_to_plan(day: date) -> list[Bag]:
    """Named and priced bags of closed deliveries, in the order they are taken: one query."""
    found = Bag.objects.free().in_order(day).with_piece()
    found = found.filter(piece__isnull=False, price_amount__isnull=False)
    return list(found.exclude(delivery__closed_at=None)[:MOST_BAGS])


def _outputs(pieces: Collection[int]) -> dict[int, list[PlanOutput]]:
    """By the plan, the plans of a piece together and each in its order."""
    found: dict[int, list[PlanOutput]] = {}
    rows = PlanOutput.objects.filter(plan__piece__in=pieces, plan__is_dropped=False)
    rows = rows.select_related("plan__piece", "cut").defer(*Piece.guide_by("plan__piece"))
    for row in rows.order_by("plan__piece", "plan__position", "plan_id", "position", "id"):
        found.setdefault(row.plan_id, []).append(row)
    return found


def _prices(
    outputs: Iterable[list[PlanOutput]], day: date
) -> tuple[list[Product], dict[str, UnitPrice]]:
    """The products of these cuts, and what a unit of each brings: its price, or for a by-product
    that is not sold its value. By the name it has in the document."""
    cuts = {row.cut_id for rows in outputs for row in rows if row.cut_id}
    products = list(Product.objects.filter(cut__in=cuts).select_related("cut"))
    current = unit_prices_on(day, [product.pk for product in products])
    found = {}
    for product in products:
        if product.pk in current:
            found[sold_as(product)] = current[product.pk]
        if product.transfer is not None and product.transfer > 0:
            found[kept_as(product)] = UnitPrice(product.transfer, Unit(product.per))
    return products, found


def sold_as(product: Product) -> str:
    """A product's name in the document when it goes to the case."""
    return f"p{product.pk}"


def kept_as(product: Product) -> str:
    """Its name where it is a by-product of the block."""
    return f"v{product.pk}"


def _made(
    given: Iterable[Row], names: Mapping[int, Product], prices: Mapping[str, UnitPrice]
) -> "dict[str, Made]":
    """The share of each product that a way gives, and the spread of a single test's."""
    found: dict[str, Made] = {}
    for row, share, spread in given:
        product = names.get(row.cut_id) if row.cut_id else None
        if product is None or not share:
            continue
        is_sold = row.role in (Role.MAIN, Role.SECONDARY) or row.in_case
        name = sold_as(product) if is_sold else kept_as(product)
        if name in prices:
            with working():
                found[name] = found.get(name, Made()).and_more(share, spread)
    return found


@dataclass(frozen=True)
class Made:
    """A share, and the standard deviation of a single test's; None where too few tests say."""

    share: Decimal = ZERO
    spread: Decimal | None = None

    def and_more(self, share: Decimal, spread: Decimal | None) -> "Made":
        """With another pile of the same product."""
        known = [one for one in (self.spread, spread) if one is not None]
        return Made(self.share + round_half_up(share, 4), sum(known, ZERO) if known else None)

    def row(self, name: str) -> dict[str, str]:
        found = {"product": name, "share": f"{self.share:f}"}
        return found if self.spread is None else found | {"spread": f"{self.spread:.5f}"}


def pace_of(plan: Plan, tests: list[TestRows] | None) -> tuple[Decimal, bool]:
    """Minutes a pound of a plan, and whether enough tests measured them; else what is assumed of it."""
    if len(_paces(tests)) >= FEWEST_TIMED:
        return minutes_a_pound(tests) or MINUTES_A_POUND, True
    return plan.minutes_per_lb or MINUTES_A_POUND, False


def pace_through(
    cut: Sequence[tuple[Plan, Decimal]], tests: Mapping[int, list[TestRows]]
) -> tuple[Decimal, bool]:
    """Minutes a pound of plans together, each for its share of what the first cuts, and whether all of them
    were measured."""
    paces = [(pace_of(plan, tests.get(plan.pk)), share) for plan, share in cut]
    with working():
        minutes = sum((pace * share for (pace, _), share in paces), ZERO)
    return minutes, all(is_measured for (_, is_measured), _ in paces)


def _way(
    way: OneWay, made: "Mapping[str, Made]", tests: Mapping[int, list[TestRows]]
) -> dict[str, Any]:
    own = tests.get(way.plan.pk)
    minutes, is_measured = pace_through(way.cut, tests)
    spread = pace_spread(own) if len(way.cut) == 1 else None
    pace = {} if spread is None or not is_measured else {"pace_spread": f"{spread:.4f}"}
    return {
        **pace,
        "id": way.key,
        "name": f"{way.plan.piece.shown_name}: {way.name}",
        "minutes": "0",
        "minutes_per_lb": f"{round_half_up(minutes, 3):f}",
        "outputs": [one.row(name) for name, one in made.items()],
        "tests": len(own or ()),
        "is_timed": is_measured,
    }


def _at_block(way: OneWay, machines: Mapping[int, list[str]]) -> dict[str, Any]:
    """What a way asks of the hands."""
    needed = {one for plan, _ in way.cut for one in machines.get(plan.pk, [])}
    return {
        "species": way.plan.piece.species,
        "machines": sorted(needed),
        "waits": is_firmed(way.outputs),
    }


def minutes_a_pound(tests: list[TestRows] | None) -> Decimal | None:
    """Minutes a pound of the tests that used the clock; None where none did."""
    paces = _paces(tests)
    with working():
        spent = sum((minutes for minutes, _ in paces), ZERO)
        pounds = sum((pounds for _, pounds in paces), ZERO)
        return round_half_up(spent / pounds, 3) if pounds else None


def pace_spread(tests: list[TestRows] | None) -> Decimal | None:
    """The standard deviation of a single test's minutes a pound, as a share of their mean; None for
    fewer than two that used the clock."""
    paces = _paces(tests)
    with working():
        each = [minutes / pounds for minutes, pounds in paces]
        return stdev(each) / mean(each) if len(each) > 1 else None


def _paces(tests: list[TestRows] | None) -> list[tuple[Decimal, Decimal]]:
    """Minutes and pounds of each test that used the clock."""
    found = []
    with working():
        for rows in tests or ():
            minutes = sum((output.minutes or ZERO for output in rows.outputs), ZERO)
            if minutes:
                paid = Weight(rows.test.weight_value, Unit(rows.test.weight_unit))
                found.append((minutes, paid.to(Unit.LB)))
    return found


def _bag(
    bag: Bag,
    ways: Mapping[int, list[OneWay]],
    day: date,
    pins: Mapping[str, str],
    left_out: list[str],
) -> dict[str, Any] | None:
    """One bag with the ways it is old enough for; None where it cannot be cut today."""
    words = f"{bag.piece.shown_name}, {bag.weight}"
    if bag.ends_on is not None and bag.ends_on < day:
        left_out.append(f"{words}: past its end; decide about it first")
        return None
    if bag.old_enough_on is not None and bag.old_enough_on > day:
        left_out.append(f"{words}: old enough on {bag.old_enough_on:%d %b}")
        return None
    age = bag.aged.on(day)
    allowed = [
        way.key
        for way in ways.get(bag.piece_id, [])
        if all(_is_old_enough(row, age) for row in way.outputs)
    ]
    pin = pins.get(str(bag.pk))
    is_due = (bag.ends_on == day) or bag.seal == Seal.LEAKING
    if pin == NOT_TODAY:
        if is_due:
            why = "it leaks" if bag.seal == Seal.LEAKING else "today is its last day"
            left_out.append(f"{words}: set to “not today”, but {why}; decide about it first")
        return None
    if not allowed:
        left_out.append(f"{words}: no way suits its age and has prices")
        return None
    if pin is not None and pin not in allowed:
        own = [way for way in ways.get(bag.piece_id, []) if way.key == pin]
        why = (
            f"its {age} days are too few for {own[0].name}, to which it was set"
            if own
            else "the plan it was set to is gone, or nothing of it has a price"
        )
        left_out.append(f"{words}: {why}; planned as is best")
    line = bag.line
    if line is None:
        return None
    return {
        "id": str(bag.pk),
        "weight": {"value": f"{bag.weight_value:f}", "unit": bag.weight_unit},
        "cost": f"{max(bag_cost(line, bag.freight, bag.discount), ZERO):f}",
        "must": is_due or pin in allowed,
        "ways": [pin] if pin in allowed else allowed,
        "is_due": is_due,
    }


def _is_old_enough(row: PlanOutput, age: int) -> bool:
    least = row.cut.least_age_days if row.cut else None
    return least is None or least <= age


def _wants(ways: WaysOf, day: date) -> list[dict[str, Any]]:
    """What the case has and wants of everything the ways give: five queries."""
    wanted = {row.product.pk: row for row in wants_on(day)}
    return wants_rows(ways, wanted, pounds_at_hand(day, ways.products))


def _with_days(
    rows: list[dict[str, Any]], bags: list[Bag], ways: WaysOf, day: date
) -> list[dict[str, Any]]:
    """Each product with the first day on which a bag that is too young today gives it."""
    outputs = {row["id"]: row["outputs"] for row in ways.rows}
    first: dict[str, date] = {}
    for bag in bags:
        if bag.old_enough_on is None or bag.old_enough_on <= day:
            continue
        for way in ways.by_piece.get(bag.piece_id, []):
            for one in outputs[way.key]:
                name = one["product"]
                first[name] = min(first.get(name, bag.old_enough_on), bag.old_enough_on)
    return [
        row | {"from": first[row["name"]].isoformat()} if row["name"] in first else row
        for row in rows
    ]


def wants_rows(
    ways: WaysOf, wanted: Mapping[int, WantedOn], cut: Mapping[int, Decimal]
) -> list[dict[str, Any]]:
    """The document's products. `cut`: pounds at hand by the cut."""
    found = []
    for product in ways.products:
        for name in (sold_as(product), kept_as(product)):
            if name not in ways.used:
                continue
            row = _want(product, ways.prices[name], name)
            if name == sold_as(product):
                row |= _limits(product, ways.prices[name], wanted.get(product.pk), cut)
            found.append(row)
    return found


def _want(product: Product, price: UnitPrice, name: str) -> dict[str, Any]:
    return {
        "name": name,
        "price": {"amount": f"{price.amount:f}", "per": price.per.value},
        "shown": product.name,
        "is_sold": name == sold_as(product),
    }


def _limits(
    product: Product, price: UnitPrice, wanted: WantedOn | None, cut: Mapping[int, Decimal]
) -> dict[str, Any]:
    have = Weight(cut.get(product.cut_id, ZERO), Unit.LB).to(price.per)
    found = {"have": {"value": f"{round_half_up(have, 3):f}", "unit": price.per.value}}
    if wanted is not None:
        for name in ("least", "most"):
            found[name] = {"value": f"{getattr(wanted, name):f}", "unit": product.per}
        over = min(product.transfer or ZERO, price.amount)
        found["over"] = {"amount": f"{over:f}", "per": product.per}
    return found


def with_names(message: str, document: Mapping[str, Any]) -> str:
    """What cannot be, with pieces and weights in the place of the bags' ids."""
    ways = {row["id"]: row["name"].partition(": ")[0] for row in document["ways"]}
    for row in document["bags"]:
        weight = f"{row['weight']['value']} {row['weight']['unit']}"
        message = message.replace(f"'{row['id']}'", f"{ways[row['ways'][0]]}, {weight},")
    return message


def checked(asked: Asking) -> Asking:
    """Raises BadValue where there is nothing to plan, with why."""
    if not asked.document["bags"]:
        first = f" ({asked.left_out[0]})" if asked.left_out else ""
        raise BadValue("Bags", f"none can be cut today{first}", "a bag that is old enough is right")
    return asked
