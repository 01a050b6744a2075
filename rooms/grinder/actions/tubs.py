"""Tubs of trim: started, filled from the block or a bag, judged, thrown away, emptied."""

from dataclasses import dataclass
from datetime import date, datetime
from decimal import Decimal
from typing import Any
from uuid import UUID, uuid5

from django.db import IntegrityError, transaction
from django.utils import timezone

from cutting.grinding.judging import How
from cutting.quantities import ZERO, Unit, Weight, storable, storable_money, working
from rooms.bench.models import Output
from rooms.bench.rules.rows import load_known
from rooms.bench.rules.tubs import lots_of
from rooms.catalog.models import Pile
from rooms.common.errors import BadInput, Refused
from rooms.cooler.actions.leave import open_for_grinding
from rooms.cooler.models import Bag
from rooms.grinder.models import Judged, TrimTub, TubIn, TubLot, TubOut
from rooms.grinder.rules.lots import GOES_IN
from rooms.pricebook.models import Product
from rooms.shop.rules.current import house


@dataclass(frozen=True)
class NewTub:
    key: UUID
    name: str
    species: str
    kind: str
    primal: str = ""


def start_tub(new: NewTub, by_id: int | None) -> TrimTub:
    """The same key again gives the tub it already started."""
    with transaction.atomic():
        return TrimTub.objects.filter(pk=new.key).first() or TrimTub.objects.create(
            pk=new.key,
            name=new.name,
            species=new.species,
            kind=new.kind,
            primal=new.primal,
            unit=house().unit.value,
            started_at=timezone.now(),
            started_by_id=by_id,
        )


def hand_over(key: UUID, tub_id: UUID, output_id: int, by_id: int | None) -> TubIn:
    """A pile of a finished test goes into a tub, with the lots of its bags, at its value as a
    by-product. A pile goes in once; the same key again changes nothing.

    Raises BadInput for another animal or kind, Refused where the test is open or it went in already.
    """
    with transaction.atomic():
        tub = open_tub(tub_id)
        output = Output.objects.select_related("test", "cut").filter(pk=output_id).first()
        if output is None:
            raise BadInput("Pile: there is no such pile.")
        test = output.test
        if test.is_open:
            raise Refused(
                f"Test {test.number} is still on the block; its trim follows when it is done."
            )
        if tub.kind not in GOES_IN.get(Pile(output.pile), ()):
            raise BadInput(
                f"Pile: {output.name} does not go into a tub of {tub.get_kind_display()}."
            )
        if tub.species != test.species:
            raise BadInput(f"Pile: it is {test.species}; the tub is {tub.species}.")
        rows = load_known(test.pk)
        weight = sum(
            (Weight(w.value, Unit(w.unit)).to(Unit(tub.unit)) for w in rows.of(output)), ZERO
        )
        if weight <= 0:
            raise BadInput(f"Pile: nothing lies on {output.name}.")
        lots = [
            _lot(lot, test.supplier, test.piece_name, test.packed_on)
            for lot in lots_of([test])[test.pk]
        ]
        bags = Bag.objects.filter(opened_for__test=test).select_related("delivery")
        known = {bag.lot: bag for bag in bags}
        lots = [row | _of_bag(known[row["lot"]]) if row["lot"] in known else row for row in lots]
        cost = _value(output, tub)
        own = storable(Weight(weight, Unit(tub.unit)), Unit(tub.unit)).value
        source = TubIn.Source.TEST
        return _put(key, tub, own, source, lots, cost, test.finished_at, by_id, output=output)


def _value(output: Output, tub: TrimTub) -> Decimal:
    """What a unit of it is worth as a by-product, in the tub's unit: as its test said, else as the
    shop values it; 0 where nobody said."""
    if output.credit is not None:
        amount, per = output.credit, output.price_per
    else:
        product = Product.objects.filter(cut=output.cut_id).first() if output.cut_id else None
        if product is None or product.transfer is None:
            return ZERO
        amount, per = product.transfer, product.per
    with working():
        return storable_money(amount * Unit(tub.unit).grams / Unit(per).grams)


def _lot(lot: str, supplier: str, piece: str, packed_on: date | None) -> dict[str, str]:
    return {
        "lot": lot,
        "supplier": supplier,
        "establishment": "",
        "piece": piece,
        "packed_on": packed_on.isoformat() if packed_on else "",
    }


def _of_bag(bag: Bag) -> dict[str, str]:
    return {
        "supplier": bag.delivery.supplier,
        "establishment": bag.delivery.establishment,
        "packed_on": bag.packed_on.isoformat(),
    }


def pour_bag(key: UUID, tub_id: UUID, bag_id: UUID, lean: Decimal, by_id: int | None) -> TubIn:
    """A bag of trim or coarse grind that was bought with a stated lean goes into a tub whole, without
    a test; the bag leaves the cooler. The same key again changes nothing."""
    with transaction.atomic():
        already = TubIn.objects.filter(key=key).first()
        if already is not None:
            return already
        tub = open_tub(tub_id)
        bag = open_for_grinding(bag_id, by_id)
        if bag.piece is None or bag.piece.species != tub.species:
            raise BadInput(f"Bag: the tub is {tub.species}; a bag of it is right.")
        weight = storable(bag.weight, Unit(tub.unit)).value
        line = bag.line
        with working():
            cost = storable_money(line.amount / weight) if line else ZERO
        lots = [_lot(bag.lot, "", bag.piece.shown_name, None) | _of_bag(bag)]
        judge(tub_id, How.STATED, lean, by_id)
        return _put(
            key,
            tub,
            weight,
            TubIn.Source.BOUGHT,
            lots,
            cost,
            None,
            by_id,
            bag=bag,
            day=bag.packed_on,
        )


