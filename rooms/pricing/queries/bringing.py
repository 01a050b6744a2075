"""What a plan's usual outputs bring at today's prices: the dollars under the pounds."""

from dataclasses import dataclass
from decimal import Decimal

from cutting.errors import BadValue
from cutting.prices import ads
from cutting.quantities import HUNDRED, ZERO, Unit, UnitPrice, Weight, round_half_up
from drawings import rails
from drawings.bar import BarPart
from rooms.bench.queries.pool import pools
from rooms.catalog.models import Plan, PlanKind, PlanOutput
from rooms.catalog.queries.looks import looks_in_order
from rooms.planner.queries.chains import with_what_follows
from rooms.pricebook.models import Price, Product
from rooms.shop.queries.current import house
from wording.pencil import money


@dataclass(frozen=True)
class Brings:
    """Of 100 of the shop's units paid for: the money in all, its rail, and the outputs without a price."""

    total: Decimal
    rail: list[tuple[str, rails.PoundRail]]
    unpriced: list[str]
    against: str = ""
    """How much more or less that is than the piece's plain plan brings today; empty where one of the two
    has an output without a price."""
    carried_on: str = ""
    """What it brings where its whole pieces are cut on into the case, and what is left without a price
    there; empty for a plan that does not go on, and for one that comes back to itself."""


def brings(piece_key: str, plan_key: str) -> Brings:
    """What is sold at its price, by-products at their transfer value: three queries, and for a plan that
    goes on four more and two for each depth."""
    rows = PlanOutput.objects.filter(plan__piece__key=piece_key, plan__is_dropped=False)
    rows = rows.select_related("cut", "plan__piece").order_by("plan__position", "position", "id")
    by_plan: dict[Plan, list[PlanOutput]] = {}
    for row in rows:
        by_plan.setdefault(row.plan, []).append(row)
    worth = _worth([row for some in by_plan.values() for row in some])
    outputs = next((some for plan, some in by_plan.items() if plan.key == plan_key), [])
    parts, unpriced = _parts(outputs, worth)
    total = sum((part.size for part in parts), Decimal(0))
    others = [plan for plan in by_plan if plan.key != plan_key]
    plain = next((plan for plan in others if plan.school == PlanKind.PLAIN), None)
    against = ""
    if plain is not None and not unpriced:
        other, missing = _parts(by_plan[plain], worth)
        if not missing:
            against = _against(total - sum((part.size for part in other), Decimal(0)), plain.name)
    found = []
    if total > 0:
        found = [
            (glass, rails.pound_rail([p for p in parts if p.size], total, money(total), frame))
            for glass, frame in (("wide", rails.WIDE), ("narrow", rails.NARROW))
        ]
    return Brings(total, found, unpriced, against, _carried_on(outputs))


def _carried_on(outputs: list[PlanOutput]) -> str:
    """What a plan brings where its pieces are cut on, in words: by the shop's tests of every plan on the way,
    where there are none by its usual shares."""
    if not any(row.goes_on for row in outputs):
        return ""
    plan = outputs[0].plan
    every = with_what_follows([plan])
    if not every.goes_on(plan):
        return ""
    tests = pools([one.pk for one in every.plans.values()])
    try:
        ends = every.through(plan, every.shares(tests)).outputs
    except BadValue:
        return ""
    worth, bought = _worth([one.given.row for one in ends]), Weight(HUNDRED, house().unit)
    sold = [one for one in ends if one.given.row.cut_id and one.share]
    own = sum(
        (
            ads.brings(one.share, worth[one.given.row.cut_id], bought)
            for one in sold
            if one.given.row.cut_id in worth
        ),
        ZERO,
    )
    missing = dict.fromkeys(one.name for one in sold if one.given.row.cut_id not in worth)
    rests = "the shop’s tests where there are any" if any(tests.values()) else "usual shares"
    words = f"Its whole pieces cut on into the case bring {money(own)}, by {rests}"
    return f"{words}; no price yet: {', '.join(missing)}" if missing else words


def _parts(
    outputs: list[PlanOutput], worth: dict[int, UnitPrice]
) -> tuple[list[BarPart], list[str]]:
    """What each output of a plan brings of 100 bought, and the names of those without a price."""
    parts, unpriced = [], []
    bought = Weight(HUNDRED, house().unit)
    for output, look in zip(outputs, looks_in_order(outputs), strict=True):
        if output.cut_id is None or not output.share:
            continue
        if output.cut_id not in worth:
            unpriced.append(output.name)
            continue
        value = ads.brings(output.share, worth[output.cut_id], bought)
        parts.append(BarPart(output.name, value, money(value), look))
    return parts, unpriced


def _against(more: Decimal, name: str) -> str:
    if not round_half_up(more):
        return f"as much as “{name}”"
    return f"{money(abs(more))} {'more' if more > 0 else 'less'} than “{name}”"


def _worth(outputs: list[PlanOutput]) -> dict[int, UnitPrice]:
    """What a unit of a cut brings, by its id, as far as the price book knows them."""
    products = Product.objects.filter(cut__in=[o.cut_id for o in outputs if o.cut_id])
    prices = {
        p.product_id: p.amount for p in Price.objects.current(products=[p.pk for p in products])
    }
    found = {}
    for product in products:
        amount = prices.get(product.pk) if product.is_sold else product.transfer
        if amount is not None:
            found[product.cut_id] = UnitPrice(amount, Unit(product.per))
    return found
