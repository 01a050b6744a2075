"""Seven days at one look: what falls due, what gets old enough, what the case wants."""

from collections import defaultdict
from collections.abc import Iterable
from dataclasses import dataclass
from datetime import date, timedelta
from decimal import Decimal

from cutting.quantities import ZERO, Unit, Weight, working
from rooms.catalog.models import Piece
from rooms.cooler.models import Bag
from rooms.demand.queries.wants import WantedOn, wants_of
from rooms.planner.models import DayPlan
from rooms.planner.queries.asking import WaysOf, sold_as, yields_of
from rooms.planner.queries.at_hand import pounds_at_hand
from rooms.shop.queries.current import house

DAYS = 7
ENOUGH = Decimal("0.05")
"""Below that nothing is told as short, in the product's unit."""


@dataclass(frozen=True, slots=True)
class BagDays:
    """A bag's piece, weight, and the days on which something changes; None where nothing is known."""

    piece: int
    weight: Weight
    old_enough_on: date | None
    best_from: date | None
    ends_on: date | None

    def is_there(self, day: date) -> bool:
        """Old enough and not past its end."""
        return (self.old_enough_on is None or self.old_enough_on <= day) and (
            self.ends_on is None or self.ends_on >= day
        )


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
    short: list[str]
    """What will be short from this day on, even if every bag that is old enough were cut for it."""
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
    """At most thirteen queries."""
    until = today + timedelta(days=DAYS)
    bags = _bags()
    plans: dict[date, DayPlan] = {}
    for plan in DayPlan.objects.filter(day__gte=today, day__lt=until):
        plans.setdefault(plan.day, plan)
    days = [today + timedelta(days=number) for number in range(DAYS)]
    wanted = wants_of(days)
    pieces = Piece.everything.only(*Piece.LISTED).in_bulk({bag.piece for bag in bags})
    short = _short(today, bags, days, wanted)
    past = [bag for bag in bags if bag.ends_on is not None and bag.ends_on < today]
    due = _on_days(bags, "ends_on")
    ready = _on_days(bags, "old_enough_on")
    best = _on_days((bag for bag in bags if bag.best_from != bag.old_enough_on), "best_from")
    return Week(
        past=_groups(past, pieces),
        days=[
            DayOfWeek(
                day,
                _groups(due[day], pieces),
                _groups(ready[day], pieces),
                _groups(best[day], pieces),
                sum(one.least > 0 for one in wanted[day]),
                short[day],
                sorted({words for one in wanted[day] for words in one.why}),
                plans.get(day),
            )
            for day in days
        ],
    )


def _bags() -> list[BagDays]:
    """Named bags that may be cut: one query of narrow rows."""
    names = ("piece_id", "weight_value", "weight_unit", "old_enough_on", "best_from", "ends_on")
    rows = Bag.objects.free().filter(piece__isnull=False).values_list(*names)
    return [BagDays(piece, Weight(value, Unit(unit)), *on) for piece, value, unit, *on in rows]


def _on_days(bags: Iterable[BagDays], what: str) -> dict[date | None, list[BagDays]]:
    """By the day on which it happens to them."""
    found: dict[date | None, list[BagDays]] = defaultdict(list)
    for bag in bags:
        found[getattr(bag, what)].append(bag)
    return found


def _short(
    today: date, bags: list[BagDays], days: list[date], wanted: dict[date, list[WantedOn]]
) -> dict[date, list[str]]:
    """The first day on which the least so far is more than the cooler could give at best."""
    ways = yields_of({bag.piece for bag in bags}, today)
    at_best = _at_best(ways)
    products = [one.product for day in days for one in wanted[day]]
    cut = pounds_at_hand(today, products)
    found: dict[date, list[str]] = {day: [] for day in days}
    asked: dict[int, Decimal] = defaultdict(lambda: ZERO)
    told = set()
    with working():
        each = [(bag, bag.weight.to(Unit.LB)) for bag in bags]
        for day in days:
            pounds = _pounds_there(each, day)
            for one in wanted[day]:
                product, unit = one.product, Unit(one.product.per)
                asked[product.pk] += one.least
                if product.pk in told:
                    continue
                best = sum(
                    (
                        own * at_best.get((piece, sold_as(product)), ZERO)
                        for piece, own in pounds.items()
                    ),
                    cut.get(product.cut_id, ZERO),
                )
                missing = asked[product.pk] - Weight(best, Unit.LB).to(unit)
                if missing > ENOUGH:
                    told.add(product.pk)
                    found[day].append(f"{product.name} {missing:.1f} {product.per}")
    return found


def _pounds_there(bags: list[tuple[BagDays, Decimal]], day: date) -> dict[int, Decimal]:
    """Pounds of each piece that are old enough and not past their end on a day."""
    found: dict[int, Decimal] = defaultdict(lambda: ZERO)
    for bag, pounds in bags:
        if bag.is_there(day):
            found[bag.piece] += pounds
    return found


def _at_best(ways: WaysOf) -> dict[tuple[int, str], Decimal]:
    """The largest share of a product that any way of a piece gives, by piece and product."""
    shares = {row["id"]: row["outputs"] for row in ways.rows}
    found: dict[tuple[int, str], Decimal] = {}
    for piece, own in ways.by_piece.items():
        for way in own:
            for one in shares[way.key]:
                key = piece, one["product"]
                found[key] = max(found.get(key, ZERO), Decimal(one["share"]))
    return found


def _groups(bags: Iterable[BagDays], pieces: dict[int, Piece]) -> list[Group]:
    """By piece, the heaviest first."""
    many: dict[str, int] = defaultdict(int)
    weight: dict[str, Decimal] = defaultdict(lambda: ZERO)
    with working():
        for bag in bags:
            name = pieces[bag.piece].shown_name
            many[name] += 1
            weight[name] += bag.weight.to(house().unit)
    found = [Group(name, many[name], weight[name]) for name in many]
    return sorted(found, key=lambda one: (-one.weight, one.piece))
