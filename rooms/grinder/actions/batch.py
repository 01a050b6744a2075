"""A batch is ground, finished, tested, packed; what stays in the grinder is carried over."""

from dataclasses import dataclass
from decimal import Decimal
from typing import Any
from uuid import UUID

from django.db import IntegrityError, transaction
from django.db.models import Max
from django.utils import timezone

from cutting.quantities import (
    ZERO,
    Unit,
    Weight,
    round_half_up,
    storable,
    storable_money,
    working,
)
from rooms.common.errors import BadInput, Refused
from rooms.grinder.actions.tubs import key_of, left_of, open_tub
from rooms.grinder.models import (
    Batch,
    BlendPlan,
    CleanDown,
    Packed,
    Tested,
    TubIn,
    TubLot,
    TubOut,
)
from rooms.grinder.rules.lots import lots_of_batch
from rooms.grinder.rules.machine import FOR_ADULTS, machine_now
from rooms.staff.models import Person

WARMEST = 4444
"""Thousandths of a °C: meat warmer than that (40 °F) is not ground. Common practice."""
TOLERANCE = Decimal("0.02")
"""So much of a tub's weight may be missing against the plan: purge and the scale's step."""


def keep_blend(
    key: UUID, document: dict[str, Any], answer: dict[str, Any], by_id: int | None
) -> BlendPlan:
    """The same key again gives the blend it already kept."""
    try:
        with transaction.atomic():
            return BlendPlan.objects.create(
                key=key, document=document, answer=answer, at=timezone.now(), by_id=by_id
            )
    except IntegrityError:
        return BlendPlan.objects.get(key=key)


def _adult(by_id: int | None) -> None:
    if by_id is not None and Person.objects.filter(pk=by_id, is_under_18=True).exists():
        raise Refused(f"{FOR_ADULTS}.")


