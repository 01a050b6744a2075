"""A batch is ground, finished, tested, packed; what stays in the grinder is carried over."""

from collections.abc import Sequence
from dataclasses import dataclass
from decimal import Decimal
from typing import Any
from uuid import UUID

from django.db.models import Q
from django.utils import timezone

from cutting.grinding.blend import Kind
from cutting.grinding.checks import left_out
from cutting.meat import Meat
from cutting.quantities import (
    ZERO,
    Unit,
    Weight,
    round_half_up,
    storable,
    storable_money,
    working,
)
from rooms.common.db.numbers import next_numbers
from rooms.common.db.writing import Sent, kept_by, write
from rooms.common.errors import BadInput, Refused
from rooms.cooler.queries.held import refuse_held
from rooms.grinder.actions.tubs import Going, key_of, known_sample, left_of, open_tub, put
from rooms.grinder.models import (
    Batch,
    BlendPlan,
    Came,
    CleanDown,
    GrinderRules,
    Packed,
    Relabeled,
    Sample,
    Seasoning,
    TakenBack,
    Tested,
    TrimTub,
    TubIn,
    TubOut,
)
from rooms.grinder.queries.claims import claim_refused
from rooms.grinder.queries.house import house_rules
from rooms.grinder.queries.lots import lots_of_batch
from rooms.grinder.queries.machine import FOR_ADULTS, machine_now
from rooms.grinder.queries.meat import meat_of_batch, seasoned
from rooms.grinder.queries.naming import refused_in
from rooms.grinder.queries.packed import left_to_pack, packed_weight, stated_fat
from rooms.grinder.queries.seasoning import cost_of, season
from rooms.grinder.queries.tubs import one_tub, state_of_tub
from rooms.staff.models import Person

TOLERANCE = Decimal("0.02")
"""So much of a tub's weight may be missing against the plan: purge and the scale's step."""


def keep_blend(
    key: UUID, document: dict[str, Any], answer: dict[str, Any], by_id: int | None
) -> BlendPlan:
    """The same key again gives the blend it already kept, whatever the tubs hold by now."""
    with write():
        already = BlendPlan.objects.filter(key=key).first()
        return already or BlendPlan.objects.create(
            key=key, document=document, answer=answer, at=timezone.now(), by_id=by_id
        )


def _adult(by_id: int | None) -> None:
    if by_id is not None and Person.objects.filter(pk=by_id, is_under_18=True).exists():
        raise Refused(f"{FOR_ADULTS}.")


def clean_down(
    key: UUID, what: str, by_id: int | None, points: Sequence[str] | None = None
) -> CleanDown:
    """The grinder is cleaned, or set up, with every point of the house's list confirmed; None for all
    of them. The same key again changes nothing.

    Raises Refused for somebody under 18, and for a set-up of a machine that was never cleaned;
    BadInput for a point left out.
    """
    _adult(by_id)
    if what not in CleanDown.What.values:
        raise BadInput(f"What: “{what}”; cleaned or set up is right.")
    rules = house_rules()
    wanted = rules.cleaning if what == CleanDown.What.CLEANED else rules.setting_up
    confirmed = wanted if points is None else [one for one in wanted if one in points]
    missing = left_out(wanted, confirmed)
    if missing:
        raise BadInput(f"Not confirmed: {'; '.join(missing)}. Every point is looked at.")
    sent = Sent(key, "clean down", CleanDown.What(what).label, {"what": what})

    with write(key=sent, recorded=kept_by(CleanDown, key, "what")) as door:
        if door.first is not None:
            return door.first
        _grinder_is_empty()
        if what == CleanDown.What.SET_UP and machine_now().cleaned is None:
            raise Refused("Grinder: no clean-down is on record; clean and sanitize it first.")
        return CleanDown.objects.create(
            key=key, what=what, points=list(confirmed), at=timezone.now(), by_id=by_id
        )


def _grinder_is_empty() -> None:
    """One batch at a time: what came out of it and what stayed are said before anything else happens."""
    inside = Batch.objects.in_grinder().first()
    if inside is not None:
        raise Refused(f"Grinder: {inside} is in it; say what came out of it first.")


def take_back_clean(key: UUID, clean_id: int, by_id: int | None) -> None:
    """It was not cleaned, or not set up, after all. The same key again changes nothing.

    Raises Refused where a batch was ground since: its record rests on it.
    """
    sent = Sent(key, "take back clean", f"entry {clean_id}", {"clean": clean_id})
    with write(key=sent, recorded=kept_by(TakenBack, key)) as door:
        if door.first is not None:
            return
        clean = CleanDown.objects.standing().filter(pk=clean_id).first()
        if clean is None:
            raise BadInput("Entry: there is no such clean-down.")
        rests = Batch.objects.standing().filter(Q(cleaned=clean) | Q(set_up=clean)).first()
        if rests is not None:
            raise Refused(f"{rests} was ground since; its record rests on it.")
        TakenBack.objects.create(key=key, clean=clean, at=timezone.now(), by_id=by_id)


