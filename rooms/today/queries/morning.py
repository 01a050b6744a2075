"""The morning page, made of what the other rooms know. Sixteen queries at any size, one more where
factors move the list, one where a piece was never delivered."""

from collections import defaultdict
from dataclasses import dataclass
from datetime import date
from decimal import Decimal

from cutting.planning.wanted import (
    Answer,
    Choice,
    DuePiece,
    Want,
    WantBar,
    compare,
    due_weights,
    most_missing_first,
    want_bar,
)
from cutting.prices.repricing import by_factor, no_longer_holds
from cutting.quantities import ZERO, Unit, Weight
from drawings.bag_line import Axis
from rooms.bench.models import CuttingTest
from rooms.bench.queries.invoice import invoice_now
from rooms.catalog.models import Piece, PlanOutput
from rooms.cooler.models import Delivery
from rooms.cooler.queries import bags as cooler
from rooms.cooler.queries.temperature import Now, now
from rooms.demand.queries.wants import wants_on
from rooms.planner.queries.at_hand import pounds_at_hand
from rooms.pricebook.models import Price
from rooms.pricebook.queries.book import margin_at
from rooms.pricing.queries.depending import depending
from rooms.pricing.queries.grounds import Shaken, shaken, with_grounds
from rooms.shop.queries.current import house
from wording.plan import wanted_words

MOST_BAGS = 12


@dataclass(frozen=True)
class MovedPrice:
    """A price whose margin at today's invoice has left its target."""

    price: Price
    paid_then: Decimal
    paid_now: Decimal
    margin: Decimal
    target: Decimal


@dataclass(frozen=True)
class Wants:
    """The case's list with a bar for each: what is missing first, what there is enough of after."""

    missing: list[tuple[Answer, WantBar, str]]
    enough: list[tuple[Answer, WantBar, str]]

    @classmethod
    def of(cls, answers: list[Answer]) -> "Wants":
        each = [
            (one, want_bar(one), wanted_words(one, house().unit))
            for one in most_missing_first(answers)
        ]
        return cls(
            [pair for pair in each if pair[0].missing],
            [pair for pair in each if not pair[0].missing],
        )


@dataclass(frozen=True)
class Today:
    day: date
    bags: list[cooler.BagView]
    more_bags: int
    wanted: Wants
    moved: list[MovedPrice]
    shaken: list[tuple[Price, Shaken]]
    """Prices that rest on a test which was corrected or taken back since."""
    open_tests: list[CuttingTest]
    open_deliveries: list[Delivery]
    temperature: Now


def today(day: date) -> Today:
    """Everything of one morning."""
    due = cooler.due_today(day)
    axes = cooler.Axes(day, Axis(day - cooler.BACK, day + cooler.AHEAD, cooler.WIDTH))
    moved, moved_grounds = moved_prices()
    return Today(
        day=day,
        bags=cooler.first_of(due[:MOST_BAGS], axes),
        more_bags=max(len(due) - MOST_BAGS, 0),
        wanted=Wants.of(wanted(day, due)),
        moved=moved,
        shaken=moved_grounds,
        open_tests=list(CuttingTest.objects.open().select_related("cutter").order_by("-number")),
        open_deliveries=list(Delivery.objects.filter(closed_at=None)),
        temperature=now(),
    )


def wanted(day: date, due: list[cooler.DueBag]) -> list[Answer]:
    """The day's list against what is cut and the due bags: five queries.

    A bag past its end gives nothing: somebody decides before anybody cuts it.
    """
    lines = wants_on(day)
    if not lines:
        return []
    wants = [
        Want(
            line.product.pk,
            line.product.name,
            _here(line.least, line.product.per),
            _here(line.most, line.product.per),
        )
        for line in lines
    ]
    wanted_by_cut = {line.product.cut_id: line.product.pk for line in lines}
    named = ((bag.piece, bag.weight, bag.urgency) for bag in due if bag.piece is not None)
    weights = due_weights(named, house().unit)
    pieces: dict[int, Piece] = {}
    shares: dict[int, dict[str, dict[object, Decimal]]] = defaultdict(dict)
    outputs = (
        PlanOutput.objects.filter(plan__piece__in=weights, plan__is_dropped=False)
        .select_related("plan__piece")
        .defer(*Piece.guide_by("plan__piece"))
        .order_by("plan__position", "plan_id", "position")
    )
    for output in outputs:
        pieces[output.plan.piece_id] = output.plan.piece
        plan = shares[output.plan.piece_id].setdefault(output.plan.name, {})
        if output.cut_id in wanted_by_cut and output.share:
            product = wanted_by_cut[output.cut_id]
            plan[product] = plan.get(product, ZERO) + output.share
    at_hand = pounds_at_hand(day, [line.product for line in lines])
    return compare(
        wants,
        [
            DuePiece(
                piece.shown_name,
                weights[pk],
                [Choice(*one) for one in shares[pk].items()],
            )
            for pk, piece in pieces.items()
        ],
        {
            wanted_by_cut[cut]: Weight(pounds, Unit.LB).to(house().unit)
            for cut, pounds in at_hand.items()
            if cut in wanted_by_cut
        },
    )


def _here(value: Decimal, unit: str) -> Decimal:
    """In the shop's unit."""
    return Weight(value, Unit(unit)).to(house().unit)


def moved_prices() -> tuple[list[MovedPrice], list[tuple[Price, Shaken]]]:
    """Prices that no longer bring their target at what their piece costs now; and prices whose
    ground has moved.

    Eight queries at most. The margin is the price list's own, with the cost by its factor.
    """
    rows = depending(with_grounds)
    flags = shaken(row.price for row in rows)
    paid_now = invoice_now({row.piece_id for row in rows})
    found = []
    for row in rows:
        target, now = row.product.target_margin, paid_now.get(row.piece_id)
        if target is None or now is None:
            continue
        margin = margin_at(row.price, row.product, by_factor(row.price.cost, row.paid, now))
        if margin is not None and no_longer_holds(margin, target):
            found.append(
                MovedPrice(row.price, row.paid.amount, now.to(row.paid.per), margin, target)
            )
    found.sort(key=lambda one: one.margin - one.target)
    return found, [(row.price, flags[row.price.pk]) for row in rows if row.price.pk in flags]
