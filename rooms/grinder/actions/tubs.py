"""Tubs of trim: started, filled from the block or a bag, judged, thrown away, emptied."""

from dataclasses import dataclass, field
from datetime import date
from decimal import Decimal
from typing import Any
from uuid import UUID, uuid5

from django.db import IntegrityError
from django.db.models import F
from django.utils import timezone

from cutting.costing.schools import CostingSchool, unit_costs
from cutting.costing.sheet import compute
from cutting.grinding.judging import How
from cutting.meat import Meat, why_not_in_tub
from cutting.quantities import ZERO, Unit, Weight, storable, storable_money, working
from rooms.bench.models import Output
from rooms.bench.queries.meat import bags_of_tests, meat_of_pile
from rooms.bench.queries.pile_left import left_on_pile
from rooms.bench.queries.rows import TestRows, load_known
from rooms.catalog.models import Pile
from rooms.common.db.writing import Sent, kept_by, savepoint, write
from rooms.common.errors import BadInput, Refused
from rooms.cooler.actions.bags import open_for_grinding, return_to_cooler
from rooms.cooler.queries.held import holds_now, refuse_held
from rooms.cooler.queries.meat import meat_of_bags
from rooms.grinder.models import (
    GrinderRules,
    Judged,
    LotAnswer,
    Sample,
    TakenBack,
    TrimTub,
    TubIn,
    TubLot,
    TubOut,
    Warmth,
)
from rooms.grinder.queries.house import house_rules
from rooms.grinder.queries.lots import GOES_IN, Lot, is_known, lots_in, lots_of_batch, with_answers
from rooms.grinder.queries.meat import meat_of_batch
from rooms.grinder.queries.sources import Origin, lot_of_bag, lots_of_test, origin_of_tray
from rooms.grinder.signals import entry_taken_back
from rooms.pricebook.models import Product
from rooms.shop.queries.current import house


@dataclass(frozen=True)
class NewTub:
    key: UUID
    name: str
    species: str
    kind: str
    primal: str = ""


def start_tub(new: NewTub, by_id: int | None) -> TrimTub:
    """The same key again gives the tub it already started."""
    values = {name: getattr(new, name) for name in ("name", "species", "kind", "primal")}
    sent = Sent(new.key, "start tub", f"tub {new.name}, {new.species}", values)

    with write(key=sent, recorded=kept_by(TrimTub, new.key, *values, by="pk")) as door:
        return door.first or TrimTub.objects.create(
            pk=new.key,
            **values,
            unit=house().unit.value,
            started_at=timezone.now(),
            started_by_id=by_id,
        )


@dataclass(frozen=True)
class Going:
    """What goes into a tub: weight and cost of a unit in the tub's unit, its lots, the day it was cut, and
    what its meat is."""

    weight: Decimal
    source: str
    lots: list[Lot]
    cost: Decimal
    day: date
    meat: Meat
    more: dict[str, Any] = field(default_factory=dict)


def hand_over(key: UUID, tub_id: UUID, output_id: int, by_id: int | None) -> TubIn:
    """What lies on a pile of a finished test goes into a tub, with the lots of its bags, at its value as a
    by-product. A pile goes in once; the same key again changes nothing.

    Raises BadInput for another animal or kind, Refused where the test is open or it went in already.
    """
    sent = Sent(key, "hand over", f"pile {output_id}", {"tub": tub_id, "output": output_id})
    with write(key=sent, recorded=kept_by(TubIn, key, tub="tub_id", output="output_id")) as door:
        if door.first is not None:
            return door.first
        tub = open_tub(tub_id)
        rows = Output.objects.select_related("test", "cut__muscle")
        output = rows.filter(pk=output_id).first()
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
        lots = lots_of_test(test)
        refuse_held(lot.get("lot", "") for lot in lots)
        if TubIn.objects.standing().filter(output=output).exists():
            raise Refused("That pile is in a tub already.")
        known = load_known(test.pk)
        left = left_on_pile(known, output)
        value = storable(Weight(left.to(Unit(tub.unit)), Unit(tub.unit)), Unit(tub.unit)).value
        if value <= 0:
            raise BadInput(f"Pile: nothing lies on {output.name}.")
        cost, school = _cost(known, output, tub)
        meat = meat_of_pile(known, output, bags_of_tests([test.pk])[test.pk])
        return put(
            tub,
            key,
            Going(
                value,
                TubIn.Source.TEST,
                lots,
                cost,
                meat.since or timezone.localdate(test.finished_at),
                meat,
                {
                    "output": output,
                    "from_test": test,
                    "school": school,
                    "again": TubIn.objects.filter(output=output).exclude(taken_back=None).count(),
                },
            ),
            by_id,
        )