@dataclass(frozen=True)
class Begun:
    """Which batch of a blend is ground, and the meat's temperature in thousandths of a °C."""

    key: UUID
    blend_id: int
    number: int
    celsius: int


def begin_batch(asked: Begun, by_id: int | None) -> Batch:
    """The tubs are emptied by what the blend takes, and the batch stands in the log. The same key
    again gives the batch it already began.

    Raises Refused for somebody under 18, a grinder that may not run, meat that is too warm, a name
    that it may not have, and a tub that does not hold any more what is taken.
    """
    _adult(by_id)
    values = {"blend": asked.blend_id, "number": asked.number, "celsius": asked.celsius}
    sent = Sent(asked.key, "begin batch", f"a batch of blend {asked.blend_id}", values)

    with write(key=sent, recorded=kept_by(Batch, asked.key, by="pk")) as door:
        if door.first is not None:
            return door.first
        _grinder_is_empty()
        blend = BlendPlan.objects.get(pk=asked.blend_id)
        if not 0 <= asked.number < len(blend.answer["batches"]):
            raise BadInput("Batch: there is no such batch in the blend.")
        rules = house_rules()
        if asked.celsius > rules.warmest:
            raise Refused(f"Temperature: {_degrees(asked.celsius)}; {_coldest(rules)}. Chill it.")
        own, answer = blend.document["batches"][asked.number], blend.answer["batches"][asked.number]
        machine = machine_now()
        seasoning = _seasoning(own)
        _tubs_are_as_blended(blend, answer, rules)
        names, allergens = seasoned(own["species"], seasoning)
        meat_now = Meat(own["species"], ingredients=names, allergens=allergens)
        last = meat_of_batch(machine.last) if machine.last is not None else None
        why = machine.why_not(last, meat_now)
        if why or machine.cleaned is None or machine.set_up is None:
            raise Refused(why)
        refused = refused_in(blend.document, asked.number, answer, rules)
        if refused is not None:
            raise Refused(f"{own['name']}: {refused.why} ({refused.source}); give it another name.")
        meat = Weight(Decimal(own["weight"]["value"]), Unit(own["weight"]["unit"]))
        seasoned_with = season(seasoning, meat) if seasoning else ZERO
        batch = Batch.objects.create(
            pk=asked.key,
            number=next_numbers(Batch)[0],
            product_id=own.get("product"),
            name=own["name"],
            rule=own["rule"],
            species=own["species"],
            weight=meat.value,
            unit=meat.unit.value,
            fat=round_half_up(Decimal(answer["fat"]), 6),
            fat_sd=round_half_up(Decimal(answer["fat_sd"]), 6),
            stated=Decimal(own["stated"]) if own.get("stated") else None,
            document=own,
            answer=answer,
            cleaned=machine.cleaned,
            set_up=machine.set_up,
            begun_at=timezone.now(),
            begun_by_id=by_id,
            celsius_in=asked.celsius,
            cost=storable_money(cost_of(Decimal(answer["cost"]), seasoning, seasoned_with, meat)),
            seasoning=seasoning,
            seasoned_with=seasoned_with,
        )
        with working():
            short = sum((_take(batch, take, rules, by_id) for take in answer["take"]), ZERO)
            if short:  # what a tub did not hold any more did not go in
                batch.weight -= Weight(short, Unit.G).to(meat.unit)
                batch.save(update_fields=["weight"])
        refuse_held(lot.get("lot", "") for lot in lots_of_batch(batch))
    return batch


def _tubs_are_as_blended(blend: BlendPlan, answer: dict[str, Any], rules: GrinderRules) -> None:
    """Refused where a tub was added to, taken from by a correction, or judged since: its lean, its lots and
    their grades are not those the name was checked by. How warm it is is asked of the tub itself, so that
    meat that was chilled is not blended again."""
    known = {row["name"]: row.get("state") for row in blend.document["tubs"]}
    today = timezone.localdate()
    for take in answer["take"]:
        tub = open_tub(UUID(take["tub"]))
        if known.get(take["tub"]) != state_of_tub(tub):
            raise Refused(
                f"{tub.name}: something went in, came out or was judged since this was blended; blend"
                " again."
            )
        why = one_tub(tub, today, rules).past
        if why:
            raise Refused(f"{tub.name}: {why}.")


