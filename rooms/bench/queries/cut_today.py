"""What came off the block on a day, or lately."""

from collections import defaultdict
from datetime import date, datetime, time, timedelta
from decimal import Decimal

from django.db.models import BigIntegerField, Case, F, OuterRef, Q, QuerySet, Subquery, When
from django.utils import timezone

from cutting.quantities import ZERO, Unit, Weight, working
from rooms.bench.models import CuttingTest, Move, Weighing


def pounds_finished(ago: timedelta) -> dict[int, Decimal]:
    """Pounds of the tests finished since, by the cut of their pile: one query."""
    since = timezone.now() - ago
    return _pounds(CuttingTest.objects.filter(finished_at__gte=since))


def pounds_cut(day: date) -> dict[int, Decimal]:
    """Pounds weighed on `day` by the cut of their pile, as they stand now: one query."""
    start = timezone.make_aware(datetime.combine(day, time()))
    open_or_since = Q(finished_at=None) | Q(finished_at__gte=start)
    return _pounds(CuttingTest.objects.filter(open_or_since), day)


def _pounds(tests: QuerySet[CuttingTest], day: date | None = None) -> dict[int, Decimal]:
    """Of these tests; a file taken in is no cutting. Asked by test and without an order, else every
    weighing there is would be walked through."""
    own = tests.filter(imported_at=None).order_by()
    moved_to = Move.objects.filter(weighing=OuterRef("pk")).order_by("-pk").values("to__cut_id")
    taken = Weighing.objects.filter(test__in=own).with_take_backs().filter(back_id=None).order_by()
    lies = Case(
        When(moved_id=None, then=F("output__cut_id")),
        default=Subquery(moved_to[:1]),
        output_field=BigIntegerField(),
    )
    taken = taken.annotate(cut=lies)
    found: dict[int, Decimal] = defaultdict(lambda: ZERO)
    with working():
        for cut, value, unit, at in taken.values_list("cut", "value", "unit", "taken_at"):
            if cut is not None and (day is None or timezone.localdate(at) == day):
                found[cut] += Weight(value, Unit(unit)).to(Unit.LB)
    return dict(found)
