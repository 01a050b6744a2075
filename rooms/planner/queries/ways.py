"""Two to four ways of one piece side by side, at today's prices and by the shop's own tests."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from datetime import date
from decimal import Decimal
from typing import Any

from cutting.drawing import rails
from cutting.drawing.bar import BarPart
from cutting.plans.ways import (
    Compared,
    Flip,
    Way,
    WayFigures,
    WayOutput,
    compare_ways,
    ladder,
)
from cutting.plans.weighing_up import Sureness, how_sure
from cutting.quantities import HUNDRED, ZERO, Unit, UnitPrice, working
from cutting.sheet.cutting_test import Piece as CorePiece
from cutting.sheet.cutting_test import Role, same_name
from cutting.words.pencil import money, percent
from cutting.words.ways import best_words, flip_words
from rooms.bench.models import CuttingTest
from rooms.bench.queries.pool import pools
from rooms.bench.rules.rows import TestRows, to_core
from rooms.catalog.models import Piece, Plan, PlanOutput
from rooms.catalog.rules.looks import looks_in_order
from rooms.cooler.models import Bag
from rooms.planner.queries.asking import MINUTES_A_POUND, minutes_a_pound, pooled_of
from rooms.pricebook.models import Product
from rooms.pricebook.queries.book import prices_on

MOST_WAYS = 4


@dataclass(frozen=True)
class WayView:
    """One way as a column of the page. Empty words where nothing is known."""

    plan: Plan
    figures: WayFigures
    rail: list[tuple[str, rails.PoundRail]]
    tests: int
    is_timed: bool
    missing: list[str]
    """Products of it without a price."""
    rows: list[tuple[str, str]]
    is_best: bool

    @property
    def rests_on(self) -> str:
        """What its yields and minutes rest on."""
        many = f"{self.tests} test{'' if self.tests == 1 else 's'}"
        words = many if self.tests else "never tested here: usual shares, an assumption"
        return words if self.is_timed else f"{words}; minutes assumed"


@dataclass(frozen=True)
class WaysView:
    ways: list[WayView]
    compared: Compared
    words: str
    flips: list[str]
    sure: Sureness | None
    sensitivity: list[tuple[str, str, str]]

    @property
    def table(self) -> list[tuple[str, list[str]]]:
        """Each figure with that of every way."""
        names = [words for words, _ in self.ways[0].rows]
        return [
            (words, [way.rows[number][1] for way in self.ways])
            for number, words in enumerate(names)
        ]


@dataclass(frozen=True)
class Priced:
    """Today's prices of cuts and the value of by-products, by the id of the cut."""

    retail: dict[int, UnitPrice]
    credit: dict[int, UnitPrice]


def first_values(piece: Piece) -> dict[str, str]:
    """The newest bag in the cooler, else the last test, else the usual weight: two queries."""
    bag = Bag.objects.in_cooler().filter(piece=piece, price_amount__isnull=False).last()
    if bag is not None:
        return {
            "weight": f"{bag.weight_value:f}",
            "unit": bag.weight_unit,
            "price": f"{bag.price_amount:f}",
        }
    last = CuttingTest.objects.finished().filter(piece=piece).order_by("-finished_at").first()
    if last is not None:
        return {
            "weight": f"{last.weight_value:f}",
            "unit": last.weight_unit,
            "price": f"{last.price_amount:f}",
        }
    usual = piece.usual_weight
    return {"weight": f"{usual:f}" if usual else "", "unit": piece.usual_unit or "lb", "price": ""}


def ways_view(
    piece: Piece, bought: CorePiece, plans: Sequence[Plan], rate: Decimal | None, day: date
) -> WaysView:
    """Nine queries at any number of tests. Raises BadValue for fewer than two ways."""
    outputs: dict[int, list[PlanOutput]] = {plan.pk: [] for plan in plans}
    rows = PlanOutput.objects.filter(plan__in=plans, is_dropped=False).select_related("cut")
    for row in rows.order_by("position", "id"):
        outputs[row.plan_id].append(row)
    tests = pools(list(outputs))
    priced = _priced([row for each in outputs.values() for row in each], day)
    ways = [_way(plan, bought, outputs[plan.pk], tests.get(plan.pk), priced) for plan in plans]
    found = compare_ways(bought, ways, rate)
    views = [
        _view(plan, figures, bought, outputs[plan.pk], tests.get(plan.pk), found)
        for plan, figures in zip(plans, found.ways, strict=True)
    ]
    two = found.by_money[:2]
    sure = None
    if len(two) == 2:
        by_name_of = {plan.name: plan.pk for plan in plans}
        pairs = [
            (
                one,
                [
                    to_core(rows, weighed_only=True)
                    for rows in tests.get(by_name_of[one.way.name], [])
                ],
            )
            for one in two
        ]
        sure = how_sure(bought, pairs)
    return WaysView(
        ways=views,
        compared=found,
        words=best_words(found, sure),
        flips=[flip_words(flip, _price_now(found, flip)) for flip in found.flips],
        sure=sure,
        sensitivity=_sensitivity(bought, ways, rate, found),
    )


def _priced(rows: Sequence[PlanOutput], day: date) -> Priced:
    """Three queries."""
    products = list(Product.objects.filter(cut__in={row.cut_id for row in rows if row.cut_id}))
    current = prices_on(day, [product.pk for product in products])
    return Priced(
        {p.cut_id: current[p.pk].unit_price for p in products if p.pk in current},
        {p.cut_id: UnitPrice(p.transfer, Unit(p.per)) for p in products if p.transfer is not None},
    )


