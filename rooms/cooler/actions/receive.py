"""Receiving: a delivery is started, its bags are added, it is checked and closed."""

import uuid
from collections import Counter
from dataclasses import dataclass, field
from datetime import date, datetime
from decimal import Decimal

from django.conf import settings
from django.db import transaction
from django.utils import timezone

from cutting.quantities import ZERO, Unit
from cutting.receiving import differences, spread, totals
from cutting.temperature import LIMIT
from rooms.catalog.models import Piece
from rooms.common.errors import BadInput, Refused
from rooms.common.lengths import must_fit, too_long
from rooms.common.numbers import next_numbers
from rooms.cooler.codes import is_gtin
from rooms.cooler.models import Bag, BagEvent, Delivery, DeliveryFile, ProductCode, Seal
from rooms.cooler.rules import keep_days, set_days
from rooms.staff.models import Person

HEAVIEST = Decimal(1000)
OLDEST_DAYS = 400


@dataclass(frozen=True)
class Header:
    """What is known when a delivery comes in. `key` becomes its id."""

    key: uuid.UUID
    supplier: str
    establishment: str = ""
    invoice: str = ""


@dataclass(frozen=True)
class NewBag:
    """One bag as typed, read or scanned. `place`: where it stood, for the report."""

    weight: Decimal
    unit: str
    packed_on: date
    piece: Piece | None = None
    gtin: str = ""
    serial: str = ""
    lot: str = ""
    grade: str = ""
    country: str = ""
    pieces_inside: int = 1
    price: Decimal | None = None
    price_per: str = "lb"
    use_by: date | None = None
    seal: str = Seal.TIGHT
    was_frozen: bool = False
    key: uuid.UUID = field(default_factory=uuid.uuid4)
    place: str = ""


@dataclass(frozen=True)
class FileRead:
    """A file the bags came from, by the digest of its bytes."""

    digest: str
    name: str


def start_delivery(header: Header, by_id: int | None, at: datetime | None = None) -> Delivery:
    """A new open delivery. Repeating the same one returns it."""
    if not header.supplier.strip():
        raise BadInput("Supplier: it is empty; the name on the invoice is right.")
    with transaction.atomic():
        already = Delivery.objects.filter(pk=header.key).first()
        if already is not None:
            return already
        delivery = Delivery(
            pk=header.key, number=next_numbers(Delivery)[0], supplier=header.supplier.strip(),
            establishment=header.establishment.strip(), invoice=header.invoice.strip(),
            freight=ZERO, discount=ZERO, received_at=at or timezone.now(), received_by_id=by_id,
        )  # fmt: skip
        must_fit(delivery)
        delivery.save(force_insert=True)
    return delivery


def add_bags(
    delivery_id, new: list[NewBag], by_id: int | None, file: FileRead | None = None
) -> list[Bag]:
    """Add bags to an open delivery, all or none. Bags that are there already are left alone.

    BadInput carries `faults`: one (place, words) for each thing wrong. A file read twice is
    refused.
    """
    with transaction.atomic():
        delivery = _open(delivery_id)
        if file is not None and (was := DeliveryFile.objects.filter(digest=file.digest).first()):
            raise Refused(
                f"{file.name} was read before, into delivery {was.delivery.number}."
                " Nothing was changed."
            )
        there = set(
            Bag.objects.filter(pk__in=[one.key for one in new]).values_list("pk", flat=True)
        )
        new = [one for one in new if one.key not in there]
        rows = [_row(one, delivery) for one in new]
        found = _faults(new, rows, timezone.localdate(delivery.received_at))
        if found:
            raise BadInput(" ".join(f"{where}: {words}" for where, words in found[:5]),
                           faults=found)  # fmt: skip
        if file is not None:
            DeliveryFile.objects.create(
                digest=file.digest, delivery=delivery, name=file.name[-200:], at=timezone.now()
            )
        _ask_about_codes(new)
        bags = Bag.objects.bulk_create(set_days(rows), batch_size=500)
        BagEvent.objects.bulk_create(
            [BagEvent(bag=bag, kind="came", words=f"came with delivery {delivery.number}",
                      at=delivery.received_at, by_id=by_id) for bag in bags],
            batch_size=500,
        )  # fmt: skip
    return bags


def _open(delivery_id) -> Delivery:
    delivery = Delivery.objects.filter(pk=delivery_id).first()
    if delivery is None:
        raise BadInput("Delivery: it is not known; start it first.")
    if not delivery.is_open:
        raise Refused(f"Delivery {delivery.number} is closed. Start another for what came later.")
    return delivery


