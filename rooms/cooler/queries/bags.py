"""The cooler: each bag on its time line, sorted by what is due."""

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, timedelta
from decimal import Decimal
from uuid import UUID

from django.core.paginator import Page
from django.db.models import Exists, OuterRef, Q, QuerySet, prefetch_related_objects

from cutting.cooler import ageing
from cutting.cooler.ageing import Due, Urgency, too_young_for
from cutting.cooler.receiving import Stock, bag_cost, stock
from cutting.quantities import Unit, UnitPrice, Weight
from drawings.bag_line import Axis, BagLine, bag_line
from rooms.common.web.paging import paged
from rooms.cooler.models import UNNAMED, Bag, LotHold
from rooms.cooler.queries.days import core_bags
from rooms.shop.queries.current import house
from wording.cooler import due_words

BAGS_A_PAGE = 40
WIDTH = 560.0
BACK, AHEAD = timedelta(days=50), timedelta(days=30)
WEEK = 7
SHOWN = 5
HEADS = {
    Urgency.PAST: "Past its end: decide first",
    Urgency.NOW: "Cut today",
    Urgency.SOON: "Cut next",
    Urgency.BEST: "In the best window",
    Urgency.READY: "Old enough",
    Urgency.YOUNG: "Too young",
}


@dataclass(frozen=True)
class BagView:
    """A bag with what is due, its time line, and what it is worth at cost."""

    bag: Bag
    core: ageing.Bag | None
    due: Due | None
    line: BagLine | None
    worth: Decimal | None
    missing_days: int = 0
    reasons: Sequence[str] = ()

    @property
    def head(self) -> str:
        return HEADS[self.due.urgency] if self.due else "Not named yet"

    @property
    def look(self) -> str:
        return self.due.urgency.name.lower() if self.due else "unnamed"


@dataclass(frozen=True)
class CoolerView:
    bags: list[BagView]
    """One page of them, in the order they are taken."""
    count: int
    due_today: int
    weight: Decimal
    worth: Decimal
    unpriced: int
    page: Page
    axis: Axis
    wanted_on: date | None


@dataclass(frozen=True)
class Axes:
    today: date
    axis: Axis
    wanted_on: date | None = None


def in_order(today: date) -> QuerySet[Bag]:
    """Every bag in the cooler in the order it is taken, with what a list shows of its piece, and whether its
    lot is held."""
    held = LotHold.objects.standing().filter(lot_key=OuterRef("lot_key"))
    rows = Bag.objects.in_cooler().in_order(today).with_piece()
    return rows.annotate(is_held=Exists(held))


def cooler(today: date, number: str | None = None, wanted_on: date | None = None) -> CoolerView:
    """The cooler's page: eight queries at any size."""
    axis = Axis(today - BACK, today + AHEAD, WIDTH)
    total = _total()
    page = paged(in_order(today), number, BAGS_A_PAGE, total.count)
    shown = list(page.object_list)
    prefetch_related_objects(shown, "delivery")
    return CoolerView(
        bags=views_of(shown, Axes(today, axis, wanted_on)),
        count=total.count,
        due_today=sum(one.urgency != UNNAMED for one in due_today(today)),
        weight=total.weight,
        worth=total.worth,
        unpriced=total.unpriced,
        page=page,
        axis=axis,
        wanted_on=wanted_on,
    )


@dataclass(frozen=True, slots=True)
class DueBag:
    """What is asked of every bag that waits for a hand today. `urgency`: UNNAMED or the core's."""

    pk: UUID
    piece: int | None
    weight: Weight
    urgency: int


def due_today(today: date) -> list[DueBag]:
    """Bags that wait for a hand today, the most pressing first, unnamed codes before; none that is held: one
    query."""
    due = Bag.objects.free().in_order(today).filter(urgency__lte=Urgency.SOON.value)
    names = ("pk", "piece_id", "weight_value", "weight_unit", "urgency")
    return [
        DueBag(pk, piece, Weight(value, Unit(unit)), urgency)
        for pk, piece, value, unit, urgency in due.values_list(*names)
    ]


def first_of(due: Sequence[DueBag], axes: Axes) -> list[BagView]:
    """These few as a page shows them, in their order: two queries."""
    found = Bag.objects.with_piece().in_bulk([one.pk for one in due])
    return views_of([found[one.pk] for one in due if one.pk in found], axes)


def _total() -> Stock:
    """Weight and worth of all bags in the cooler: one query of narrow rows."""
    names = ("weight_value", "weight_unit", "price_amount", "price_per", "freight", "discount")
    rows = Bag.objects.in_cooler().order_by().values_list(*names)
    return stock(
        (
            (
                Weight(value, Unit(unit)),
                None if price is None else UnitPrice(price, Unit(per)),
                freight,
                discount,
            )
            for value, unit, price, per, freight, discount in rows
        ),
        house().unit,
    )


def views_of(bags: Sequence[Bag], axes: Axes) -> list[BagView]:
    """Each bag with what is due and its time line: two queries, one for bags read `with_piece`."""
    core = core_bags(bags)
    return [view_of(bag, core.get(bag.pk), axes) for bag in bags]


def view_of(bag: Bag, core: ageing.Bag | None, axes: Axes) -> BagView:
    line = bag_line(core, axes.today, axes.axis) if core else None
    missing = too_young_for(core, axes.wanted_on) if core and axes.wanted_on else 0
    found = ageing.due(core, axes.today) if core else None
    reasons = due_words(core, axes.today) if core else []
    return BagView(bag, core, found, line, worth_of(bag), missing, reasons)


def worth_of(bag: Bag) -> Decimal | None:
    """What the bag cost with freight and discount; None without a price."""
    return None if bag.line is None else bag_cost(bag.line, bag.freight, bag.discount)


@dataclass(frozen=True)
class Some:
    """The first few bags of a day, and how many there are."""

    bags: list[Bag]
    count: int


@dataclass(frozen=True)
class Day:
    """One day of the calendar: what ends, what comes into its best, whether the ferry comes."""

    day: date
    is_today: bool
    is_delivery: bool
    ends: Some
    begins: Some
    grown: int
    """How many become old enough."""


def calendar(today: date, delivery_days: Sequence[int], length: int = 2 * WEEK) -> list[Day]:
    """Two weeks from today: two queries. `delivery_days`: 0 is Monday."""
    last = today + timedelta(days=length - 1)
    ends: dict[date, list[UUID]] = defaultdict(list)
    begins: dict[date, list[UUID]] = defaultdict(list)
    grown: dict[date, int] = defaultdict(int)
    near = Q(ends_on__lte=last) | Q(best_from__range=(today, last))
    near |= Q(old_enough_on__range=(today, last))
    for pk, end, best, old_enough in (
        Bag.objects.in_cooler()
        .filter(near)
        .values_list("pk", "ends_on", "best_from", "old_enough_on")
    ):
        ends[max(end, today)].append(pk)
        begins[best].append(pk)
        grown[old_enough] += old_enough != best
    days = [today + timedelta(days=i) for i in range(length)]
    named = Bag.objects.with_piece().in_bulk(
        [pk for day in days for pks in (ends, begins) for pk in pks[day][:SHOWN]]
    )

    def some(pks: list[UUID]) -> Some:
        return Some([named[pk] for pk in pks[:SHOWN]], len(pks))

    return [
        Day(
            day,
            day == today,
            day.weekday() in delivery_days,
            some(ends[day]),
            some(begins[day]),
            grown[day],
        )
        for day in days
    ]