def _way(
    plan: Plan,
    bought: CorePiece,
    rows: Sequence[PlanOutput],
    tests: list[TestRows] | None,
    priced: Priced,
) -> Way:
    shares = {name: one.share for name, one in pooled_of(tests).items()}
    with working():
        per = minutes_a_pound(tests) or MINUTES_A_POUND
        minutes = per * bought.weight.to(Unit.LB)
    return Way(
        plan.name,
        tuple(
            WayOutput(
                row.name,
                Role(row.role),
                (shares.get(same_name(row.name), ZERO) if shares else row.share) or ZERO,
                priced.retail.get(row.cut_id) if row.cut_id else None,
                priced.credit.get(row.cut_id) if row.cut_id else None,
                row.in_case,
            )
            for row in rows
        ),
        minutes,
    )


def _view(
    plan: Plan,
    figures: WayFigures,
    bought: CorePiece,
    rows: Sequence[PlanOutput],
    tests: list[TestRows] | None,
    found: Compared,
) -> WayView:
    way = figures.way
    parts = [
        BarPart(output.name, output.share * HUNDRED, percent(output.share), look)
        for output, look in zip(way.outputs, looks_in_order(rows), strict=True)
        if output.share
    ]
    drawn = [
        (glass, rails.pound_rail(parts, HUNDRED, "100 %", frame))
        for glass, frame in (("wide", rails.WIDE), ("narrow", rails.NARROW))
    ]
    return WayView(
        plan=plan,
        figures=figures,
        rail=drawn,
        tests=len(tests or ()),
        is_timed=minutes_a_pound(tests) is not None,
        missing=[
            one.name for one in way.outputs if one.goes_to_case and one.share and not one.retail
        ],
        rows=_rows(figures, bought),
        is_best=found.best.money == way.name,
    )


def _rows(one: WayFigures, bought: CorePiece) -> list[tuple[str, str]]:
    margin, unit = one.margin, bought.weight.unit.value

    def shown(value: Decimal | None) -> str:
        return "–" if value is None else money(value)

    steps = ladder(one.way)
    return [
        ("saleable", percent(one.saleable)),
        ("main", percent(one.main)),
        ("true cost a " + unit, shown(one.true_cost)),
        ("gross profit", shown(margin.gp_with_credits if margin else None)),
        ("of sales", percent(margin.gp_percent / HUNDRED) if margin else "–"),
        (f"a {unit} bought", shown(margin.gp_per_unit_purchased if margin else None)),
        ("a labour hour", shown(margin.gp_per_labour_hour if margin else None)),
        ("minutes", f"{one.way.minutes or ZERO:.0f}"),
        ("after labour", shown(one.money)),
        ("different products", f"{one.products}"),
        (
            "ladder",
            f"{money(steps[0].amount)} to {money(steps[1].amount)}" if steps else "–",
        ),
    ]


def _price_now(found: Compared, flip: Flip) -> UnitPrice | None:
    way = next(one for one in found.ways if one.way.name == flip.way)
    return next((one.retail for one in way.way.outputs if one.name == flip.output), None)


TENTH = Decimal("0.1")


def _sensitivity(
    bought: CorePiece, ways: Sequence[Way], rate: Decimal | None, found: Compared
) -> list[tuple[str, str, str]]:
    """What the best way brings when the invoice, its largest price or its largest yield moves by a
    tenth: what moves, and the two figures."""
    best = next((one for one in found.ways if one.way.name == found.best.money), None)
    if best is None:
        return []
    rows = []
    with working():
        for words, piece, way in _moved(bought, best.way):
            low, high = (
                compare_ways(
                    piece(1 - sign * TENTH),
                    [way(1 - sign * TENTH), *[o for o in ways if o.name != best.way.name]],
                    rate,
                )
                .ways[0]
                .money
                for sign in (1, -1)
            )
            rows.append((words, *(("–" if one is None else money(one)) for one in (low, high))))
    return [(a, b, c) for a, b, c in rows]


Change = Callable[[Decimal], Any]


def _moved(bought: CorePiece, way: Way) -> list[tuple[str, Change, Change]]:
    """What moves by a factor: in words, the piece at it, the way at it."""

    def same_piece(_: Decimal) -> CorePiece:
        return bought

    def same_way(_: Decimal) -> Way:
        return way

    def dearer(factor: Decimal) -> CorePiece:
        price = UnitPrice(bought.price.amount * factor, bought.price.per)
        return replace(bought, price=price)

    found: list[tuple[str, Change, Change]] = [("invoice ∓ 10 %", dearer, same_way)]
    sold = [one for one in way.outputs if one.goes_to_case and one.share and one.retail]
    for one in sorted(sold, key=lambda each: -each.share)[:3]:

        def at(factor: Decimal, one: WayOutput = one) -> Way:
            price = one.retail or bought.price
            moved = replace(one, retail=UnitPrice(price.amount * factor, price.per))
            outputs = tuple(moved if each is one else each for each in way.outputs)
            return replace(way, outputs=outputs)

        found.append((f"price of {one.name} ∓ 10 %", same_piece, at))
    return found
