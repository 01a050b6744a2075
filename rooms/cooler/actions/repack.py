"""Part of an opened bag goes back, packed again."""

import uuid
from dataclasses import dataclass
from datetime import date
from decimal import Decimal
from uuid import UUID

from django.utils import timezone

from cutting.quantities import ZERO, Weight
from rooms.common.errors import BadInput, Refused
from rooms.common.writing import Sent, kept_by, write
from rooms.cooler.actions.event import note_event
from rooms.cooler.models import Bag
from rooms.cooler.rules.days import core_bags, set_days
from rooms.cooler.rules.held import refuse_held
from rooms.cooler.rules.one_bag import known_bag


@dataclass(frozen=True)
class Remainder:
    """What goes back of an opened bag, packed again with a clock of its own."""

    key: uuid.UUID
    weight: Weight
    packed_on: date
    freight: Decimal = ZERO
    discount: Decimal = ZERO


def repack(bag_id: UUID, rest: Remainder, by_id: int | None) -> Bag:
    """Part of an opened bag goes back into the cooler, on a shorter clock of its own.

    It keeps the trace of the first, and never outlives it: the first one's end is its use-by.
    """
    values = {"bag": bag_id, "weight": rest.weight}
    sent = Sent(rest.key, "repack", f"{rest.weight} packed again", values)
    with write(key=sent, recorded=kept_by(Bag, rest.key, by="pk")) as door:
        if door.first is not None:
            return door.first
        bag = known_bag(bag_id, must_be_in=False)
        if bag.state != Bag.State.OPENED:
            raise Refused("This bag is not opened: nothing of it can be packed again.")
        refuse_held([bag.lot])
        back = sum((part.weight.to(rest.weight.unit) for part in bag.parts.all()), ZERO)
        whole = bag.weight.to(rest.weight.unit)
        if rest.weight.value <= 0 or back + rest.weight.value > whole:
            raise BadInput(
                f"Weight: {rest.weight.value} {rest.weight.unit}; above 0 and at most"
                f" {whole - back:.2f} of this bag is right."
            )
        if rest.packed_on > timezone.localdate():
            raise BadInput(f"Packed on: {rest.packed_on} is still to come.")
        part = Bag(
            pk=rest.key,
            delivery=bag.delivery,
            piece=bag.piece,
            gtin="",
            lot=bag.lot,
            grade=bag.grade,
            country=bag.country,
            born=bag.born,
            raised=bag.raised,
            slaughtered=bag.slaughtered,
            weight_value=rest.weight.value,
            weight_unit=rest.weight.unit.value,
            price_amount=bag.price_amount,
            price_per=bag.price_per,
            freight=rest.freight,
            discount=rest.discount,
            packed_on=rest.packed_on,
            use_by=_end_of(bag),
            came_at=timezone.now(),
            was_frozen=bag.was_frozen,
            damage=bag.damage,
            marbling=bag.marbling,
            claims=bag.claims,
            part_of=bag,
        )
        set_days([part])
        part.save(force_insert=True)
        words = f"{rest.weight.value} {rest.weight.unit} packed again"
        note_event(bag, "part", words, by_id)
        note_event(part, "came", f"{words}, part of a bag of delivery {bag.delivery.number}", by_id)
    return part


def _end_of(bag: Bag) -> date | None:
    core = core_bags([bag]).get(bag.pk)
    return core.ends_on if core else None
