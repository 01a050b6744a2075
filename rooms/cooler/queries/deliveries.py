"""Deliveries: what came, what the invoice says, what is claimed."""

from collections.abc import Collection
from dataclasses import dataclass
from datetime import timedelta
from decimal import Decimal
from uuid import UUID

from django.db.models import OuterRef, Subquery, UUIDField
from django.utils import timezone

from cutting.cooler.quality import Damage, Quality, of_supplier
from cutting.cooler.receiving import (
    Difference,
    InvoiceLine,
    Short,
    Totals,
    differences,
    mean_price,
    totals,
)
from cutting.quantities import ZERO, Unit, UnitPrice, Weight
from rooms.catalog.models import Piece
from rooms.cooler.models import Bag, Delivery, ProductCode
from rooms.cooler.queries.one_delivery import claim_of, unit_of
from wording.cooler import supplier_words

LAST = 20
A_YEAR = timedelta(days=365)


@dataclass(frozen=True)
class DeliveryView:
    delivery: Delivery
    bags: list[Bag]
    totals: Totals
    unit: str
    differences: list[Difference]
    unnamed: list[ProductCode]
    claims: list[tuple[Bag, Short]]
    unpriced: int
    mixed_units: bool

    @property
    def damaged(self) -> list[Bag]:
        return [bag for bag in self.bags if bag.damage]

    @property
    def claimed(self) -> Decimal:
        return sum((short.worth for _, short in self.claims), ZERO)


def delivery_view(delivery: Delivery) -> DeliveryView:
    """One delivery with its bags: two queries."""
    bags = list(delivery.bags.as_delivered().select_related("piece").order_by("came_at", "id"))
    kept = [bag for bag in bags if bag.state != Bag.State.BACK]
    unit = unit_of(delivery, kept)
    found = totals([bag.line for bag in kept if bag.line], unit)
    weight = sum((bag.weight.to(unit) for bag in kept), ZERO)
    found = Totals(len(kept), weight, found.amount)
    codes = {bag.gtin for bag in bags if bag.piece_id is None}
    return DeliveryView(
        delivery=delivery,
        bags=bags,
        totals=found,
        unit=unit.value,
        differences=differences(
            found, delivery.invoice_bags, delivery.invoice_weight, delivery.invoice_amount
        ),
        unnamed=list(ProductCode.objects.filter(gtin__in=codes, piece=None)) if codes else [],
        claims=[(bag, short) for bag in bags if (short := claim_of(bag)) is not None],
        unpriced=sum(bag.price_amount is None for bag in kept),
        mixed_units=len({bag.weight_unit for bag in bags}) > 1,
    )


def delivery_prices(delivery_id: UUID) -> dict[int, UnitPrice]:
    """What each piece was billed at in a delivery, by its id: one query."""
    bags = Bag.objects.as_delivered().filter(delivery=delivery_id).exclude(price_amount=None)
    lines: dict[int, list[InvoiceLine]] = {}
    for bag in bags.exclude(piece=None).order_by("came_at", "id"):
        lines.setdefault(bag.piece_id, []).append(bag.line)
    return {piece: mean_price(some) for piece, some in lines.items()}


def prices_now(pieces: Collection[int]) -> dict[int, UnitPrice]:
    """What each piece cost in the newest delivery that has a price for it: two queries.

    Pieces that never came with a price are left out.
    """
    priced = Bag.objects.as_delivered().exclude(price_amount=None)
    newest = priced.filter(piece=OuterRef("pk")).order_by("-came_at", "-delivery__number")
    last = Piece.everything.filter(pk__in=pieces).values_list(
        "pk", Subquery(newest.values("delivery")[:1], output_field=UUIDField())
    )
    wanted = {piece: delivery for piece, delivery in last if delivery is not None}
    lines: dict[int, list[InvoiceLine]] = {}
    bags = priced.filter(delivery__in=set(wanted.values()), piece__in=wanted)
    names = ("piece_id", "delivery_id", "weight_value", "weight_unit", "price_amount", "price_per")
    for piece, delivery, value, unit, amount, per in bags.values_list(*names):
        if wanted[piece] == delivery:
            line = InvoiceLine(Weight(value, Unit(unit)), UnitPrice(amount, Unit(per)))
            lines.setdefault(piece, []).append(line)
    return {piece: mean_price(some) for piece, some in lines.items()}


def supplier_quality(supplier: str) -> str:
    """How a supplier's bags of the last year came, in words; empty where nothing was seen: one
    query."""
    since = timezone.now() - A_YEAR
    rows = Bag.objects.as_delivered().filter(delivery__supplier=supplier, came_at__gte=since)
    found = of_supplier(
        Quality(frozenset(Damage(kind) for kind in damage), marbling)
        for damage, marbling in rows.values_list("damage", "marbling")
    )
    return supplier_words(found) if found.damaged or found.marbling is not None else ""


def last_deliveries() -> list[Delivery]:
    return list(Delivery.objects.all()[:LAST])
