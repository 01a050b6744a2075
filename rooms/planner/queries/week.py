"""Seven days at one look: what falls due, what gets old enough, what the case wants."""

from collections import defaultdict
from collections.abc import Iterable
from dataclasses import dataclass
from datetime import date, timedelta
from decimal import Decimal

from cutting.quantities import ZERO, Unit, Weight, working
from rooms.cooler.models import Bag
from rooms.planner.models import DayPlan
from rooms.planner.queries.wants import wants_of
from rooms.shop.rules.current import house

DAYS = 7


@dataclass(frozen=True)
class Group:
    """Bags of one piece: how many, and their weight in the shop's unit."""

    piece: str
    many: int
    weight: Decimal


@dataclass(frozen=True)
class DayOfWeek:
    """One day: bags whose end falls on it, bags that get old enough, bags that are at their best
    from it on, how many products the list wants, and its plan."""

    day: date
    due: list[Group]
    ready: list[Group]
    best: list[Group]
    wanted: int
    why: list[str]
    """What makes it another day than usual: season, holiday, ad, restaurants."""
    plan: DayPlan | None

    @property
    def is_quiet(self) -> bool:
        return not (self.due or self.ready or self.best)


@dataclass(frozen=True)
class Week:
    past: list[Group]
    """What is past its end already: decided about first."""
    days: list[DayOfWeek]


def week(today: date) -> Week:
    """Five queries."""
    until = today + timedelta(days=DAYS)
    bags = list(Bag.objects.in_cooler().filter(piece__isnull=False).select_related("piece"))
    plans: dict[date, DayPlan] = {}
    for plan in DayPlan.objects.filter(day__gte=today, day__lt=until):
        plans.setdefault(plan.day, plan)
    days = [today + timedelta(days=number) for number in range(DAYS)]
    wanted = wants_of(days)
    return Week(
        past=_groups(bag for bag in bags if bag.ends_on is not None and bag.ends_on < today),
        days=[
            DayOfWeek(
                day,
                _groups(bag for bag in bags if bag.ends_on == day),
                _groups(bag for bag in bags if bag.old_enough_on == day),
                _groups(bag for bag in bags if bag.best_from == day and bag.old_enough_on != day),
                sum(one.least > 0 for one in wanted[day]),
                sorted({words for one in wanted[day] for words in one.why}),
                plans.get(day),
            )
            for day in days
        ],
    )


def _groups(bags: Iterable[Bag]) -> list[Group]:
    """By piece, the heaviest first."""
    many: dict[str, int] = defaultdict(int)
    weight: dict[str, Decimal] = defaultdict(lambda: ZERO)
    with working():
        for bag in bags:
            name = bag.piece.shown_name
            many[name] += 1
            weight[name] += Weight(bag.weight_value, Unit(bag.weight_unit)).to(house().unit)
    found = [Group(name, many[name], weight[name]) for name in many]
    return sorted(found, key=lambda one: (-one.weight, one.piece))
