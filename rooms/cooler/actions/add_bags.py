"""Bags of an open delivery: all of them or none."""

from collections import Counter
from dataclasses import dataclass, replace
from datetime import date
from decimal import Decimal
from uuid import UUID, uuid5

from django.utils import timezone

from cutting.quantities import ZERO
from rooms.common.db.lengths import too_long
from rooms.common.db.writing import write
from rooms.common.errors import BadInput, Refused
from rooms.cooler.models import Bag, BagEvent, Delivery, DeliveryFile, ProductCode
from rooms.cooler.queries.codes import is_gtin
from rooms.cooler.queries.days import set_days
from rooms.cooler.queries.new_bag import NewBag
from rooms.cooler.queries.one_delivery import open_delivery

HEAVIEST = Decimal(1000)
OLDEST_DAYS = 400


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
