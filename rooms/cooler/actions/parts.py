"""Parts and pieces of a bag: packed again, sealed again, and what follows the bag they came from."""

import uuid
from dataclasses import dataclass
from datetime import date
from decimal import Decimal
from typing import Any
from uuid import UUID

from django.utils import timezone

from cutting.quantities import ZERO, UnitPrice, Weight
from rooms.catalog.models import Piece
from rooms.common.db.writing import Sent, kept_by, write
from rooms.common.errors import BadInput, Refused
from rooms.cooler.actions.days import keep_days
from rooms.cooler.actions.events import note_event
from rooms.cooler.models import Bag
from rooms.cooler.queries.days import core_bags, set_days
from rooms.cooler.queries.held import refuse_held
from rooms.cooler.queries.one_bag import known_bag

WORDS = {
    "lot": "lot",
    "grade": "grade",
    "country": "country of origin",
    "born": "born in",
    "raised": "raised in",
    "slaughtered": "slaughtered in",
    "claims": "claims",
    "was_frozen": "signs of freezing",
    "use_by": "use by",
    "age_before": "days of age when it was packed",
}
CARRIED = ("lot", "grade", "country", "born", "raised", "slaughtered", "claims")
KEPT = (
    *CARRIED,
    "lot_key",
    "was_frozen",
    "use_by",
    "age_before",
    "old_enough_on",
    "best_from",
    "best_to",
    "ends_on",
    "lost_days",
)
"""The columns that may change with the bag it came from."""


def carry(whole: Bag, part: Bag) -> dict[str, tuple[Any, Any]]:
    """Give a bag what it has from the one it came from, with days of its own: not saved. Returns what was
    otherwise before, by name: what it was and what it is.

    It never outlives that bag: its end is the use-by. What was once seen to be frozen stays so.
    """
    wanted = {name: getattr(whole, name) for name in CARRIED}
    wanted["was_frozen"] = whole.was_frozen or part.was_frozen
    core = core_bags([whole]).get(whole.pk)
    wanted["use_by"] = core.ends_on if core else None
    wanted["age_before"] = max(whole.aged.on(part.packed_on), 0)
    moved = {
        name: (getattr(part, name), new)
        for name, new in wanted.items()
        if getattr(part, name) != new
    }
    for name, new in wanted.items():
        setattr(part, name, new)
    set_days([part])
    return moved


def pass_on(whole: Bag, by_id: int | None) -> None:
    """Give every part and piece of a bag, to any depth, what it has from it. One query for a bag without any.

    Called inside the transaction of the action that changed the bag.
    """
    own = Bag.objects.filter(part_of=whole) | Bag.objects.filter(cut_of=whole)
    for part in own.exclude(state=Bag.State.UNDONE).select_related("piece"):
        moved = carry(whole, part)
        if not moved:
            continue
        part.save(update_fields=KEPT)
        said = "; ".join(
            f"{WORDS[name]} {_said(new)}, was {_said(was)}" for name, (was, new) in moved.items()
        )
        note_event(part, "corrected", f"as the bag it came from: {said}"[:300], by_id)
        pass_on(part, by_id)


def _said(value: object) -> str:
    if isinstance(value, bool):
        return "yes" if value else "no"
    return "–" if value in ("", None) else str(value)


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


def seal_again(bag_id: UUID, *, is_sealed: bool, by_id: int | None) -> Bag:
    """Record that an open piece was sealed today, or that it was not sealed after all. Saying the same twice
    changes nothing.

    The days it lay open add nothing to its age, and its clock still counts from the day it was cut. Raises
    Refused for a bag that was not cut here, and for one that left the cooler.
    """
    with write():
        bag = known_bag(bag_id)
        if bag.cut_of_id is None:
            raise Refused("Seal: this bag came sealed; only a piece cut here is sealed again.")
        if bag.is_unsealed != is_sealed:
            return bag
        today = timezone.localdate()
        bag.is_unsealed = not is_sealed
        bag.sealed_on = today if is_sealed and today != bag.packed_on else None
        bag.save(update_fields=["is_unsealed", "sealed_on"])
        keep_days(Bag.objects.filter(pk=bag.pk))
        words = "sealed again" if is_sealed else "not sealed after all"
        note_event(bag, "sealed", words, by_id)
    return bag
