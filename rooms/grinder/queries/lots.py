"""Which lots are in a batch, and which batches are one lot."""

from collections import defaultdict
from collections.abc import Collection, Iterable
from typing import Any

from django.db.models import OuterRef, QuerySet, Subquery

from cutting.grinding.blend import Kind
from rooms.catalog.models import Pile
from rooms.cooler.models import LotHold
from rooms.grinder.models import Batch, LotAnswer, TrimTub, TubIn, TubLot

Lot = dict[str, str]
GOES_IN: dict[Pile, tuple[str, ...]] = {
    Pile.LEAN: (Kind.LEAN, Kind.ENDS),
    Pile.FAT: (Kind.HARD_FAT,),
}
"""Which kinds of tub a pile of the block goes into. Suet and kidney fat never."""


MOST_LINKED = 40


def with_answers(entries: Collection[TubIn]) -> list[TubIn]:
    """The entries with the lots as they are known by now, and whether any is a question still: one
    query, none where every lot was known from the start."""
    rows = list(entries)
    open_ones = [one for one in rows if not is_known(one.lots)]
    answers: dict[Any, list[Lot]] = {}
    if open_ones:
        for answer in LotAnswer.objects.filter(entry__in=open_ones):
            answers[answer.entry_id] = answer.lots  # the last word counts
    for one in rows:
        one.lots = answers.get(one.pk, one.lots)
        one.is_question = not is_known(one.lots)
        one.lots_in_words = [lot_words(lot) for lot in one.lots] or ["lot not known"]
    return rows


def lot_words(lot: Lot) -> str:
    """“lot L9427 (tray G-3), Skerry Point Packing, M-0417, packed 2026-11-20, USDA Choice”."""
    tray = f" (tray {lot['tray']})" if lot.get("tray") else ""
    packed = f"packed {lot['packed_on']}" if lot.get("packed_on") else ""
    known = f"lot {lot['lot']}" if lot.get("lot") else "lot not known"
    parts = (known + tray, lot.get("supplier"), lot.get("establishment"), packed, lot.get("grade"))
    return ", ".join(part for part in parts if part)


def is_known(lots: Iterable[Lot]) -> bool:
    """Whether every lot of them is."""
    some = list(lots)
    return bool(some) and all(lot.get("lot") for lot in some)


def once_each(entries: Iterable[TubIn]) -> list[Lot]:
    """Every lot of them, once each. What lay in a tub together cannot be told apart any more."""
    found: dict[tuple[str, ...], Lot] = {}
    for entry in entries:
        for lot in entry.lots:
            found[tuple(lot[name] for name in sorted(lot))] = lot
    return list(found.values())


def lots_in(tub: TrimTub) -> list[Lot]:
    """Every lot that went into a tub and was not taken back: two queries."""
    return once_each(with_answers(list(tub.ins.standing())))


def held_lot() -> Subquery:
    """For a query of tubs: the lot of something in each that is held."""
    inside = TubLot.objects.filter(entry__tub=OuterRef(OuterRef("pk")), entry__taken_back=None)
    rows = LotHold.objects.standing().filter(lot_key__in=inside.values("lot_key"))
    return Subquery(rows.values("lot")[:1])


def held_tubs() -> QuerySet[Any]:
    """Tubs that something of a held lot went into, for a query to leave them out."""
    keys = LotHold.objects.standing().values("lot_key")
    rows = TubLot.objects.filter(lot_key__in=keys, entry__taken_back=None)
    return rows.values("entry__tub")


def lots_of_batch(batch: Batch) -> list[Lot]:
    """Every lot that had gone into one of its tubs when it was ground, once each: three queries."""
    return once_each(entries_of(batch))


def entries_of(batch: Batch) -> list[TubIn]:
    """What had gone into its tubs by then: three queries at most."""
    tubs = list(batch.takes.values_list("tub", flat=True))
    rows = TubIn.objects.standing().filter(tub__in=tubs, at__lte=batch.begun_at)
    also = ("bag__piece", "from_test", "from_batch__seasoning")
    return with_answers(rows.select_related("tub", "output__test", "batch", *also))


def entries_of_batches(batches: Collection[Batch]) -> dict[Any, list[TubIn]]:
    """The same for many, by the batch: three queries. Their takes are loaded already."""
    tubs = {take.tub_id for batch in batches for take in batch.takes.all()}
    rows = TubIn.objects.standing().filter(tub__in=tubs)
    by_tub: dict[Any, list[TubIn]] = defaultdict(list)
    for entry in with_answers(rows.select_related("tub", "output__test", "bag__piece", "batch")):
        by_tub[entry.tub_id].append(entry)
    return {
        batch.pk: [
            entry
            for take in batch.takes.all()
            for entry in by_tub[take.tub_id]
            if entry.at <= batch.begun_at
        ]
        for batch in batches
    }


def lot_name(batch: Batch) -> str:
    """Batches from one clean-down to the next are one lot."""
    return f"{batch.cleaned.at:%y%j}-{batch.cleaned_id}"


def linked(batch: Batch) -> Any:
    """The batches of its lot that are nearest to it: one query. A lot lasts a day or two."""
    near = batch.number - MOST_LINKED, batch.number + MOST_LINKED
    found = Batch.objects.standing().filter(cleaned=batch.cleaned, number__range=near)
    return found.order_by("number")
