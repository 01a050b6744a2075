"""Which lots are in a batch, and which batches are one lot."""

from typing import Any

from cutting.grinding.blend import Kind
from rooms.catalog.models import Pile
from rooms.grinder.models import Batch, TubIn

Lot = dict[str, str]
GOES_IN: dict[Pile, tuple[str, ...]] = {
    Pile.LEAN: (Kind.LEAN, Kind.ENDS),
    Pile.FAT: (Kind.HARD_FAT,),
}
"""Which kinds of tub a pile of the block goes into. Suet and kidney fat never."""


MOST_LINKED = 40


def lots_of_batch(batch: Batch) -> list[Lot]:
    """Every lot that had gone into one of its tubs when it was ground, once each: two queries. What
    lay in a tub together cannot be told apart any more."""
    found: dict[tuple[str, ...], Lot] = {}
    for entry in entries_of(batch):
        for lot in entry.lots:
            found[tuple(lot[name] for name in sorted(lot))] = lot
    return list(found.values())


def entries_of(batch: Batch) -> list[TubIn]:
    """What had gone into its tubs by then: two queries."""
    tubs = list(batch.takes.values_list("tub", flat=True))
    rows = TubIn.objects.filter(tub__in=tubs, at__lte=batch.begun_at)
    return list(rows.select_related("tub", "output__test", "bag", "batch"))


def lot_name(batch: Batch) -> str:
    """Batches from one clean-down to the next are one lot."""
    return f"{batch.cleaned.at:%y%j}-{batch.cleaned_id}"


def linked(batch: Batch) -> Any:
    """The batches of its lot that are nearest to it: one query. A lot lasts a day or two."""
    near = batch.number - MOST_LINKED, batch.number + MOST_LINKED
    return Batch.objects.filter(cleaned=batch.cleaned, number__range=near).order_by("number")
