"""The log: a batch with everything 9 CFR 320.1(b)(4) asks for, and finding it again by day, lot, name."""

from dataclasses import dataclass
from datetime import date, datetime, time, timedelta
from decimal import Decimal
from typing import Any

from django.db.models import Q, QuerySet
from django.utils import timezone

from cutting.grinding.loss import Limits, limits_of, loss_of, patties
from cutting.grinding.names import label_words
from cutting.quantities import ZERO, Unit, Weight, working
from cutting.words.pencil import money, percent
from rooms.grinder.models import Batch, Packed, Tested, TubIn, TubLot, TubOut
from rooms.grinder.rules.lots import Lot, entries_of, linked, lot_name, lots_of_batch

KEPT = timedelta(days=366)
"""A grind record is kept for a year: 9 CFR 320.3. Value from memory."""
SHOWN, LOOKS_BACK = 60, 24
PATTIES = (4, 6, 8)
"""Ounces of usual patties."""


@dataclass(frozen=True)
class BatchView:
    """One batch of the log."""

    batch: Batch
    words: str
    lot: str
    linked: list[Batch]
    takes: list[TubOut]
    entries: list[TubIn]
    lots: list[Lot]
    packed: list[Packed]
    tested: list[Tested]
    carried: TubIn | None
    cost: str
    usual: Limits | None
    """What grinding loses as a rule; None with too few batches."""

    @property
    def unknown(self) -> list[TubIn]:
        """What went in without a lot: questions that somebody has to answer."""
        return [one for one in self.entries if not any(lot.get("lot") for lot in one.lots)]

    @property
    def trays(self) -> int:
        return sum(one.trays for one in self.packed)

    @property
    def packed_weight(self) -> Decimal:
        with working():
            return sum((one.weight for one in self.packed), ZERO)

    @property
    def celsius_in(self) -> str:
        return f"{self.batch.celsius_in / 1000:.1f}"

    @property
    def celsius_out(self) -> str:
        out = self.batch.celsius_out
        return "" if out is None else f"{out / 1000:.1f}"

    @property
    def loss(self) -> str:
        """What neither came out nor stayed in the grinder; empty while it is ground."""
        batch = self.batch
        if batch.got is None or batch.machine is None:
            return ""
        share = loss_of(batch.weight, batch.got, batch.machine)
        with working():
            lost = share * batch.weight
        words = f"{lost:.2f} {batch.unit}, {percent(share)}"
        if self.usual is None:
            return words
        says = "as usual" if self.usual.holds(share) else "not as usual: look for the reason"
        return f"{words}; {percent(self.usual.usual)} in the mean, {says}"

    @property
    def patties(self) -> str:
        """How many of a usual weight what came out makes."""
        if self.batch.got is None:
            return ""
        ounces = Weight(self.batch.got, Unit(self.batch.unit)).to(Unit.OZ)
        made = [(each, patties(ounces, Decimal(each))) for each in PATTIES]
        return " · ".join(f"{one.count} of {each} oz, {one.left:.1f} oz left" for each, one in made)


def batch_view(batch: Batch) -> BatchView:
    """Thirteen queries."""
    fat = batch.stated if batch.stated is not None else batch.fat
    return BatchView(
        batch,
        label_words(batch.name, fat),
        lot_name(batch),
        [one for one in linked(batch) if one.pk != batch.pk],
        list(batch.takes.select_related("tub")),
        entries_of(batch),
        lots_of_batch(batch),
        list(batch.packed.select_related("by")),
        list(batch.tested.select_related("by")),
        TubIn.objects.filter(batch=batch).select_related("tub").first(),
        money(Decimal(batch.answer["cost_per_unit"])),
        usual_loss(batch),
    )


def usual_loss(batch: Batch) -> Limits | None:
    """Of the batches before it: one query."""
    rows = Batch.objects.filter(number__lt=batch.number).exclude(got=None)
    last = list(rows.values_list("weight", "got", "machine")[:LOOKS_BACK])
    return limits_of([loss_of(*row) for row in reversed(last)])


def found(text: str, day: date | None) -> list[Batch]:
    """Batches by the lot of something in them, by name or number, and by day; the newest first: at
    most four queries."""
    rows: QuerySet[Any] = Batch.objects.select_related("cleaned", "begun_by")
    words = text.strip()
    if words:
        number = words.upper().removeprefix("G-")
        asked = Q(name__icontains=words) | Q(pk__in=_of_lot(words))
        if number.isdecimal() and len(number) < 9:
            asked |= Q(number=int(number))
        rows = rows.filter(asked)
    if day is not None:
        start = timezone.make_aware(datetime.combine(day, time()))
        rows = rows.filter(begun_at__gte=start, begun_at__lt=start + timedelta(days=1))
    return list(rows[:SHOWN])


def _of_lot(lot: str) -> set[object]:
    """Batches that took of a tub after something of the lot had gone into it: two queries."""
    entries = TubLot.objects.filter(lot=lot).values_list("entry__tub", "entry__at")
    first: dict[object, datetime] = {}
    for tub, at in entries:
        first[tub] = min(first.get(tub, at), at)
    takes = TubOut.objects.filter(tub__in=first, batch__isnull=False).values_list(
        "tub", "batch", "at"
    )
    return {batch for tub, batch, at in takes if at >= first[tub]}