def _faults(new: list[NewBag], rows: list[Bag], received: date) -> list[tuple[str, str]]:
    found = []
    serials = [(one.gtin, one.serial) for one in new if one.serial]
    known = {
        (bag.gtin, bag.serial): bag
        for bag in Bag.objects.filter(serial__in=[serial for _, serial in serials])
        .exclude(state=Bag.State.BACK)
        .select_related("delivery")
    }
    twice = {pair for pair, count in Counter(serials).items() if count > 1}
    for i, one in enumerate(new, start=1):
        where = one.place or f"bag {i}"
        found += [(where, words) for words in _wrong(one, received) + too_long(rows[i - 1])]
        pair = (one.gtin, one.serial)
        if pair in twice:
            found.append((where, f"serial {one.serial} stands twice in this list"))
        elif one.serial and pair in known:
            number = known[pair].delivery.number
            found.append((where, f"serial {one.serial} came with delivery {number} already"))
    return found


def _wrong(one: NewBag, received: date) -> list[str]:
    wrong = []
    if not 0 < one.weight <= HEAVIEST:
        wrong.append(f"weight {one.weight}; above 0 and at most {HEAVIEST} is right")
    if one.unit not in ("lb", "kg"):
        wrong.append(f"unit “{one.unit}”; lb or kg is right")
    if one.packed_on > received:
        wrong.append(f"packed on {one.packed_on}, after it came on {received}")
    elif (received - one.packed_on).days > OLDEST_DAYS:
        wrong.append(f"packed on {one.packed_on}, more than {OLDEST_DAYS} days before it came")
    if one.use_by is not None and one.use_by < one.packed_on:
        wrong.append(f"use by {one.use_by}, before it was packed on {one.packed_on}")
    if one.piece is None and not one.gtin:
        wrong.append("neither a piece nor a product code; one of them is right")
    if one.gtin and not is_gtin(one.gtin):
        wrong.append(f"product code {one.gtin[:20]}; 14 digits with their check digit are right")
    if one.price is not None and not 0 < one.price <= 10000:
        wrong.append(f"price {one.price}; above 0 is right")
    if not 1 <= one.pieces_inside <= 200:
        wrong.append(f"{one.pieces_inside} pieces inside; 1 to 200 is right")
    return wrong


def _ask_about_codes(new: list[NewBag]) -> None:
    """A code nobody has named becomes a question; the bag is kept."""
    codes = {one.gtin for one in new if one.gtin}
    known = set(ProductCode.objects.filter(gtin__in=codes).values_list("gtin", flat=True))
    named = {one.gtin: one.piece for one in new if one.piece is not None}
    ProductCode.objects.bulk_create(
        [ProductCode(gtin=code, piece=named.get(code)) for code in sorted(codes - known)]
    )


def _row(one: NewBag, delivery: Delivery) -> Bag:
    return Bag(
        pk=one.key, delivery=delivery, piece=one.piece, gtin=one.gtin, serial=one.serial,
        lot=one.lot, grade=one.grade, country=one.country, pieces_inside=one.pieces_inside,
        weight_value=one.weight, weight_unit=one.unit, price_amount=one.price,
        price_per=one.price_per, freight=ZERO, discount=ZERO, packed_on=one.packed_on,
        use_by=one.use_by, seal=one.seal, was_frozen=one.was_frozen, came_at=delivery.received_at,
    )  # fmt: skip


@dataclass(frozen=True)
class Check:
    """What the invoice says, and how cold the delivery came."""

    freight: Decimal = ZERO
    discount: Decimal = ZERO
    arrival: int | None = None
    arrival_reason: str = ""
    bags: int | None = None
    weight: Decimal | None = None
    amount: Decimal | None = None
    difference_reason: str = ""


