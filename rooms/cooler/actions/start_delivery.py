"""A delivery begins: who came, when, and what the truck said."""

import uuid
from dataclasses import dataclass
from datetime import datetime

from django.utils import timezone

from cutting.quantities import ZERO
from rooms.common.db.lengths import must_fit
from rooms.common.db.numbers import next_numbers
from rooms.common.db.writing import Sent, kept_by, write
from rooms.common.errors import BadInput
from rooms.cooler.models import Delivery


@dataclass(frozen=True)
class Header:
    """What is known when a delivery comes in. `key` becomes its id."""

    key: uuid.UUID
    supplier: str
    establishment: str = ""
    invoice: str = ""


def start_delivery(header: Header, by_id: int | None, at: datetime | None = None) -> Delivery:
    """A new open delivery. Repeating the same one returns it."""
    if not header.supplier.strip():
        raise BadInput("Supplier: it is empty; the name on the invoice is right.")
    names = ("supplier", "establishment", "invoice")
    values = {name: getattr(header, name).strip() for name in names}
    sent = Sent(header.key, "start delivery", f"delivery of {values['supplier']}", values)
    with write(key=sent, recorded=kept_by(Delivery, header.key, *names, by="pk")) as door:
        if door.first is not None:
            return door.first
        delivery = Delivery(
            pk=header.key,
            number=next_numbers(Delivery)[0],
            supplier=header.supplier.strip(),
            establishment=header.establishment.strip(),
            invoice=header.invoice.strip(),
            freight=ZERO,
            discount=ZERO,
            received_at=at or timezone.now(),
            received_by_id=by_id,
        )
        must_fit(delivery)
        delivery.save(force_insert=True)
    return delivery