def _cost(rows: TestRows, output: Output, tub: TrimTub) -> tuple[Decimal, str]:
    """What a unit of it costs by the shop's school, in the tub's unit, and the school; by its value as
    a by-product, and no school, where that has no answer for trim."""
    school = CostingSchool(house().school)
    sheet = compute(rows.weighed)
    costs = unit_costs(sheet.test, sheet.figures, sheet.costing, school)
    by_name = dict(zip((one.name for one in sheet.test.outputs), costs, strict=True))
    cost = by_name.get(output.name)
    if cost is None:
        return _value(output, tub), ""
    with working():
        return storable_money(cost * Unit(tub.unit).grams / sheet.figures.unit.grams), school.value


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


def pour_bag(key: UUID, tub_id: UUID, bag_id: UUID, lean: Decimal, by_id: int | None) -> TubIn:
    """A bag of trim or coarse grind that was bought with a stated lean goes into a tub whole, without
    a test; the bag leaves the cooler. The same key again changes nothing."""
    values = {"tub": tub_id, "bag_id": bag_id, "lean": lean}
    sent = Sent(key, "pour bag", f"a bag at {lean * 100:f} % lean", values)
    with write(key=sent, recorded=kept_by(TubIn, key, "bag_id", "lean", tub="tub_id")) as door:
        if door.first is not None:
            return door.first
        tub = open_tub(tub_id)
        bag = open_for_grinding(bag_id, by_id)
        if bag.piece is None:
            raise BadInput(f"Bag: the tub is {tub.species}; a bag of it is right.")
        weight = storable(bag.weight, Unit(tub.unit)).value
        line = bag.line
        with working():
            cost = storable_money(line.amount / weight) if line else ZERO
        if not 0 <= lean <= 1:
            raise BadInput(f"Lean: {lean * 100:f} %; 0 to 100 % is right.")
        source, more = TubIn.Source.BOUGHT, {"bag": bag, "lean": lean}
        lots, meat = [lot_of_bag(bag)], meat_of_bags([bag])
        return put(tub, key, Going(weight, source, lots, cost, bag.packed_on, meat, more), by_id)


def put(tub: TrimTub, key: UUID, going: Going, by_id: int | None) -> TubIn:
    """Put something into an open tub: the one way in, inside a write.

    Raises BadInput for another animal or seasoned meat; Refused for a lot that is held, and a tub that
    holds one: the whole tub would go with it.
    """
    why = why_not_in_tub(going.meat, tub.species)
    if why:
        raise BadInput(f"Tub: {why}.")
    holds = holds_now()
    if holds:
        refuse_held((lot.get("lot", "") for lot in [*going.lots, *lots_in(tub)]), holds)
    row = TubIn(
        key=key,
        tub=tub,
        source=going.source,
        weight=going.weight,
        lots=going.lots,
        cost=going.cost,
        day=going.day,
        at=timezone.now(),
        by_id=by_id,
        **going.more,
    )
    try:
        with savepoint():
            row.save(force_insert=True)
            _index(row, going.lots)
    except IntegrityError:
        raise Refused("That pile is in a tub already.") from None
    return row


def _index(row: TubIn, lots: list[Lot]) -> None:
    """So that each lot is found again."""
    TubLot.objects.bulk_create(TubLot(entry=row, lot=one["lot"]) for one in lots if one.get("lot"))


@dataclass(frozen=True)
class Pulled:
    """Pieces pulled from the case, or sent back: `tray` is what stands on their label, empty where
    nobody knows."""

    weight: Weight
    tray: str
    day: date
    is_sent_back: bool = False


def pull(key: UUID, tub_id: UUID, pulled: Pulled, by_id: int | None) -> TubIn:
    """Pieces of the case go into a tub with the lots of their trays, by the house's rule. An unknown
    lot is kept as a question: empty, never invented. The same key again changes nothing.

    Raises Refused where the house takes none, BadInput for an unknown lot where it asks for one.
    """
    tray = " ".join(pulled.tray.split())
    origin = origin_of_tray(tray) if tray else Origin([{"lot": "", "piece": "from the case"}])
    return pull_of(key, tub_id, pulled, origin, by_id)


def pull_of(key: UUID, tub_id: UUID, pulled: Pulled, origin: Origin, by_id: int | None) -> TubIn:
    """The same where what the tray is of is on record."""
    values = {
        "tub": tub_id,
        "weight": pulled.weight,
        "tray": pulled.tray,
        "day": pulled.day,
        "sent_back": pulled.is_sent_back,
    }
    sent = Sent(key, "pull", f"{pulled.weight} of the case", values)

    with write(key=sent, recorded=kept_by(TubIn, key)) as door:
        if door.first is not None:
            return door.first
        rules = house_rules()
        if rules.from_case == GrinderRules.FromCase.NEVER:
            raise Refused("House rule: nothing of the case goes into a tub.")
        if pulled.is_sent_back and not rules.takes_sent_back:
            raise Refused("House rule: nothing that was sent back goes into a tub.")
        if not pulled.tray.split() and rules.from_case == GrinderRules.FromCase.KNOWN:
            raise BadInput(
                "Lot: it is empty; what stands on the tray's label is right (house rule)."
            )
        source = TubIn.Source.BACK if pulled.is_sent_back else TubIn.Source.CASE
        return put_in(
            key,
            tub_id,
            pulled.weight,
            origin.lots,
            pulled.day,
            by_id,
            source=source,
            origin=origin,
        )


