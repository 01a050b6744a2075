"""What a plan's usual outputs bring at today's prices: the dollars under the pounds."""

from dataclasses import dataclass
from decimal import Decimal

from cutting.drawing import rails
from cutting.drawing.bar import BarPart
from cutting.prices import ads
from cutting.quantities import HUNDRED, Unit, UnitPrice, Weight
from cutting.words.pencil import money
from rooms.catalog.models import PlanOutput
from rooms.catalog.rules.looks import looks_in_order
from rooms.pricebook.models import Price, Product
from rooms.shop.rules.current import house


@dataclass(frozen=True)
class Brings:
    """Of 100 of the shop's units paid for: the money in all, its rail, and the outputs without a price."""

    total: Decimal
    rail: list[tuple[str, rails.PoundRail]]
    unpriced: list[str]


def brings(piece_key: str, plan_key: str) -> Brings:
    """What is sold at its price, by-products at their transfer value: three queries."""
    outputs = list(
        PlanOutput.objects.filter(plan__piece__key=piece_key, plan__key=plan_key)
        .select_related("cut")
        .order_by("position", "id")
    )
    worth = _worth(outputs)
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
    total = sum((part.size for part in parts), Decimal(0))
    found = []
    if total > 0:
        found = [
            (glass, rails.pound_rail([p for p in parts if p.size], total, money(total), frame))
            for glass, frame in (("wide", rails.WIDE), ("narrow", rails.NARROW))
        ]
    return Brings(total, found, unpriced)


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
