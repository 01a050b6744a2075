"""What trays hold for the case, and what of today's piles and batches they took."""

from collections import defaultdict
from dataclasses import dataclass, field
from datetime import date
from decimal import Decimal

from django.db.models import Q
from django.utils import timezone

from cutting.labels.tray_life import SOLD_FROM
from cutting.quantities import ZERO, Unit, Weight, working
from rooms.trays.models import Tray
from rooms.trays.queries.held import held_trays


def _zeros() -> dict[int, Decimal]:
    return defaultdict(lambda: ZERO)


@dataclass
class InTrays:
    """Pounds."""

    for_sale: dict[int, Decimal] = field(default_factory=_zeros)
    """By the cut: packed, in the case or marked down, not past its day, of no lot that is held."""
    of_piles: dict[int, Decimal] = field(default_factory=_zeros)
    """Packed of a pile, by its id, whatever became of it."""
    of_batches: dict[str, Decimal] = field(default_factory=lambda: defaultdict(lambda: ZERO))
    """Packed of batches begun on the day, by animal, whatever became of it."""


def in_trays(day: date) -> InTrays:
    """What can be sold on `day`, and what was packed on it: one query, more while a lot is held."""
    found = InTrays()
    trays = list(
        Tray.objects.standing()
        .filter(Q(pk__in=Tray.objects.for_sale().filter(sell_by__gte=day)) | Q(packed_on=day))
        .select_related("product__cut", "batch")
        .order_by()
    )
    held = held_trays(trays)
    with working():
        for tray in trays:
            pounds = Weight(tray.net, Unit(tray.unit)).to(Unit.LB)
            if tray.state in SOLD_FROM and tray.sell_by >= day and tray.pk not in held:
                found.for_sale[tray.product.cut_id] += pounds
            if tray.packed_on != day:
                continue
            if tray.output_id is not None:
                found.of_piles[tray.output_id] += pounds
            elif tray.batch is not None and timezone.localdate(tray.batch.begun_at) == day:
                found.of_batches[tray.batch.species] += pounds
    return found