def put_in(
    key: UUID,
    tub_id: UUID,
    weight: Weight,
    lots: list[Lot],
    day: date,
    by_id: int | None,
    cost: Decimal | None = None,
    source: str = TubIn.Source.CASE,
    origin: Origin | None = None,
) -> TubIn:
    """Something with known lots goes in. `cost`: of a unit of the tub; None for what trim of the animal
    is worth."""
    with write():
        tub = open_tub(tub_id)
        if weight.value <= 0:
            raise BadInput(f"Weight: {weight}; more than 0 is right.")
        value = storable(weight, Unit(tub.unit)).value
        if cost is None:
            cost = _worth_of_trim(tub)
        of = {"from_test": origin.test, "from_batch": origin.batch} if origin else {}
        meat = _meat_of(origin) if origin is not None else Meat(species=tub.species)
        return put(tub, key, Going(value, source, lots, cost, day, meat, of), by_id)


def _meat_of(origin: Origin) -> Meat:
    """What a batch is, where it is of one; else its animal, as far as it is known. What more a tray's own
    label tells comes along in `origin.meat`."""
    if origin.meat is not None:
        return origin.meat
    return meat_of_batch(origin.batch) if origin.batch is not None else Meat(origin.species)


def answer_lot(key: UUID, entry_id: int, tray: str, by_id: int | None) -> LotAnswer:
    """Somebody found out of which lot something is. The same key again changes nothing."""
    words = " ".join(tray.split())
    if not words:
        raise BadInput("Lot: it is empty; what stands on the label is right.")
    sent = Sent(key, "answer lot", f"lot {words}", {"entry": entry_id, "tray": words})
    with write(key=sent, recorded=kept_by(LotAnswer, key)) as door:
        if door.first is not None:
            return door.first
        entry = TubIn.objects.standing().select_related("tub").filter(pk=entry_id).first()
        if entry is None:
            raise BadInput("Entry: there is no such entry in a tub.")
        if is_known(with_answers([entry])[0].lots):
            raise Refused("Its lot is known by now; look at the page again.")
        origin = origin_of_tray(words)
        _was_there(origin, entry)
        why = why_not_in_tub(_meat_of(origin), entry.tub.species)
        if why:
            raise BadInput(f"Lot: {why}.")
        known = {"from_test": origin.test, "from_batch": origin.batch}
        TubIn.objects.filter(pk=entry.pk, from_test=None, from_batch=None).update(**known)
        answer = _answer(key, entry, origin.lots, by_id)
        _tell_on(key, entry, by_id)
    return answer


def _was_there(origin: Origin, entry: TubIn) -> None:
    """Nothing is of what was made after it: raises BadInput."""
    batch, test = origin.batch, origin.test
    if batch is not None and batch.begun_at > entry.at:
        raise BadInput(f"Lot: {batch} was ground after this went into the tub; another is right.")
    if test is not None and test.started_at > entry.at:
        raise BadInput(
            f"Lot: test {test.number} was opened after this went into the tub; another is right."
        )


def _answer(key: UUID, entry: TubIn, lots: list[Lot], by_id: int | None) -> LotAnswer:
    _index(entry, lots)
    return LotAnswer.objects.create(key=key, entry=entry, lots=lots, at=timezone.now(), by_id=by_id)


def _tell_on(key: UUID, entry: TubIn, by_id: int | None) -> None:
    """What was ground of it and lies in tubs again is of the lots that are known by now."""
    new, told = {entry.pk}, {entry.pk}
    while new:
        took = TubOut.objects.standing().filter(
            batch__isnull=False, tub__ins__in=new, tub__ins__at__lte=F("batch__begun_at")
        )
        later = TubIn.objects.standing().filter(from_batch__in=took.values("batch"))
        rows = list(later.exclude(pk__in=told).select_related("from_batch").order_by("at", "id"))
        for one in rows:
            if one.from_batch is not None:
                lots = lots_of_batch(one.from_batch)
                _answer(uuid5(key, f"{one.pk}"), one, lots, by_id)
        new = {one.pk for one in rows}
        told |= new


