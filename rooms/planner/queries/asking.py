"""The document of a day: the bags that may be cut, their ways, and what the case wants."""

from collections import defaultdict
from collections.abc import Collection, Mapping
from dataclasses import dataclass, field
from datetime import date
from decimal import Decimal
from statistics import mean, stdev
from typing import Any

from cutting.cooler.ageing import Seal
from cutting.cooler.receiving import bag_cost
from cutting.errors import BadValue
from cutting.quantities import ZERO, Unit, UnitPrice, Weight, round_half_up, working
from cutting.sheet.cutting_test import Role, same_name
from cutting.sheet.yields import Pooled, by_name, pooled_shares
from rooms.bench.queries.pool import pools
from rooms.bench.rules.rows import TestRows
from rooms.catalog.models import Piece, Plan, PlanOutput
from rooms.cooler.models import Bag
from rooms.planner.queries.at_hand import pounds_at_hand
from rooms.planner.queries.crew import DayAsked, block, is_firmed, machines_needed
from rooms.planner.queries.wants import WantedOn, wants_on
from rooms.pricebook.models import Product
from rooms.pricebook.queries.book import prices_on
from rooms.shop.rules.current import house

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


@dataclass(frozen=True)
class WaysOf:
    """The ways of some pieces as a day's document has them, and what their products are."""

    rows: list[dict[str, Any]]
    by_piece: dict[int, list[Plan]]
    outputs: dict[int, list[PlanOutput]]
    products: list[Product]
    prices: dict[str, UnitPrice]
    used: set[str]
    left_out: list[str]


def ways_of(pieces: Collection[int], day: date) -> WaysOf:
    """Every way of these pieces that gives a product with a price, and what it asks of the hands:
    seven queries at any size."""
    found = yields_of(pieces, day)
    plans = {str(plan.pk): plan for some in found.by_piece.values() for plan in some}
    machines = machines_needed(list(plans.values()))
    for row in found.rows:
        plan = plans[row["id"]]
        row.update(_at_block(plan, found.outputs[plan.pk], machines.get(plan.pk, [])))
    return found


def yields_of(pieces: Collection[int], day: date) -> WaysOf:
    """The same without what it asks of the hands: six queries."""
    outputs = _outputs(pieces)
    tests = pools(outputs)
    products, prices = _prices(outputs, day)
    names = {product.cut_id: product for product in products}
    found = WaysOf([], defaultdict(list), outputs, products, prices, set(), [])
    for rows in outputs.values():
        plan = rows[0].plan
        made = _made(rows, tests.get(plan.pk), names, prices)
        if not made:
            words = f"{plan.piece.shown_name}, {plan.name}: no product of it has a price"
            found.left_out.append(words)
            continue
        found.rows.append(_way(plan, made, tests.get(plan.pk)))
        found.by_piece[plan.piece_id].append(plan)
        found.used.update(made)
    return found


def asking(day: date, asked: DayAsked) -> Asking:
    """Everything of one day: fifteen queries, seventeen with factors and restaurants."""
    bags = bags_to_plan(day)
    ways = ways_of({bag.piece_id for bag in bags}, day)
    left_out = ways.left_out
    cut = [_bag(bag, ways.by_piece, ways.outputs, day, asked.pins, left_out) for bag in bags]
    ground = [
        name
        for one in ways.products
        if one.cut.is_ground
        for name in (sold_as(one), kept_as(one))
        if name in ways.used
    ]
    plans = [plan for rows in ways.by_piece.values() for plan in rows]
    hands, missing = block(asked, plans, ground)
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
    outputs: Mapping[int, list[PlanOutput]], day: date
) -> tuple[list[Product], dict[str, UnitPrice]]:
    """The products of these cuts, and what a unit of each brings: its price, or for a by-product
    that is not sold its value. By the name it has in the document."""
    cuts = {row.cut_id for rows in outputs.values() for row in rows if row.cut_id}
    products = list(Product.objects.filter(cut__in=cuts).select_related("cut"))
    current = prices_on(day, [product.pk for product in products])
    found = {}
    for product in products:
        if product.pk in current:
            found[sold_as(product)] = current[product.pk].unit_price
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
    rows: list[PlanOutput],
    tests: list[TestRows] | None,
    names: Mapping[int, Product],
    prices: Mapping[str, UnitPrice],
) -> "dict[str, Made]":
    """The share of each product that a way gives, by the shop's tests where it has any, and the
    spread of a single test's."""
    shares = pooled_of(tests)
    found: dict[str, Made] = {}
    for row in rows:
        product = names.get(row.cut_id) if row.cut_id else None
        pool = shares.get(same_name(row.name))
        share = (pool.share if pool else ZERO) if shares else row.share
        if product is None or not share:
            continue
        is_sold = row.role in (Role.MAIN, Role.SECONDARY) or row.in_case
        name = sold_as(product) if is_sold else kept_as(product)
        if name in prices:
            with working():
                before = found.get(name, Made())
                found[name] = before.and_more(share, pool.deviation if pool else None)
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


def pooled_of(tests: list[TestRows] | None) -> dict[str, Pooled]:
    """The share of each pile that the tests of a plan gave, by its folded name."""
    if not tests:
        return {}
    cores = [rows.weighed for rows in tests]
    return pooled_shares([(core, by_name(core)) for core in cores])


def pace_of(plan: Plan, tests: list[TestRows] | None) -> tuple[Decimal, bool]:
    """Minutes a pound of a plan, and whether enough tests measured them; else what is assumed of it."""
    if len(_paces(tests)) >= FEWEST_TIMED:
        return minutes_a_pound(tests) or MINUTES_A_POUND, True
    return plan.minutes_per_lb or MINUTES_A_POUND, False


def _way(plan: Plan, made: "Mapping[str, Made]", tests: list[TestRows] | None) -> dict[str, Any]:
    (minutes, is_measured), spread = pace_of(plan, tests), pace_spread(tests)
    pace = {} if spread is None or not is_measured else {"pace_spread": f"{spread:.4f}"}
    return {
        **pace,
        "id": str(plan.pk),
        "name": f"{plan.piece.shown_name}: {plan.name}",
        "minutes": "0",
        "minutes_per_lb": f"{minutes:f}",
        "outputs": [one.row(name) for name, one in made.items()],
        "tests": len(tests or ()),
        "is_timed": is_measured,
    }


def _at_block(plan: Plan, rows: list[PlanOutput], machines: list[str]) -> dict[str, Any]:
    """What a way asks of the hands."""
    return {"species": plan.piece.species, "machines": machines, "waits": is_firmed(rows)}


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
    plans: Mapping[int, list[Plan]],
    outputs: Mapping[int, list[PlanOutput]],
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
        str(plan.pk)
        for plan in plans.get(bag.piece_id, [])
        if all(_is_old_enough(row, age) for row in outputs[plan.pk])
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
        own = [plan for plan in plans.get(bag.piece_id, []) if str(plan.pk) == pin]
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
        for plan in ways.by_piece.get(bag.piece_id, []):
            for one in outputs[str(plan.pk)]:
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