def close_delivery(delivery_id, check: Check, by_id: int | None) -> Delivery:
    """Check a delivery against its invoice, spread freight and discount over its bags.

    Above the limit it needs a reason and somebody who signs (FDA Food Code 3-202.11); where the
    invoice disagrees it needs a reason.
    """
    with transaction.atomic():
        delivery = _open(delivery_id)
        bags = list(delivery.bags.exclude(state=Bag.State.BACK).select_related("piece"))
        if not bags:
            raise BadInput("Bags: there is none; add what came before you close the delivery.")
        _signed(check, by_id)
        lines = [bag.line for bag in bags]
        unpriced = sum(line is None for line in lines)
        if unpriced:
            raise BadInput(f"Price: {unpriced} of {len(bags)} bags have none; set it above.")
        _origin(bags)
        received = totals(lines, unit_of(bags))
        wrong = differences(received, check.bags, check.weight, check.amount)
        if wrong and not check.difference_reason.strip():
            words = ", ".join(f"{d.what}: {d.billed} billed, {d.received} here" for d in wrong)
            raise BadInput(f"Invoice: {words}. Write why, or correct the bags.")
        _spread(bags, check)
        delivery.freight, delivery.discount = check.freight, check.discount
        delivery.arrival, delivery.arrival_reason = check.arrival, check.arrival_reason.strip()
        delivery.invoice_bags, delivery.invoice_weight = check.bags, check.weight
        delivery.invoice_amount = check.amount
        delivery.difference_reason = check.difference_reason.strip()
        delivery.closed_at = timezone.now()
        delivery.save()
    return delivery


def price_bags(delivery_id, amount: Decimal, per: str, by_id: int | None) -> int:
    """Put a price on the bags of an open delivery that have none. Returns how many."""
    if per not in ("lb", "kg"):
        raise BadInput(f"Unit: “{per}”; lb or kg is right.")
    if not 0 < amount <= 10000:
        raise BadInput(f"Price: {amount}; above 0 is right.")
    with transaction.atomic():
        delivery = _open(delivery_id)
        bags = list(delivery.bags.filter(price_amount=None))
        delivery.bags.filter(price_amount=None).update(price_amount=amount, price_per=per)
        BagEvent.objects.bulk_create(
            [BagEvent(bag=bag, kind="priced", words=f"price {amount} a {per}", at=timezone.now(),
                      by_id=by_id) for bag in bags]
        )  # fmt: skip
    return len(bags)


def _signed(check: Check, by_id: int | None) -> None:
    if check.arrival is None:
        raise BadInput("Temperature: it is empty; measure between two bags and type it.")
    if not -30000 <= check.arrival <= 40000:
        raise BadInput(f"Temperature: {check.arrival / 1000} °C; -30 to 40 is right.")
    if check.arrival <= LIMIT:
        return
    if not check.arrival_reason.strip():
        raise Refused(
            f"Temperature: {check.arrival / 1000} °C is above {LIMIT / 1000:.0f} °C (41 °F; Food"
            " Code 3-202.11). Send it back, or write why it is taken, and sign."
        )
    if by_id is None or not Person.objects.filter(pk=by_id).exists():
        raise Refused("Signature: nobody is named at the block; say who takes it.")


def unit_of(bags: list[Bag]) -> Unit:
    """The unit of a delivery's sums: the bags' own, the shop's where they differ."""
    units = {bag.weight_unit for bag in bags}
    return Unit(units.pop() if len(units) == 1 else settings.SHOP["unit"])


def _origin(bags: list[Bag]) -> None:
    asked = [bag for bag in bags if bag.piece_id and not bag.country
             and bag.piece.species in settings.SHOP["origin_asked"]]  # fmt: skip
    if asked:
        raise BadInput(
            f"Country of origin: {len(asked)} bags of {asked[0].piece.species} have none; it is"
            " asked for (7 CFR 65). Send them in again with it, or change them on their page."
        )


def _spread(bags: list[Bag], check: Check) -> None:
    pounds = [bag.weight.to(Unit.LB) for bag in bags]
    for name in ("freight", "discount"):
        parts = spread(getattr(check, name), pounds)
        for bag, part in zip(bags, parts, strict=True):
            setattr(bag, name, part)
    Bag.objects.bulk_update(bags, ["freight", "discount"], batch_size=500)


def name_code(gtin: str, piece: Piece, by_id: int | None) -> int:
    """Say what a product code stands for; its bags without a piece get it. Returns how many."""
    with transaction.atomic():
        code = ProductCode.objects.filter(gtin=gtin).first()
        if code is None:
            raise BadInput(f"Product code: {gtin} never came; one of the list is right.")
        code.piece = piece
        code.save(update_fields=["piece"])
        bags = list(Bag.objects.filter(gtin=gtin, piece=None))
        named = Bag.objects.filter(pk__in=[bag.pk for bag in bags])
        named.update(piece=piece)
        keep_days(named)
        words = f"product code {gtin} is {piece.shown_name}"
        BagEvent.objects.bulk_create(
            [BagEvent(bag=bag, kind="named", words=words, at=timezone.now(), by_id=by_id)
             for bag in bags]
        )  # fmt: skip
    return len(bags)
