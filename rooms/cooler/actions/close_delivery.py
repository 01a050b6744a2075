"""A delivery is checked and closed: from then on its bags may be cut."""

from dataclasses import dataclass
from decimal import Decimal
from uuid import UUID

from django.utils import timezone

from cutting.cooler.receiving import differences, spread, totals
from cutting.quantities import ZERO, Unit
from rooms.common.db.writing import write
from rooms.common.errors import BadInput, Refused
from rooms.cooler.models import Bag, Delivery
from rooms.cooler.queries.meat import asks_origin
from rooms.cooler.queries.one_delivery import open_delivery, unit_of
from rooms.shop.queries.current import house
from rooms.staff.models import Person
from wording.cooler import limit_words


@dataclass(frozen=True)
class Check:
    """What the invoice says, and how cold the delivery came."""

    freight: Decimal = ZERO
    discount: Decimal = ZERO
    arrival: int | None = None
    arrival_reason: str = ""
    bags: int | None = None
    weight: Decimal | None = None
    unit: str = ""
    """Of the weight; empty for the delivery's own."""
    amount: Decimal | None = None
    difference_reason: str = ""


def close_delivery(delivery_id: UUID, check: Check, by_id: int | None) -> Delivery:
    """Check a delivery against its invoice, spread freight and discount over its bags.

    Above the limit it needs a reason and somebody who signs (FDA Food Code 3-202.11); where the
    invoice disagrees it needs a reason.
    """
    with write():
        delivery = open_delivery(delivery_id)
        bags = list(delivery.bags.exclude(state=Bag.State.BACK).select_related("piece"))
        if not bags:
            raise BadInput("Bags: there is none; add what came before you close the delivery.")
        _signed(check, by_id)
        lines = [bag.line for bag in bags]
        unpriced = sum(line is None for line in lines)
        if unpriced:
            raise BadInput(f"Price: {unpriced} of {len(bags)} bags have none; set it above.")
        _origin(bags)
        unit = Unit(check.unit) if check.unit else unit_of(delivery, bags)
        received = totals(lines, unit)
        wrong = differences(received, check.bags, check.weight, check.amount)
        if wrong and not check.difference_reason.strip():
            words = ", ".join(f"{d.what}: {d.billed} billed, {d.received} here" for d in wrong)
            raise BadInput(f"Invoice: {words}. Write why, or correct the bags.")
        _spread(bags, check)
        delivery.freight, delivery.discount = check.freight, check.discount
        delivery.arrival, delivery.arrival_reason = check.arrival, check.arrival_reason.strip()
        delivery.invoice_bags, delivery.invoice_weight = check.bags, check.weight
        delivery.invoice_amount, delivery.invoice_unit = check.amount, unit.value
        delivery.difference_reason = check.difference_reason.strip()
        delivery.closed_at = timezone.now()
        delivery.save()
    return delivery


def _signed(check: Check, by_id: int | None) -> None:
    if check.arrival is None:
        raise BadInput("Temperature: it is empty; measure between two bags and type it.")
    if not -30000 <= check.arrival <= 40000:
        raise BadInput(f"Temperature: {check.arrival / 1000} °C; -30 to 40 is right.")
    limit = house().warmest
    if check.arrival <= limit:
        return
    if not check.arrival_reason.strip():
        raise Refused(
            f"Temperature: {check.arrival / 1000} °C is above {limit_words(limit, '3-202.11')}."
            " Send it back, or write why it is taken, and sign."
        )
    if by_id is None or not Person.objects.filter(pk=by_id).exists():
        raise Refused("Signature: nobody is named at the block; say who takes it.")


def _origin(bags: list[Bag]) -> None:
    asked = [bag for bag in bags if bag.piece_id and asks_origin(bag)]
    if asked:
        raise BadInput(
            f"Country of origin: {len(asked)} bags of {asked[0].piece.species} do not say where they were"
            " born, raised and slaughtered; it is asked for (7 CFR 65). Correct them on their page."
        )


def _spread(bags: list[Bag], check: Check) -> None:
    pounds = [bag.weight.to(Unit.LB) for bag in bags]
    for name in ("freight", "discount"):
        parts = spread(getattr(check, name), pounds)
        for bag, part in zip(bags, parts, strict=True):
            setattr(bag, name, part)
    Bag.objects.bulk_update(bags, ["freight", "discount"], batch_size=500)