def _degrees(celsius: int) -> str:
    return f"{celsius / 1000:.1f} °C"


def _coldest(rules: GrinderRules) -> str:
    warmest = rules.warmest / 1000
    return f"{warmest:.1f} °C ({warmest * 1.8 + 32:.0f} °F) or colder is ground"


def _seasoning(own: dict[str, Any]) -> Seasoning | None:
    """Raises Refused where the house list has changed since it was blended."""
    if not own.get("seasoning"):
        return None
    found = Seasoning.objects.filter(pk=own["seasoning"]["id"], is_dropped=False).first()
    if found is None or f"{found.share:f}" != own["seasoning"]["share"]:
        raise Refused(f"{own['seasoning']['name']}: the house list was changed since; blend again.")
    return found


def undo_batch(batch_id: UUID, by_id: int | None) -> Batch:
    """It was begun by mistake and nothing was ground: its meat lies in the tubs again. Its number stays
    in the log. Twice changes nothing.

    Raises Refused once something came out, was tested or packed.
    """
    with write():
        batch = _open_batch(batch_id)
        if batch.undone_at is not None:
            return batch
        if batch.finished_at is not None or batch.tested.standing().exists():
            raise Refused(f"{batch} was ground; what came out of it cannot be put back.")
        batch.undone_at, batch.undone_by_id = timezone.now(), by_id
        batch.save(update_fields=["undone_at", "undone_by"])
        tubs = batch.takes.values_list("tub", flat=True)
        TrimTub.objects.filter(pk__in=tubs).update(closed_at=None)
    return batch


def _take(batch: Batch, take: dict[str, Any], rules: GrinderRules, by_id: int | None) -> Decimal:
    """Takes of a tub what was asked, or what is there; returns the grams that were missing."""
    tub = open_tub(UUID(take["tub"]))
    warmth = tub.warmths.last()
    if warmth is not None and warmth.celsius > rules.warmest:
        raise Refused(
            f"{tub.name}: {_degrees(warmth.celsius)} when it was measured last; {_coldest(rules)}."
            " Chill it and measure again."
        )
    asked = Weight(Decimal(take["weight"]["value"]), Unit(take["weight"]["unit"]))
    value, left = round_half_up(asked.to(Unit(tub.unit)), PLACES), left_of(tub)
    with working():
        if value > left * (1 + TOLERANCE):
            raise Refused(
                f"{tub.name}: {left:.2f} {tub.unit} are left, {value:.2f} are asked; blend again."
            )
    TubOut.objects.create(
        key=key_of(batch.pk, f"take {tub.pk}"),
        tub=tub,
        batch=batch,
        weight=min(value, left),
        at=timezone.now(),
        by_id=by_id,
    )
    with working():
        return Weight(max(value - left, ZERO), Unit(tub.unit)).to(Unit.G)


def _open_batch(batch_id: UUID) -> Batch:
    batch = Batch.objects.select_for_update().filter(pk=batch_id).first()
    if batch is None:
        raise BadInput("Batch: there is no such batch.")
    return batch


def _ground(batch_id: UUID) -> Batch:
    """Raises Refused for one that was taken back."""
    batch = _open_batch(batch_id)
    if batch.undone_at is not None:
        raise Refused(f"{batch} was taken back: nothing of it was ground.")
    return batch


PLACES = 3
"""Decimals of a weight that is taken: what a scale can show."""
MOST_GAIN = Decimal("0.01")


@dataclass(frozen=True)
class CameOut:
    """What came out and what stayed in the grinder, in the batch's unit; the meat's temperature in
    thousandths of a °C. `seen`: how often that was said already, as the page knew it."""

    got: Decimal
    machine: Decimal
    celsius: int
    seen: int = 0


def finish_batch(batch_id: UUID, came: CameOut, by_id: int | None) -> Batch:
    """The same again changes nothing; something else corrects it, where the page has seen what was said
    before, and both stay.

    Raises BadInput where more came out than went in, or less than is packed already; Refused where
    another tablet said something else meanwhile, or what stayed is carried over.
    """
    with write():
        batch = _ground(batch_id)
        if (batch.got, batch.machine) == (came.got, came.machine):
            return batch
        said = batch.came.count()
        if batch.finished_at is not None and came.seen != said:
            raise Refused(
                f"{batch} is finished: {batch.got:f} {batch.unit} came out. Look at the page again"
                " before you correct it."
            )
        _check(batch, came)
        now = timezone.now()
        Came.objects.create(
            batch=batch,
            got=came.got,
            machine=came.machine,
            celsius=came.celsius,
            at=now,
            by_id=by_id,
        )
        batch.got, batch.machine, batch.celsius_out = came.got, came.machine, came.celsius
        if batch.finished_at is None:
            batch.finished_at, batch.finished_by_id = now, by_id
        batch.save()
    return batch


