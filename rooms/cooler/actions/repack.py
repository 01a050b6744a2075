"""Part of an opened bag, or a piece cut from it, goes into the cooler as a bag of its own."""

import uuid
from dataclasses import dataclass
from datetime import date
from decimal import Decimal
from uuid import UUID

from django.utils import timezone

from cutting.quantities import ZERO, UnitPrice, Weight
from rooms.catalog.models import Piece
from rooms.common.db.writing import Sent, kept_by, write
from rooms.common.errors import BadInput, Refused
from rooms.cooler.actions.event import note_event
from rooms.cooler.actions.whole import carry
from rooms.cooler.models import Bag
from rooms.cooler.queries.held import refuse_held
from rooms.cooler.queries.one_bag import known_bag


@dataclass(frozen=True)
class Remainder:
    """What goes back of an opened bag, packed again with a clock of its own."""

    key: uuid.UUID
    weight: Weight
    packed_on: date
    freight: Decimal = ZERO
    discount: Decimal = ZERO


@dataclass(frozen=True)
class CutPiece:
    """A whole piece that was cut from an opened bag. `cut_at`: where, in words."""

    key: uuid.UUID
    piece: Piece
    weight: Weight
    price: UnitPrice
    cut_on: date
    is_sealed: bool
    cut_at: str


def repack(bag_id: UUID, rest: Remainder, by_id: int | None) -> Bag:
    """Part of an opened bag goes back into the cooler, on a shorter clock of its own.

    It keeps the trace of the first, and never outlives it: the first one's end is its use-by.
    """
    values = {"bag": bag_id, "weight": rest.weight}
    sent = Sent(rest.key, "repack", f"{rest.weight} packed again", values)
    with write(key=sent, recorded=kept_by(Bag, rest.key, by="pk")) as door:
        if door.first is not None:
            return door.first
        bag = _opened(bag_id)
        back = sum((part.weight.to(rest.weight.unit) for part in bag.parts.all()), ZERO)
        whole = bag.weight.to(rest.weight.unit)
        if rest.weight.value <= 0 or back + rest.weight.value > whole:
            raise BadInput(
                f"Weight: {rest.weight.value} {rest.weight.unit}; above 0 and at most"
                f" {whole - back:.2f} of this bag is right."
            )
        if rest.packed_on > timezone.localdate():
            raise BadInput(f"Packed on: {rest.packed_on} is still to come.")
        part = _apart(bag, rest.key, rest.weight, rest.packed_on)
        part.part_of, part.piece = bag, bag.piece
        part.price_amount, part.price_per = bag.price_amount, bag.price_per
        part.freight, part.discount = rest.freight, rest.discount
        carry(bag, part)
        part.save(force_insert=True)
        words = f"{rest.weight.value} {rest.weight.unit} packed again"
        note_event(bag, "part", words, by_id)
        note_event(part, "came", f"{words}, part of a bag of delivery {bag.delivery.number}", by_id)
    return part


def keep_piece(bag_id: UUID, cut: CutPiece, by_id: int | None) -> Bag:
    """A whole piece cut from an opened bag goes into the cooler as a bag: with the lot, the origin and all
    else that travels with the meat, on the shorter clock of opened meat, never later than the end of that bag.

    It ages on only where it was sealed again. Raises Refused for a bag that is not opened, or of a held lot.
    Called inside the transaction of the action that says what was cut.
    """
    bag = _opened(bag_id)
    piece = _apart(bag, cut.key, cut.weight, cut.cut_on)
    piece.cut_of, piece.piece, piece.is_unsealed = bag, cut.piece, not cut.is_sealed
    piece.price_amount, piece.price_per = cut.price.amount, cut.price.per.value
    carry(bag, piece)
    piece.save(force_insert=True)
    words = f"{cut.piece.shown_name}, {cut.weight}, {cut.cut_at}"
    sealed = "sealed again" if cut.is_sealed else "not sealed"
    note_event(bag, "piece", f"cut from it: {words}", by_id)
    note_event(piece, "came", f"{words}, {sealed}", by_id)
    return piece


def _opened(bag_id: UUID) -> Bag:
    """A bag of which something may be kept."""
    bag = known_bag(bag_id, must_be_in=False)
    if bag.state != Bag.State.OPENED:
        raise Refused("This bag is not opened: nothing of it can be packed again.")
    refuse_held([bag.lot])
    return bag


def _apart(bag: Bag, key: UUID, weight: Weight, packed_on: date) -> Bag:
    """A bag of what was in another; not saved."""
    return Bag(
        pk=key,
        delivery=bag.delivery,
        gtin="",
        weight_value=weight.value,
        weight_unit=weight.unit.value,
        freight=ZERO,
        discount=ZERO,
        packed_on=packed_on,
        came_at=timezone.now(),
        damage=bag.damage,
        marbling=bag.marbling,
    )
