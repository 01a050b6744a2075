"""What of a lot is where: counted for a recall, a drill, a notice."""

from collections import defaultdict
from dataclasses import dataclass
from datetime import datetime
from decimal import Decimal
from typing import Any
from uuid import UUID

from django.utils import timezone

from cutting.labels.tray_life import Life
from cutting.quantities import ONE, ZERO, round_half_up, working
from rooms.cooler.models import Bag
from rooms.grinder.models import TrimTub
from rooms.trays.models import Found, PrintJob, Recall, TrayEvent
from rooms.trays.rules.meat import OF_LIFE, End, TrayRow
from rooms.trays.rules.trace import Trace, trace
from rooms.trays.rules.way import Start


@dataclass(frozen=True)
class Hour:
    """How many trays were sold in an hour."""

    at: datetime
    many: int


@dataclass(frozen=True)
class Whereabouts:
    """Everything made from a lot: what can still be stopped, what cannot."""

    trace: Trace
    for_sale: list[TrayRow]
    sold: list[TrayRow]
    thrown: list[TrayRow]
    by_hour: list[Hour]
    in_cooler: list[Bag]
    tubs: list[TrimTub]
    """Open ones with something of it."""
    open_tests: list[Any]
    batches: list[Any]
    waiting: int
    """Labels of its trays that the printer has not printed."""
    found: dict[UUID, Found]
    """What was found for this recall, by the tray."""

    @property
    def missing(self) -> list[TrayRow]:
        """For sale by the record, and not found yet."""
        return [one for one in self.for_sale if one.pk not in self.found]

    @property
    def products(self) -> list[tuple[str, int, str, str]]:
        """Each product with how many trays, the first day packed and the last sell-by."""
        by: dict[str, list[TrayRow]] = defaultdict(list)
        for tray in self.trace.trays:
            by[tray.product].append(tray)
        return [
            (
                name,
                len(rows),
                min(one.packed_on for one in rows),
                max(one.sell_by for one in rows),
            )
            for name, rows in sorted(by.items())
        ]

    @property
    def accounted(self) -> Decimal:
        """The share of its weight that is known to be somewhere."""
        return accounted_for(self.trace)

    def report(self) -> dict[str, Any]:
        """As it is kept when a recall or a drill ends."""
        return {
            "trays": len(self.trace.trays),
            "for_sale": len(self.for_sale),
            "found": len(self.found),
            "sold": len(self.sold),
            "thrown": len(self.thrown),
            "bags": len(self.in_cooler),
            "tubs": len(self.tubs),
            "batches": len(self.batches),
            "accounted": f"{round_half_up(self.accounted, 4):f}",
        }


def accounted_for(found: Trace) -> Decimal:
    """1 less what nothing accounts for, more or less; 1 where there is no weight."""
    with working():
        lost = abs(found.ends().get(End.UNACCOUNTED, ZERO))
        return max(ONE - lost / found.weight, ZERO) if found.weight else ONE


def whereabouts(key: str, recall: Recall | None = None) -> Whereabouts:
    """Fourteen queries."""
    found = trace(Start(lot=key))
    rows: dict[End, list[TrayRow]] = defaultdict(list)
    for tray in found.trays:
        if tray.life in OF_LIFE:
            rows[OF_LIFE[tray.life]].append(tray)
    reached = found.reached
    tubs = {found.meat.entries[one].tub_id for one in reached.entries}
    waiting = PrintJob.objects.filter(
        state=PrintJob.State.WAITING, tray__in=reached.all_trays().values("pk")
    )
    return Whereabouts(
        trace=found,
        for_sale=[*rows[End.FOR_SALE], *rows[End.AT_BLOCK]],
        sold=rows[End.SOLD],
        thrown=rows[End.THROWN],
        by_hour=_by_hour({one.pk for one in rows[End.SOLD]}),
        in_cooler=[bag for bag in found.meat.bags.values() if bag.state == Bag.State.IN],
        tubs=list(TrimTub.objects.filter(pk__in=tubs, closed_at=None)),
        open_tests=[one for one in found.meat.tests.values() if one.is_open],
        batches=sorted(
            (b for b in found.meat.batches.values() if b.pk in reached.batches),
            key=lambda one: one.number,
        ),
        waiting=waiting.count(),
        found={one.tray_id: one for one in recall.found.select_related("by")} if recall else {},
    )


def _by_hour(sold: set[UUID]) -> list[Hour]:
    """The last time each of them was sold: one query."""
    if not sold:
        return []
    rows = TrayEvent.objects.filter(life=Life.SOLD, tray__in=sold).order_by("id")
    last = dict(rows.values_list("tray", "at"))
    hours: dict[datetime, int] = defaultdict(int)
    for at in last.values():
        hours[timezone.localtime(at).replace(minute=0, second=0, microsecond=0)] += 1
    return [Hour(at, many) for at, many in sorted(hours.items())]