def _check(batch: Batch, came: CameOut) -> None:
    with working():
        most = batch.went_in * (1 + MOST_GAIN)
        if came.got < 0 or came.machine < 0 or came.got + came.machine > most:
            raise BadInput(
                f"Came out: {came.got:f} and {came.machine:f} in the grinder are more than went"
                f" in, {batch.went_in:f}; at most that is right."
            )
        packed = packed_weight(batch)
        if packed > came.got:
            raise BadInput(
                f"Came out: {came.got:f}; {packed:f} {batch.unit} are packed already. Take trays"
                " back first, or look at the weight again."
            )
    if batch.machine != came.machine and TubIn.objects.standing().filter(batch=batch).exists():
        raise Refused(f"What stayed of {batch} is carried over; take that back in its tub first.")


@dataclass(frozen=True)
class Packing:
    """Trays with their weight in the batch's unit; how many patties or links lie in them."""

    trays: int
    weight: Decimal
    shape: str = Packed.Shape.LOOSE
    pieces: int | None = None
    is_labelled: bool = False


LIGHTEST, HEAVIEST = Decimal(10), Decimal(1000)
"""Grams of a patty or a link. Common practice, no published source."""


def pack(key: UUID, batch_id: UUID, packing: Packing, by_id: int | None) -> Packed:
    """Trays of a finished batch. Raises BadInput where more is packed than came out, and for pieces
    that nobody makes."""
    trays, weight = packing.trays, packing.weight
    values = {"batch": batch_id, "trays": trays, "weight": weight}
    values |= {"shape": packing.shape, "pieces": packing.pieces}
    sent = Sent(key, "pack loose", f"{trays} trays of {weight:f}", values)

    with write(
        key=sent,
        recorded=kept_by(Packed, key, "trays", "weight", "shape", "pieces", batch="batch_id"),
    ) as door:
        if door.first is not None:
            return door.first
        batch = _ground(batch_id)
        if batch.got is None:
            raise Refused(f"{batch} is still in the grinder; say what came out first.")
        if trays < 1 or weight <= 0:
            raise BadInput(f"Trays: {trays} of {weight:f}; more than 0 is right.")
        with working():
            left = left_to_pack(batch)
            if weight > left:
                raise BadInput(
                    f"Weight: {weight:f}; {left:f} {batch.unit} are left of {batch}. Where more came out"
                    " of it, correct that first."
                )
        _check_pieces(batch, packing)
        refuse_held(lot.get("lot", "") for lot in lots_of_batch(batch))
        return Packed.objects.create(
            key=key,
            batch=batch,
            trays=trays,
            weight=weight,
            shape=packing.shape,
            pieces=packing.pieces,
            is_labelled=packing.is_labelled,
            at=timezone.now(),
            by_id=by_id,
        )


def _check_pieces(batch: Batch, packing: Packing) -> None:
    if packing.shape == Packed.Shape.LOOSE:
        if packing.pieces is not None:
            raise BadInput("Pieces: patties or links are counted; say which they are.")
        return
    if not packing.pieces:
        raise BadInput("Pieces: it is empty; how many there are in all trays is right.")
    with working():
        grams = Weight(packing.weight, Unit(batch.unit)).to(Unit.G) / packing.pieces
    if not LIGHTEST <= grams <= HEAVIEST:
        raise BadInput(
            f"Pieces: {packing.pieces} in {packing.weight:f} {batch.unit} weigh {grams:.0f} g each;"
            f" {LIGHTEST} to {HEAVIEST} g is right."
        )


def take_back_packed(
    key: UUID, batch_id: UUID, row_id: int, by_id: int | None, *, with_label: bool = False
) -> None:
    """Trays that were not packed after all. The same key again changes nothing. Raises Refused for a tray
    with a label: it is taken back as a tray."""
    rows = Packed.objects.filter(pk=row_id, batch=batch_id)
    if not with_label and rows.filter(is_labelled=True).exists():
        raise Refused("It is a tray with a label: say at the trays what became of it.")
    _take_back(key, "packed", rows, row_id, by_id)


def take_back_tested(key: UUID, batch_id: UUID, row_id: int, by_id: int | None) -> None:
    """A test that was wrong. The same key again changes nothing."""
    rows = Tested.objects.filter(pk=row_id, batch=batch_id)
    _take_back(key, "tested", rows, row_id, by_id)


