"""What came off the block on a day, or lately."""

from collections import defaultdict
from collections.abc import Mapping
from dataclasses import dataclass
from datetime import date, datetime, time, timedelta
from decimal import Decimal
from typing import Any

from django.db.models import BigIntegerField, Case, F, OuterRef, Q, QuerySet, Subquery, When
from django.utils import timezone

from cutting.quantities import ZERO, Unit, Weight, working
from rooms.bench.models import CuttingTest, Move, PieceBag, TestBag, Weighing
from rooms.cooler.models import LotHold


@dataclass(frozen=True)
class PileCut:
    """What was weighed onto one pile."""

    cut: int
    """The id of its cut."""
    pounds: Decimal


def pounds_finished(ago: timedelta) -> dict[int, Decimal]:
    """Pounds of the tests finished since, by the cut of their pile: one query."""
    since = timezone.now() - ago
    return _by_cut(_piles(CuttingTest.objects.filter(finished_at__gte=since)))


def piles_free(day: date) -> dict[int, PileCut]:
    """What was weighed on `day`, by the id of its pile, without the tests of a lot that is held: one
    query."""
    held = LotHold.objects.standing().values("lot_key")
    of_bags = TestBag.objects.filter(bag__lot_key__in=held).values("test")
    return _piles(_touched(day).exclude(lot_key__in=held).exclude(pk__in=of_bags), day)


def _touched(day: date) -> QuerySet[CuttingTest]:
    """Tests that something can have been weighed in on `day`."""
    start = timezone.make_aware(datetime.combine(day, time()))
    return CuttingTest.objects.filter(Q(finished_at=None) | Q(finished_at__gte=start))


def _by_cut(piles: Mapping[int, PileCut]) -> dict[int, Decimal]:
    found: dict[int, Decimal] = defaultdict(lambda: ZERO)
    with working():
        for pile in piles.values():
            found[pile.cut] += pile.pounds
    return dict(found)


def _piles(tests: QuerySet[CuttingTest], day: date | None = None) -> dict[int, PileCut]:
    """Of these tests; a file taken in is no cutting, and a whole piece in the cooler is not for sale. Asked by test and without an order, else every
    weighing there is would be walked through."""
    own = tests.filter(imported_at=None).order_by()
    last = Move.objects.filter(weighing=OuterRef("pk")).order_by("-pk")
    taken = Weighing.objects.filter(test__in=own).with_take_backs().filter(back_id=None).order_by()
    kept = PieceBag.objects.standing().filter(test__in=own)
    taken = taken.exclude(pk__in=kept.values("weighing")).annotate(
        pile=_where("output_id", last.values("to_id")),
        cut=_where("output__cut_id", last.values("to__cut_id")),
    )
    pounds: dict[tuple[int, int], Decimal] = defaultdict(lambda: ZERO)
    rows = taken.values_list("pile", "cut", "value", "unit", "taken_at")
    with working():
        for pile, cut, value, unit, at in rows:
            if cut is not None and (day is None or timezone.localdate(at) == day):
                pounds[pile, cut] += Weight(value, Unit(unit)).to(Unit.LB)
    return {pile: PileCut(cut, own_pounds) for (pile, cut), own_pounds in pounds.items()}


def _where(first: str, moved_to: Any) -> Case:
    """Of where a weighing lies now: as it was taken, or as it was moved last."""
    moved = Subquery(moved_to[:1])
    return Case(When(moved_id=None, then=F(first)), default=moved, output_field=BigIntegerField())