def clean_down(key: UUID, what: str, by_id: int | None) -> CleanDown:
    """The grinder is cleaned, or set up; the same key again changes nothing.

    Raises Refused for somebody under 18, and for a set-up of a machine that was never cleaned.
    """
    _adult(by_id)
    if what not in CleanDown.What.values:
        raise BadInput(f"What: “{what}”; cleaned or set up is right.")
    with transaction.atomic():
        already = CleanDown.objects.filter(key=key).first()
        if already is not None:
            return already
        if what == CleanDown.What.SET_UP and machine_now().cleaned is None:
            raise Refused("Grinder: no clean-down is on record; clean and sanitize it first.")
        return CleanDown.objects.create(key=key, what=what, at=timezone.now(), by_id=by_id)


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

    Raises Refused for somebody under 18, a grinder that may not run, meat that is too warm, and a tub
    that does not hold any more what is taken.
    """
    _adult(by_id)
    with transaction.atomic():
        already = Batch.objects.filter(pk=asked.key).first()
        if already is not None:
            return already
        blend = BlendPlan.objects.get(pk=asked.blend_id)
        if not 0 <= asked.number < len(blend.answer["batches"]):
            raise BadInput("Batch: there is no such batch in the blend.")
        if asked.celsius > WARMEST:
            shown = f"{asked.celsius / 1000:.1f}"
            raise Refused(f"Temperature: {shown} °C; 4.4 °C (40 °F) or colder is ground. Chill it.")
        own, answer = blend.document["batches"][asked.number], blend.answer["batches"][asked.number]
        machine = machine_now()
        why = machine.why_not(own["species"])
        if why or machine.cleaned is None or machine.set_up is None:
            raise Refused(why)
        batch = Batch.objects.create(
            pk=asked.key,
            number=(Batch.objects.aggregate(last=Max("number"))["last"] or 0) + 1,
            product_id=own.get("product"),
            name=own["name"],
            rule=own["rule"],
            species=own["species"],
            weight=Decimal(own["weight"]["value"]),
            unit=own["weight"]["unit"],
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
        )
        for take in answer["take"]:
            _take(batch, take, by_id)
    return batch


def _take(batch: Batch, take: dict[str, Any], by_id: int | None) -> None:
    tub = open_tub(UUID(take["tub"]))
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


def _open_batch(batch_id: UUID) -> Batch:
    batch = Batch.objects.select_for_update().filter(pk=batch_id).first()
    if batch is None:
        raise BadInput("Batch: there is no such batch.")
    return batch


PLACES = 3
"""Decimals of a weight that is taken: what a scale can show."""
MOST_GAIN = Decimal("0.01")


def finish_batch(
    batch_id: UUID, got: Decimal, machine: Decimal, celsius: int, by_id: int | None
) -> Batch:
    """What came out and what stayed in the grinder, in the batch's unit. Once; the same again changes
    nothing. Raises BadInput where more came out than went in."""
    with transaction.atomic():
        batch = _open_batch(batch_id)
        if batch.finished_at is not None:
            if (batch.got, batch.machine) == (got, machine):
                return batch
            raise Refused(f"{batch} is finished: {batch.got:f} {batch.unit} came out.")
        with working():
            most = batch.weight * (1 + MOST_GAIN)
            if got < 0 or machine < 0 or got + machine > most:
                raise BadInput(
                    f"Came out: {got:f} and {machine:f} in the grinder are more than went in,"
                    f" {batch.weight:f}; at most that is right."
                )
        batch.got, batch.machine, batch.celsius_out = got, machine, celsius
        batch.finished_at, batch.finished_by_id = timezone.now(), by_id
        batch.save()
    return batch


def pack(key: UUID, batch_id: UUID, trays: int, weight: Decimal, by_id: int | None) -> Packed:
    """Trays of a finished batch. Raises BadInput where more is packed than came out."""
    with transaction.atomic():
        already = Packed.objects.filter(key=key).first()
        if already is not None:
            return already
        batch = _open_batch(batch_id)
        if batch.got is None:
            raise Refused(f"{batch} is still in the grinder; say what came out first.")
        with working():
            packed = sum(batch.packed.values_list("weight", flat=True), ZERO)
            left = batch.got - packed
            if weight > left * (1 + MOST_GAIN) + Decimal("0.05"):
                raise BadInput(f"Weight: {weight:f}; {left:f} {batch.unit} are left of {batch}.")
        if trays < 1 or weight <= 0:
            raise BadInput(f"Trays: {trays} of {weight:f}; more than 0 is right.")
        return Packed.objects.create(
            key=key, batch=batch, trays=trays, weight=weight, at=timezone.now(), by_id=by_id
        )


def test_batch(key: UUID, batch_id: UUID, fat: Decimal, by_id: int | None) -> Tested:
    """What the tester says, as a share."""
    if not 0 <= fat <= 1:
        raise BadInput(f"Fat: {fat * 100:f} %; 0 to 100 % is right.")
    with transaction.atomic():
        already = Tested.objects.filter(key=key).first()
        batch = _open_batch(batch_id)
        return already or Tested.objects.create(
            key=key, batch=batch, fat=fat, at=timezone.now(), by_id=by_id
        )


def carry_over(key: UUID, batch_id: UUID, tub_id: UUID, by_id: int | None) -> TubIn:
    """What stayed in the grinder goes into a tub, with all lots of its batch: batches that it goes
    into are of one lot with it. Once; Refused where the grinder was cleaned since."""
    with transaction.atomic():
        already = TubIn.objects.filter(key=key).first()
        if already is not None:
            return already
        batch, tub = _open_batch(batch_id), open_tub(tub_id)
        if not batch.machine:
            raise BadInput(f"{batch}: nothing stayed in the grinder.")
        if TubIn.objects.filter(batch=batch).exists():
            raise Refused(f"What stayed of {batch} is carried over already.")
        if machine_now().cleaned != batch.cleaned:
            raise Refused(f"The grinder was cleaned since {batch}: nothing of it is left.")
        if tub.species != batch.species:
            raise BadInput(f"Tub: it is {tub.species}; {batch} is {batch.species}.")
        lots = lots_of_batch(batch)
        with working():
            weight = storable(Weight(batch.machine, Unit(batch.unit)), Unit(tub.unit)).value
            cost = storable_money(Decimal(batch.answer["cost"]) / batch.weight)
        row = TubIn.objects.create(
            key=key,
            tub=tub,
            source=TubIn.Source.CARRY,
            weight=weight,
            batch=batch,
            lots=lots,
            cost=cost,
            day=timezone.localdate(batch.begun_at),
            at=timezone.now(),
            by_id=by_id,
        )
        TubLot.objects.bulk_create(
            TubLot(entry=row, lot=one["lot"]) for one in lots if one.get("lot")
        )
    return row