def _worth_of_trim(tub: TrimTub) -> Decimal:
    """What the shop values trim of the animal at, in the tub's unit; 0 where it has said nothing."""
    grinds = Product.objects.filter(cut__species=tub.species, cut__is_ground=True)
    product = grinds.exclude(transfer=None).first()
    if product is None or product.transfer is None:
        return ZERO
    with working():
        per = Unit(product.per)
        return storable_money(product.transfer * Unit(tub.unit).grams / per.grams)


def judge(tub_id: UUID, how: How, lean: Decimal, by_id: int | None, reading: str = "") -> Judged:
    """How lean a tub is, as a share; the last word counts. A reading of the tester counts once."""
    if not 0 <= lean <= 1:
        raise BadInput(f"Lean: {lean * 100:f} %; 0 to 100 % is right.")
    with write():
        tub = open_tub(tub_id)
        known = known_sample(reading)
        if known is not None:
            if known.judged is None or known.judged.tub_id != tub.pk:
                raise Refused(f"Tester: it shows the sample of {known.of} still; test this one.")
            return known.judged
        row = Judged.objects.create(
            tub=tub, how=how, lean=lean, reading=reading, at=timezone.now(), by_id=by_id
        )
        if reading:
            Sample.objects.create(reading=reading, judged=row)
        return row


def known_sample(reading: str) -> Sample | None:
    """Return what a reading of the tester counts for; None for a new one, and for a typed lean."""
    if not reading:
        return None
    rows = Sample.objects.select_related("judged__tub", "tested__batch")
    return rows.filter(reading=reading, freed_at=None).first()


def warm(tub_id: UUID, celsius: int, by_id: int | None) -> Warmth:
    """How warm the meat in a tub is, in thousandths of a °C; the last word counts."""
    with write():
        tub = open_tub(tub_id)
        return Warmth.objects.create(tub=tub, celsius=celsius, at=timezone.now(), by_id=by_id)


def take_back_entry(key: UUID, entry_id: int, by_id: int | None) -> None:
    """Something went into a tub by mistake: it counts no more, a bag is in the cooler again, a pile may
    go into another tub. The same key again changes nothing.

    Raises Refused once something left the tub since: it can be told apart no more.
    """
    sent = Sent(key, "take back entry", f"entry {entry_id}", {"entry": entry_id})
    with write(key=sent, recorded=kept_by(TakenBack, key)) as door:
        if door.first is not None:
            return
        entry = TubIn.objects.select_related("tub", "taken_back").filter(pk=entry_id).first()
        if entry is None:
            raise BadInput("Entry: there is no such entry in a tub.")
        if hasattr(entry, "taken_back"):
            raise Refused("It is taken back already.")
        tub = open_tub(entry.tub_id)
        since = tub.outs.standing().filter(at__gte=entry.at).first()
        if since is not None:
            where = f"into {since.batch}" if since.batch_id else "away"
            raise Refused(
                f"{since.weight:f} {tub.unit} of {tub.name} went {where} since; what is in it"
                " cannot be told apart any more."
            )
        TakenBack.objects.create(key=key, entry=entry, at=timezone.now(), by_id=by_id)
        if entry.bag_id is not None:
            return_to_cooler(entry.bag_id, "put into a tub by mistake", by_id)
        entry_taken_back.send(TubIn, entry=entry, key=key, by_id=by_id)


def take_back_throwing(key: UUID, out_id: int, by_id: int | None) -> None:
    """It was not thrown away after all: the tub stands there again. The same key again changes
    nothing."""
    sent = Sent(key, "take back throwing", f"entry {out_id}", {"out": out_id})
    with write(key=sent, recorded=kept_by(TakenBack, key)) as door:
        if door.first is not None:
            return
        out = TubOut.objects.select_related("taken_back").filter(pk=out_id, batch=None).first()
        if out is None:
            raise BadInput("Entry: nothing like that was thrown away.")
        if hasattr(out, "taken_back"):
            raise Refused("It is taken back already.")
        TakenBack.objects.create(key=key, out=out, at=timezone.now(), by_id=by_id)
        TrimTub.objects.filter(pk=out.tub_id).update(closed_at=None)


def throw_away(key: UUID, tub_id: UUID, reason: str, by_id: int | None) -> None:
    """All that is left of a tub leaves it, with a reason, and the tub is emptied."""
    words = " ".join(reason.split())
    if not words:
        raise BadInput("Reason: it is empty; why it is thrown away is right.")
    sent = Sent(key, "throw away", f"a tub: {words}", {"tub": tub_id, "reason": words})
    with write(key=sent, recorded=kept_by(TubOut, key)) as door:
        if door.first is not None:
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
    with write():
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
        into = sum(tub.ins.standing().values_list("weight", flat=True), ZERO)
        return into - sum(tub.outs.standing().values_list("weight", flat=True), ZERO)


def key_of(key: UUID, what: str) -> UUID:
    """A key for a part of one request."""
    return uuid5(key, what)
