"""Deliveries: started, filled with bags, checked and closed."""

import uuid
from collections import Counter
from dataclasses import dataclass, replace
from datetime import date, datetime
from decimal import Decimal
from uuid import UUID, uuid5

from django.utils import timezone

from cutting.cooler.receiving import differences, spread, totals
from cutting.quantities import ZERO, Unit
from rooms.catalog.models import Piece
from rooms.common.db.lengths import must_fit, too_long
from rooms.common.db.numbers import next_numbers
from rooms.common.db.writing import Sent, kept_by, write
from rooms.common.errors import BadInput, Refused
from rooms.cooler.actions.days import keep_days
from rooms.cooler.models import Bag, BagEvent, Delivery, DeliveryFile, ProductCode
from rooms.cooler.queries.codes import is_gtin
from rooms.cooler.queries.days import set_days
from rooms.cooler.queries.meat import asks_origin
from rooms.cooler.queries.new_bag import NewBag
from rooms.cooler.queries.one_delivery import open_delivery, unit_of
from rooms.shop.queries.current import house
from rooms.staff.models import Person
from wording.cooler import limit_words

HEAVIEST = Decimal(1000)
OLDEST_DAYS = 400


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


@dataclass(frozen=True)
class FileRead:
    """A file the bags came from, by the digest of its bytes."""

    digest: str
    name: str


def add_bags(
    delivery_id: UUID,
    new: list[NewBag],
    by_id: int | None,
    file: FileRead | None = None,
    page_key: str = "",
) -> list[Bag]:
    """Add bags to an open delivery, all or none. Bags that are there already are left alone.

    `page_key`: bags that bring no key of their own get one from the page they were typed on.

    BadInput carries `faults`: one (place, words) for each thing wrong. A file read twice is
    refused.
    """
    new = _keyed(new, page_key)
    with write():
        delivery = open_delivery(delivery_id)
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
            raise BadInput(
                " ".join(f"{where}: {words}" for where, words in found[:5]), faults=found
            )
        if file is not None:
            DeliveryFile.objects.create(
                digest=file.digest, delivery=delivery, name=file.name[-200:], at=timezone.now()
            )
        _ask_about_codes(new)
        bags = Bag.objects.bulk_create(set_days(rows), batch_size=500)
        BagEvent.objects.bulk_create(
            [
                BagEvent(
                    bag=bag,
                    kind="came",
                    words=f"came with delivery {delivery.number}",
                    at=delivery.received_at,
                    by_id=by_id,
                )
                for bag in bags
            ],
            batch_size=500,
        )
    return bags


def _keyed(bags: list[NewBag], key: str) -> list[NewBag]:
    """Each bag under a key made from the page's, its place and what it is.

    A repeated request adds nothing; another list sent from the same page is another list.
    """
    try:
        page = UUID(key)
    except ValueError:
        return bags
    keyed = []
    for i, bag in enumerate(bags):
        what = (i, bag.weight, bag.unit, bag.lot, bag.serial, bag.gtin, bag.packed_on)
        keyed.append(replace(bag, key=uuid5(page, "|".join(str(each) for each in what))))
    return keyed


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
        pk=one.key,
        delivery=delivery,
        piece=one.piece,
        gtin=one.gtin,
        serial=one.serial,
        lot=one.lot,
        grade=one.grade,
        country=one.country,
        born=one.born,
        raised=one.raised,
        slaughtered=one.slaughtered,
        pieces_inside=one.pieces_inside,
        weight_value=one.weight,
        weight_unit=one.unit,
        price_amount=one.price,
        price_per=one.price_per,
        freight=ZERO,
        discount=ZERO,
        packed_on=one.packed_on,
        use_by=one.use_by,
        seal=one.seal,
        was_frozen=one.was_frozen,
        damage=list(one.damage),
        marbling=one.marbling,
        claims=one.claims,
        came_at=delivery.received_at,
    )


def name_code(gtin: str, piece: Piece, by_id: int | None) -> int:
    """Say what a product code stands for; its bags without a piece get it. Returns how many."""
    with write():
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
            [
                BagEvent(bag=bag, kind="named", words=words, at=timezone.now(), by_id=by_id)
                for bag in bags
            ]
        )
    return len(bags)


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