def _take_back(key: UUID, what: str, rows: Any, row_id: int, by_id: int | None) -> None:
    sent = Sent(key, f"take back {what}", f"entry {row_id}", {"row": row_id})
    with write(key=sent, recorded=kept_by(TakenBack, key)) as door:
        if door.first is not None:
            return
        row = rows.select_related("taken_back").first()
        if row is None:
            raise BadInput("Entry: there is no such entry in this batch.")
        if hasattr(row, "taken_back"):
            raise Refused("It is taken back already.")
        TakenBack.objects.create(key=key, at=timezone.now(), by_id=by_id, **{what: row})
        if what == "tested":
            Sample.objects.filter(tested=row, freed_at=None).update(freed_at=timezone.now())


def tell_fat(
    key: UUID, batch_id: UUID, fat: Decimal, by_id: int | None, reading: str = ""
) -> Tested:
    """What the tester says, as a share. A reading of the tester counts once."""
    if not 0 <= fat <= 1:
        raise BadInput(f"Fat: {fat * 100:f} %; 0 to 100 % is right.")
    sent = Sent(key, "tell fat", f"{fat * 100:f} % fat", {"batch": batch_id, "fat": fat})

    with write(key=sent, recorded=kept_by(Tested, key, "fat", batch="batch_id")) as door:
        if door.first is not None:
            return door.first
        batch = _ground(batch_id)
        known = known_sample(reading)
        if known is not None:
            if known.tested is None or known.tested.batch_id != batch.pk:
                raise Refused(f"Tester: it shows the sample of {known.of} still; test again.")
            return known.tested
        row = Tested.objects.create(
            key=key, batch=batch, fat=fat, reading=reading, at=timezone.now(), by_id=by_id
        )
        if reading:
            Sample.objects.create(reading=reading, tested=row)
        return row


def relabel(key: UUID, batch_id: UUID, stated: Decimal, by_id: int | None) -> Relabeled:
    """Its label tells another fat from now on. The same key again changes nothing.

    Raises BadInput for a fat below what the tester found, less what a label allows, or above what its name
    allows; Refused for a batch that is in the grinder.
    """
    sent = Sent(key, "relabel", f"{stated * 100:f} % fat", {"batch": batch_id, "stated": stated})

    with write(key=sent, recorded=kept_by(Relabeled, key, "stated", batch="batch_id")) as door:
        if door.first is not None:
            return door.first
        batch = _ground(batch_id)
        if batch.got is None:
            raise Refused(f"{batch} is still in the grinder; say what came out first.")
        rules = house_rules()
        wrong = claim_refused(batch, stated, rules)
        if wrong:
            raise BadInput(f"Fat: {wrong}.")
        row = Relabeled.objects.create(
            key=key, batch=batch, was=batch.stated, stated=stated, at=timezone.now(), by_id=by_id
        )
        batch.stated = stated
        batch.save(update_fields=["stated"])
    return row


def carry_over(key: UUID, batch_id: UUID, tub_id: UUID, by_id: int | None) -> TubIn:
    """What stayed in the grinder goes into a tub, with all lots of its batch: batches that it goes
    into are of one lot with it. Once; Refused where the grinder was cleaned since."""
    sent = Sent(key, "carry over", "what stayed", {"batch": batch_id, "tub": tub_id})

    with write(key=sent, recorded=kept_by(TubIn, key, batch="batch_id", tub="tub_id")) as door:
        if door.first is not None:
            return door.first
        batch, tub = _ground(batch_id), open_tub(tub_id)
        if not batch.machine:
            raise BadInput(f"{batch}: nothing stayed in the grinder.")
        if TubIn.objects.standing().filter(batch=batch).exists():
            raise Refused(f"What stayed of {batch} is carried over already.")
        if machine_now().cleaned != batch.cleaned:
            raise Refused(f"The grinder was cleaned since {batch}: nothing of it is left.")
        if tub.kind == Kind.HARD_FAT:
            raise BadInput(f"Tub: {tub.name} is hard fat; {batch} goes into one of trim.")
        with working():
            weight = storable(Weight(batch.machine, Unit(batch.unit)), Unit(tub.unit)).value
            cost = storable_money(
                batch.cost_per_unit * Unit(tub.unit).grams / Unit(batch.unit).grams
            )
        going = Going(
            weight,
            TubIn.Source.CARRY,
            lots_of_batch(batch),
            cost,
            timezone.localdate(batch.begun_at),
            meat_of_batch(batch),
            {"batch": batch, "from_batch": batch, "lean": 1 - stated_fat(batch)},
        )
        return put(tub, key, going, by_id)
