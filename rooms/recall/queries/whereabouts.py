"""What of a lot is where: counted for a recall, a drill, a notice."""

from collections import defaultdict
from dataclasses import dataclass
from datetime import date, datetime
from decimal import Decimal
from typing import Any
from uuid import UUID

from django.db.models import Count, Max, Min, QuerySet
from django.db.models.fields.json import KT
from django.utils import timezone
from django.utils.functional import cached_property

from cutting.labels.tray_life import Life
from cutting.quantities import ONE, ZERO, round_half_up, working
from rooms.cooler.models import Bag
from rooms.grinder.models import TrimTub
from rooms.recall.models import Recall
from rooms.recall.queries.trace import NOT_FOOTING, Trace, trace
from rooms.recall.queries.weights import OF_LIFE, End
from rooms.trays.models import PrintJob, Tray
from rooms.trays.queries.lot_graph import Start
from rooms.trays.queries.meat import left_on_tray

STANDS = [life for life, end in OF_LIFE.items() if end in (End.FOR_SALE, End.AT_BLOCK)]


@dataclass(frozen=True)
class Hour:
    """How many trays were sold in an hour."""

    at: datetime
    many: int


@dataclass(frozen=True)
class Whereabouts:
    """Everything made from a lot: what can still be stopped, what cannot."""

    trace: Trace
    for_sale: int
    """Trays for sale by the record, or at the block."""
    sold: int
    thrown: int
    by_hour: list[Hour]
    in_cooler: list[Bag]
    tubs: list[TrimTub]
    """Open ones with something of it."""
    open_tests: list[Any]
    batches: list[Any]
    waiting: int
    """Labels of its trays that the printer has not printed."""
    found: set[UUID]
    """Trays that were found for this recall."""
    packed_again: set[UUID]
    """Trays at the block of which nothing is left: all of their meat lies in other trays."""

    @property
    def missing(self) -> QuerySet[Tray]:
        """For sale by the record, and not found yet."""
        rows = self.trace.reached.all_trays().filter(life__in=STANDS).exclude(pk__in=self.found)
        rows = rows.exclude(pk__in=self.packed_again)
        return rows.select_related("product").defer("lots")

    @property
    def labels(self) -> list[tuple[str, str, int, date, date]]:
        """Each product and lot as they stand on labels, with how many trays, the first day packed and the last
        sell-by: one query."""
        rows = self.trace.reached.all_trays().annotate(label_lot=KT("document__lot"))
        rows = rows.order_by("product__name", "label_lot").values("product__name", "label_lot")
        rows = rows.annotate(many=Count("pk"), first=Min("packed_on"), last=Max("sell_by"))
        return list(rows.values_list("product__name", "label_lot", "many", "first", "last"))

    @cached_property
    def to_find(self) -> int:
        """How many trays are looked for: found ones and those that are missing."""
        return len(self.found) + self.missing.count()

    @property
    def accounted(self) -> Decimal:
        """The share of its weight that is known to be somewhere."""
        return accounted_for(self.trace)

    def report(self) -> dict[str, Any]:
        """As it is kept when a recall or a drill ends."""
        return {
            "trays": sum(one.many for one in self.trace.trays),
            "for_sale": self.for_sale,
            "found": len(self.found),
            "looked_for": self.to_find,
            "sold": self.sold,
            "thrown": self.thrown,
            "bags": len(self.in_cooler),
            "tubs": len(self.tubs),
            "batches": len(self.batches),
            "accounted": f"{round_half_up(self.accounted, 4):f}",
        }


def accounted_for(found: Trace) -> Decimal:
    """1 less what nothing accounts for, more or less; 1 where there is no weight."""
    with working():
        ends = found.ends()
        lost = sum((abs(ends.get(end, ZERO)) for end in NOT_FOOTING), ZERO)
        return max(ONE - lost / found.weight, ZERO) if found.weight else ONE


def whereabouts(key: str, recall: Recall | None = None) -> Whereabouts:
    """Fourteen queries."""
    found = trace(Start(lot=key))
    many: dict[Any, int] = defaultdict(int)
    for tray in found.trays:
        many[OF_LIFE.get(tray.life)] += tray.many
    reached = found.reached
    tubs = {found.meat.entries[one].tub_id for one in reached.entries}
    waiting = PrintJob.objects.filter(
        state=PrintJob.State.WAITING, tray__in=reached.all_trays().values("pk")
    )
    return Whereabouts(
        trace=found,
        for_sale=many[End.FOR_SALE] + many[End.AT_BLOCK],
        sold=many[End.SOLD],
        thrown=many[End.THROWN],
        by_hour=_by_hour(found) if many[End.SOLD] else [],
        in_cooler=[bag for bag in found.meat.bags.values() if bag.state == Bag.State.IN],
        tubs=list(TrimTub.objects.filter(pk__in=tubs, closed_at=None)),
        open_tests=[one for one in found.meat.tests.values() if one.is_open],
        batches=sorted(
            (b for b in found.meat.batches.values() if b.pk in reached.batches),
            key=lambda one: one.number,
        ),
        waiting=waiting.count(),
        packed_again=_packed_again(found),
        found=set(recall.found.values_list("tray", flat=True)) if recall else set(),
    )


def _packed_again(found: Trace) -> set[UUID]:
    """Two queries: there are few trays at the block."""
    at_block = found.reached.all_trays().filter(life=Life.TO_BLOCK).prefetch_related("again")
    return {tray.pk for tray in at_block if left_on_tray(tray, tray.again.all()).value <= 0}


def _by_hour(found: Trace) -> list[Hour]:
    """The last time each of them was sold: one query."""
    sold = found.reached.all_trays().filter(life=Life.SOLD).order_by()
    last = sold.filter(events__life=Life.SOLD).annotate(at=Max("events__at"))
    hours: dict[datetime, int] = defaultdict(int)
    for at in last.values_list("at", flat=True):
        hours[timezone.localtime(at).replace(minute=0, second=0, microsecond=0)] += 1
    return [Hour(at, many) for at, many in sorted(hours.items())]
