"""A price for the bags of a delivery that have none."""

from decimal import Decimal
from uuid import UUID

from django.utils import timezone

from rooms.common.db.writing import write
from rooms.common.errors import BadInput
from rooms.cooler.models import BagEvent
from rooms.cooler.queries.one_delivery import open_delivery


def price_bags(delivery_id: UUID, amount: Decimal, per: str, by_id: int | None) -> int:
    """Put a price on the bags of an open delivery that have none. Returns how many."""
    if per not in ("lb", "kg"):
        raise BadInput(f"Unit: “{per}”; lb or kg is right.")
    if not 0 < amount <= 10000:
        raise BadInput(f"Price: {amount}; above 0 is right.")
    with write():
        delivery = open_delivery(delivery_id)
        bags = list(delivery.bags.filter(price_amount=None))
        delivery.bags.filter(price_amount=None).update(price_amount=amount, price_per=per)
        BagEvent.objects.bulk_create(
            [
                BagEvent(
                    bag=bag,
                    kind="priced",
                    words=f"price {amount} a {per}",
                    at=timezone.now(),
                    by_id=by_id,
                )
                for bag in bags
            ]
        )
    return len(bags)
