"""What a delivery's sums are in, what is claimed for a bag, and a delivery that is still open."""

from typing import Any
from uuid import UUID

from cutting.cooler.receiving import short_weight
from cutting.quantities import Unit, Weight
from rooms.common.errors import BadInput, Refused
from rooms.cooler.models import Bag, Delivery
from rooms.shop.queries.current import house


def claim_of(bag: Bag) -> Any:
    """What is claimed for a bag, None where there is nothing to claim: for a piece cut here nobody billed us."""
    if bag.own_value is None or bag.line is None or bag.whole_id is not None:
        return None
    own = Weight.of(f"{bag.own_value:f}", bag.own_unit)
    plate = house().scales[0]
    return short_weight(bag.line, own, Weight.of(plate.division, plate.unit))


def unit_of(delivery: Delivery, bags: list[Bag]) -> Unit:
    """The unit of a delivery's sums: as it was closed with, else the bags' own, the shop's where
    they differ."""
    if delivery.invoice_unit:
        return Unit(delivery.invoice_unit)
    units = {bag.weight_unit for bag in bags}
    return Unit(units.pop() if len(units) == 1 else house().unit)


def open_delivery(delivery_id: UUID) -> Delivery:
    """The delivery. Raises BadInput when it is not known, Refused when it is closed."""
    delivery = Delivery.objects.filter(pk=delivery_id).first()
    if delivery is None:
        raise BadInput("Delivery: it is not known; start it first.")
    if not delivery.is_open:
        raise Refused(f"Delivery {delivery.number} is closed. Start another for what came later.")
    return delivery