def _put(
    key: UUID,
    tub: TrimTub,
    weight: Decimal,
    source: str,
    lots: list[dict[str, str]],
    cost: Decimal,
    at: datetime | None,
    by_id: int | None,
    day: date | None = None,
    **what: Any,
) -> TubIn:
    if day is None:
        day = timezone.localdate(at) if at else timezone.localdate()
    row = TubIn(
        key=key,
        tub=tub,
        source=source,
        weight=weight,
        lots=lots,
        cost=cost,
        day=day,
        at=timezone.now(),
        by_id=by_id,
        **what,
    )
    try:
        with transaction.atomic():
            row.save(force_insert=True)
            TubLot.objects.bulk_create(
                TubLot(entry=row, lot=one["lot"]) for one in lots if one.get("lot")
            )
    except IntegrityError:
        already = TubIn.objects.filter(key=key).first()
        if already is None:
            raise Refused("That pile is in a tub already.") from None
        return already
    return row


def put_in(
    key: UUID,
    tub_id: UUID,
    weight: Weight,
    lots: list[dict[str, str]],
    day: date,
    by_id: int | None,
    cost: Decimal | None = None,
) -> TubIn:
    """Pieces pulled from the case, with the lots of their trays. An unknown lot is kept as a question:
    empty, never invented. `cost`: of a unit of the tub; None for what trim of the animal is worth."""
    tub = open_tub(tub_id)
    if weight.value <= 0:
        raise BadInput(f"Weight: {weight}; more than 0 is right.")
    value = storable(weight, Unit(tub.unit)).value
    if cost is None:
        cost = _worth_of_trim(tub)
    return _put(key, tub, value, TubIn.Source.CASE, lots, cost, None, by_id, day=day)


def _worth_of_trim(tub: TrimTub) -> Decimal:
    """What the shop values trim of the animal at, in the tub's unit; 0 where it has said nothing."""
    grinds = Product.objects.filter(cut__species=tub.species, cut__is_ground=True)
    product = grinds.exclude(transfer=None).first()
    if product is None or product.transfer is None:
        return ZERO
    with working():
        per = Unit(product.per)
        return storable_money(product.transfer * Unit(tub.unit).grams / per.grams)


def judge(tub_id: UUID, how: How, lean: Decimal, by_id: int | None) -> Judged:
    """How lean a tub is, as a share; the last word counts."""
    if not 0 <= lean <= 1:
        raise BadInput(f"Lean: {lean * 100:f} %; 0 to 100 % is right.")
    tub = open_tub(tub_id)
    return Judged.objects.create(tub=tub, how=how, lean=lean, at=timezone.now(), by_id=by_id)


def throw_away(key: UUID, tub_id: UUID, reason: str, by_id: int | None) -> None:
    """All that is left of a tub leaves it, with a reason, and the tub is emptied."""
    words = " ".join(reason.split())
    if not words:
        raise BadInput("Reason: it is empty; why it is thrown away is right.")
    with transaction.atomic():
        if TubOut.objects.filter(key=key).exists():
            return
        tub = open_tub(tub_id)
        left = left_of(tub)
        if left > 0:
            TubOut.objects.create(
                key=key, tub=tub, weight=left, reason=words, at=timezone.now(), by_id=by_id
            )
        _close(tub)


def close_tub(tub_id: UUID) -> None:
    """An empty tub is washed and put away; twice changes nothing."""
    with transaction.atomic():
        tub = TrimTub.objects.select_for_update().filter(pk=tub_id).first()
        if tub is None or tub.closed_at is not None:
            return
        left = left_of(tub)
        if left > 0:
            raise BadInput(f"Tub: {left:f} {tub.unit} are in it; an empty one is right.")
        _close(tub)


def _close(tub: TrimTub) -> None:
    tub.closed_at = timezone.now()
    tub.save(update_fields=["closed_at"])


def open_tub(tub_id: UUID) -> TrimTub:
    """Locked. Raises Refused for one that is put away."""
    tub = TrimTub.objects.select_for_update().filter(pk=tub_id).first()
    if tub is None:
        raise BadInput("Tub: there is no such tub.")
    if tub.closed_at is not None:
        raise Refused(f"{tub.name} was emptied; take another tub.")
    return tub


def left_of(tub: TrimTub) -> Decimal:
    """In its unit: two queries."""
    with working():
        into = sum(tub.ins.values_list("weight", flat=True), ZERO)
        return into - sum(tub.outs.values_list("weight", flat=True), ZERO)


def key_of(key: UUID, what: str) -> UUID:
    """A key for a part of one request."""
    return uuid5(key, what)
