"""What happens to a bag in the cooler. Each change is an event with who and when."""

import uuid
from dataclasses import dataclass
from datetime import date, datetime
from decimal import Decimal

from django.conf import settings
from django.db import transaction
from django.utils import timezone

from cutting.quantities import ZERO, Weight
from cutting.receiving import short_weight
from rooms.common.errors import BadInput, Refused
from rooms.cooler.codes import country_named
from rooms.cooler.models import Bag, BagEvent, Seal
from rooms.cooler.rules import core_bags, set_days

LEAVING = {Bag.State.BACK: "sent back to the supplier", Bag.State.OUT: "thrown away"}


def _bag(bag_id, *, must_be_in: bool = True) -> Bag:
    bag = Bag.objects.select_related("piece", "delivery").filter(pk=bag_id).first()
    if bag is None:
        raise BadInput("Bag: it is not known; choose one of the cooler.")
    if must_be_in:
        _must_be_in(bag)
    return bag


def _must_be_in(bag: Bag) -> None:
    if bag.state != Bag.State.IN:
        when = timezone.localtime(bag.left_at)
        raise Refused(f"This bag is {bag.get_state_display()} since {when:%d %b %H:%M}.")


def _event(bag: Bag, kind: str, words: str, by_id: int | None, at: datetime | None = None) -> None:
    BagEvent.objects.create(bag=bag, kind=kind, words=words, at=at or timezone.now(), by_id=by_id)


def set_seal(bag_id, seal: str, by_id: int | None, at: datetime | None = None) -> Bag:
    """What the seal looks like now. Saying the same twice changes nothing."""
    if seal not in Seal.values:
        raise BadInput(f"Seal: “{seal}”; {', '.join(Seal.values)} are right.")
    with transaction.atomic():
        bag = _bag(bag_id)
        if bag.seal != seal:
            bag.seal = seal
            bag.save(update_fields=["seal"])
            _event(bag, "seal", f"seal {seal}", by_id, at)
    return bag


def set_origin(bag_id, country: str, by_id: int | None) -> Bag:
    """The country of origin of a bag that came without one, or with the wrong one."""
    country = country_named(country)
    if not 0 < len(country) <= 60:
        raise BadInput("Country of origin: its name is right, at most 60 letters.")
    with transaction.atomic():
        bag = _bag(bag_id)
        if bag.country != country:
            bag.country = country
            bag.save(update_fields=["country"])
            _event(bag, "origin", f"country of origin {country}", by_id)
    return bag


def leave(bag_id, state: str, reason: str, by_id: int | None, at: datetime | None = None) -> Bag:
    """A bag is sent back or thrown away; it needs a reason."""
    if state not in LEAVING:
        raise BadInput(f"State: “{state}”; back or out is right.")
    reason = " ".join(reason.split())[:250]
    if not reason:
        raise BadInput("Reason: it is empty; write why the bag leaves.")
    with transaction.atomic():
        bag = _bag(bag_id)
        _out(bag, state, at)
        _event(bag, state, f"{LEAVING[Bag.State(state)]}: {reason}", by_id, at)
    return bag


def _out(bag: Bag, state: str, at: datetime | None) -> None:
    bag.state, bag.left_at = state, at or timezone.now()
    bag.save(update_fields=["state", "left_at"])


@dataclass(frozen=True)
class Remainder:
    """What goes back of an opened bag, packed again with a clock of its own."""

    key: uuid.UUID
    weight: Weight
    packed_on: date
    freight: Decimal = ZERO
    discount: Decimal = ZERO


def repack(bag_id, rest: Remainder, by_id: int | None) -> Bag:
    """Part of an opened bag goes back into the cooler, on a shorter clock of its own.

    It keeps the trace of the first, and never outlives it: the first one's end is its use-by.
    """
    with transaction.atomic():
        already = Bag.objects.filter(pk=rest.key).first()
        if already is not None:
            return already
        bag = _bag(bag_id, must_be_in=False)
        if bag.state != Bag.State.OPENED:
            raise Refused("This bag is not opened: nothing of it can be packed again.")
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
            pk=rest.key, delivery=bag.delivery, piece=bag.piece, gtin="", lot=bag.lot,
            grade=bag.grade, country=bag.country, weight_value=rest.weight.value,
            weight_unit=rest.weight.unit.value, price_amount=bag.price_amount,
            price_per=bag.price_per, freight=rest.freight, discount=rest.discount,
            packed_on=rest.packed_on, use_by=_end_of(bag), came_at=timezone.now(), part_of=bag,
        )  # fmt: skip
        set_days([part])
        part.save(force_insert=True)
        words = f"{rest.weight.value} {rest.weight.unit} packed again"
        _event(bag, "part", words, by_id)
        _event(part, "came", f"{words}, part of a bag of delivery {bag.delivery.number}", by_id)
    return part


def _end_of(bag: Bag) -> date | None:
    core = core_bags([bag]).get(bag.pk)
    return core.ends_on if core else None


def weigh_again(bag_id, own: Weight, by_id: int | None) -> Bag:
    """The bag on the shop's own scale, unopened: the base of a short-weight claim."""
    with transaction.atomic():
        bag = _bag(bag_id)
        bag.own_value, bag.own_unit = own.value, own.unit.value
        bag.save(update_fields=["own_value", "own_unit"])
        words = f"own scale says {own.value} {own.unit}"
        if (short := claim_of(bag)) is not None:
            words += f", {short.missing:.2f} short"
        _event(bag, "weighed", words, by_id)
    return bag


def claim_of(bag: Bag):
    """What is claimed for a bag, None where there is nothing to claim."""
    if bag.own_value is None or bag.line is None:
        return None
    own = Weight.of(f"{bag.own_value:f}", bag.own_unit)
    return short_weight(
        bag.line, own, Weight.of(settings.SCALE["division"], settings.SCALE["unit"])
    )


@transaction.atomic
def take_out(bag_ids: list, words: str, by_id: int | None, at: datetime | None = None) -> list[Bag]:
    """Bags are opened for a test. All or none; a bag that is out already is refused.

    Three queries for any number of them.
    """
    found = Bag.objects.select_for_update(of=("self",)).select_related("piece", "delivery")
    found = found.in_bulk(bag_ids)
    if len(found) < len(set(bag_ids)):
        raise BadInput("Bag: it is not known; choose one of the cooler.")
    bags, when = [found[bag_id] for bag_id in bag_ids], at or timezone.now()
    for bag in bags:
        _must_be_in(bag)
        if bag.piece_id is None:
            raise Refused(f"Product code {bag.gtin} is not named yet; say what piece it is.")
        bag.state, bag.left_at = Bag.State.OPENED, when
    Bag.objects.bulk_update(bags, ["state", "left_at"])
    BagEvent.objects.bulk_create(
        BagEvent(bag=bag, kind="opened", words=words, at=when, by_id=by_id) for bag in bags
    )
    return bags
