"""The morning page, made of what the other rooms know. At most ten queries at any size."""

from collections import defaultdict
from dataclasses import dataclass
from datetime import date
from decimal import Decimal

from django.db.models import F, Q, Window
from django.db.models.functions import RowNumber

from cutting.ageing import Urgency
from cutting.bag_line import Axis
from cutting.pricing import at_price, without_tax
from cutting.quantities import ZERO, Unit, UnitPrice, Weight, working
from cutting.repricing import by_factor
from cutting.wanted import Answer, Choice, DuePiece, Want, compare
from rooms.bench.models import Correction, CuttingTest
from rooms.catalog.models import Piece, PlanOutput
from rooms.cooler.models import Bag, Delivery
from rooms.cooler.readings import bags as cooler
from rooms.cooler.readings.temperature import Now, now
from rooms.counter.readings.listing import corrected_since
from rooms.pricebook.models import Price
from rooms.today.models import Wanted

MOST_BAGS = 12
MOVED = Decimal("0.03")
"""A margin this much under the product's target no longer holds."""


@dataclass(frozen=True)
class Moved:
    """A price whose margin at today's invoice has left its target."""

    price: Price
    paid_then: Decimal
    paid_now: Decimal
    margin: Decimal
    target: Decimal


@dataclass(frozen=True)
class Today:
    day: date
    bags: list[cooler.BagView]
    more_bags: int
    wanted: list[Answer]
    moved: list[Moved]
    corrected: list[tuple[Price, Correction]]
    """Prices whose test was corrected after they were set."""
    open_tests: list[CuttingTest]
    open_deliveries: list[Delivery]
    temperature: Now


def today(day: date) -> Today:
    """Everything of one morning."""
    rows = cooler.sorted_bags(day)
    due = [row for row in rows if row[2] is None or row[2].is_today]
    axes = cooler.Axes(day, Axis(day - cooler.BACK, day + cooler.AHEAD, cooler.WIDTH))
    moved, corrected, open_tests = moved_prices()
    return Today(
        day=day,
        bags=[cooler.view_of(*row, axes) for row in due[:MOST_BAGS]],
        more_bags=max(len(due) - MOST_BAGS, 0),
        wanted=wanted(day, [bag for bag, _, found in due if _may_be_cut(found)]),
        moved=moved,
        corrected=corrected,
        open_tests=open_tests,
        open_deliveries=list(Delivery.objects.filter(closed_at=None)),
        temperature=now(),
    )


def _may_be_cut(found) -> bool:
    return found is not None and found.urgency is not Urgency.PAST


def wanted(day: date, due: list[Bag]) -> list[Answer]:
    """The day's list against the due bags: two queries."""
    lines = list(Wanted.objects.filter(weekday=day.weekday()).select_related("product"))
    if not lines:
        return []
    wants = [
        Want(line.product.name, _pounds(line.least, line.product.per),
             _pounds(line.most, line.product.per))
        for line in lines
    ]  # fmt: skip
    names = {line.product.cut_id: line.product.name for line in lines}
    pounds: dict[int, Decimal] = defaultdict(lambda: ZERO)
    pieces: dict[int, Piece] = {}
    with working():
        for bag in due:
            pounds[bag.piece_id] += bag.weight.to(Unit.LB)
            pieces[bag.piece_id] = bag.piece
    shares: dict[int, dict[str, dict[str, Decimal]]] = defaultdict(dict)
    outputs = (
        PlanOutput.objects.filter(plan__piece__in=pieces, plan__is_dropped=False)
        .select_related("plan")
        .order_by("plan__position", "plan_id", "position")
    )
    for output in outputs:
        plan = shares[output.plan.piece_id].setdefault(output.plan.name, {})
        if output.cut_id in names and output.share:
            name = names[output.cut_id]
            plan[name] = plan.get(name, ZERO) + output.share
    return compare(
        wants,
        [
            DuePiece(piece.shown_name, pounds[pk], [Choice(*one) for one in shares[pk].items()])
            for pk, piece in pieces.items()
        ],
    )


def _pounds(value: Decimal, unit: str) -> Decimal:
    return Weight(value, Unit(unit)).to(Unit.LB)


def moved_prices() -> tuple[list[Moved], list[tuple[Price, Correction]], list[CuttingTest]]:
    """Prices set from a test whose piece costs otherwise by now, or that was corrected since; and
    the open tests.

    Four queries: the tests are read once for all.
    """
    current = Price.objects.current().exclude(from_test=None).select_related("product")
    resting = list(current)
    flags = corrected_since(resting)
    corrected = [(price, flags[price.pk]) for price in resting if price.pk in flags]
    prices = [price for price in resting if price.cost and price.product.target_margin is not None]
    wanted_tests = Q(finished_at=None) | Q(pk__in={price.from_test for price in prices})
    tests = list(CuttingTest.objects.filter(wanted_tests).select_related("cutter"))
    by_id = {test.pk: test for test in tests}
    newest = (
        Bag.objects.exclude(price_amount=None)
        .filter(part_of=None)
        .annotate(
            rank=Window(RowNumber(), partition_by=F("piece_id"), order_by=F("came_at").desc())
        )
    )
    bags = {
        bag.piece_id: bag
        for bag in newest.filter(rank=1).only("piece_id", "price_amount", "price_per")
    }
    found = []
    for price in prices:
        test = by_id.get(price.from_test)
        bag = bags.get(test.piece_id) if test else None
        if bag is None:
            continue
        paid = price.paid or UnitPrice(test.price_amount, Unit(test.price_per))
        now = UnitPrice(bag.price_amount, Unit(bag.price_per))
        cost = by_factor(price.cost, paid, now)
        margin = at_price(without_tax(price.amount, price.product.tax), cost).margin
        target = price.product.target_margin
        if margin < target - MOVED:
            found.append(Moved(price, paid.amount, now.to(paid.per), margin, target))
    found.sort(key=lambda one: one.margin - one.target)
    return found, corrected, [test for test in tests if test.is_open]
