"""The cooler: each bag on its time line, sorted by what is due."""

from collections import defaultdict
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import date, timedelta
from decimal import Decimal

from django.db.models import Q, prefetch_related_objects
from django.utils import timezone

from cutting import ageing
from cutting.ageing import Due, Urgency, in_order, too_young_for
from cutting.bag_line import Axis, BagLine, bag_line
from cutting.quantities import ZERO, Unit
from cutting.receiving import bag_cost
from cutting.temperature import Excursion as CoreExcursion
from cutting.temperature import above
from rooms.cooler.models import Bag, Excursion
from rooms.cooler.windows import repacked, windows

BAGS_A_PAGE = 40
WIDTH = 560.0
BACK, AHEAD = timedelta(days=50), timedelta(days=30)
WEEK = 7
SHOWN = 5
HEADS = {
    Urgency.PAST: "Past its end: decide first", Urgency.NOW: "Cut today",
    Urgency.SOON: "Cut next", Urgency.BEST: "In the best window",
    Urgency.READY: "Old enough", Urgency.YOUNG: "Too young",
}  # fmt: skip


@dataclass(frozen=True)
class BagView:
    """A bag with what is due, its time line, and what it is worth at cost."""

    bag: Bag
    core: ageing.Bag | None
    due: Due | None
    line: BagLine | None
    worth: Decimal | None
    missing_days: int = 0

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
    next_page: int | None
    axis: Axis
    wanted_on: date | None


def _core(row: Excursion) -> CoreExcursion:
    return CoreExcursion(row.started_at, row.last_at, row.peak, row.ended_at)


def core_bags(bags: Iterable[Bag]) -> dict[object, ageing.Bag]:
    """The core's bag of each row that has a piece: two queries."""
    bags = [bag for bag in bags if bag.piece_id]
    if not bags:
        return {}
    window = windows({bag.piece for bag in bags})
    now = timezone.now()
    oldest = min(bag.came_at for bag in bags)
    lasting = Q(ended_at=None) | Q(ended_at__gte=oldest)
    spells = [_core(row) for row in Excursion.objects.filter(lasting)]
    return {
        bag.pk: ageing.Bag(
            packed_on=bag.packed_on,
            window=repacked(bag.piece) if bag.part_of_id else window[bag.piece_id],
            seal=ageing.Seal(bag.seal),
            use_by=bag.use_by,
            warm=above(spells, bag.came_at, bag.left_at or now) if spells else timedelta(0),
        )
        for bag in bags
    }


def in_cooler() -> list[Bag]:
    """Every bag in the cooler with what a list shows of its piece: one query."""
    shown = ("key", "name", "other_name", "house_name", "item_number", "species", "least_age_days")
    rows = Bag.objects.in_cooler().select_related("piece")
    own = (f.attname for f in Bag._meta.concrete_fields)
    return list(rows.only(*own, *(f"piece__{name}" for name in shown)))


def sorted_bags(today: date) -> list[tuple[Bag, ageing.Bag | None, Due | None]]:
    """Every bag in the cooler in the order it is taken; unnamed codes first: three queries."""
    rows = in_cooler()
    core = core_bags(rows)
    unnamed = [(bag, None, None) for bag in rows if bag.pk not in core]
    named = [(bag, core[bag.pk], ageing.due(core[bag.pk], today)) for bag in rows if bag.pk in core]
    order = in_order([(found, bag) for _, bag, found in named])
    return unnamed + [named[i] for i in order]


def cooler(today: date, page: int = 1, wanted_on: date | None = None) -> CoolerView:
    """The cooler's page: four queries at any size."""
    everything = sorted_bags(today)
    axis = Axis(today - BACK, today + AHEAD, WIDTH)
    start = (page - 1) * BAGS_A_PAGE
    shown = everything[start : start + BAGS_A_PAGE]
    prefetch_related_objects([bag for bag, _, _ in shown], "delivery")
    worths = [worth_of(bag) for bag, _, _ in everything]
    return CoolerView(
        bags=[
            view_of(bag, core, found, Axes(today, axis, wanted_on)) for bag, core, found in shown
        ],
        count=len(everything),
        due_today=sum(found is not None and found.is_today for _, _, found in everything),
        weight=sum((bag.weight.to(Unit.LB) for bag, _, _ in everything), ZERO),
        worth=sum((worth for worth in worths if worth is not None), ZERO),
        unpriced=sum(worth is None for worth in worths),
        next_page=page + 1 if len(everything) > start + BAGS_A_PAGE else None,
        axis=axis,
        wanted_on=wanted_on,
    )


@dataclass(frozen=True)
class Axes:
    today: date
    axis: Axis
    wanted_on: date | None = None


def view_of(bag: Bag, core: ageing.Bag | None, found: Due | None, axes: Axes) -> BagView:
    line = bag_line(core, axes.today, axes.axis) if core else None
    missing = too_young_for(core, axes.wanted_on) if core and axes.wanted_on else 0
    return BagView(bag, core, found, line, worth_of(bag), missing)


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
    """Two weeks from today: three queries. `delivery_days`: 0 is Monday."""
    rows = in_cooler()
    core = core_bags(rows)
    ends: dict[date, list[Bag]] = defaultdict(list)
    begins: dict[date, list[Bag]] = defaultdict(list)
    grown: dict[date, int] = defaultdict(int)
    for bag in rows:
        if one := core.get(bag.pk):
            ends[max(one.ends_on, today)].append(bag)
            begins[one.best_from].append(bag)
            grown[one.old_enough_on] += one.old_enough_on != one.best_from
    return [
        Day(day, day == today, day.weekday() in delivery_days,
            Some(ends[day][:SHOWN], len(ends[day])), Some(begins[day][:SHOWN], len(begins[day])),
            grown[day])
        for day in (today + timedelta(days=i) for i in range(length))
    ]  # fmt: skip
