"""Two to four ways of one piece side by side, at today's prices and by the shop's own tests."""

from collections import defaultdict
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from datetime import date
from decimal import Decimal
from itertools import combinations
from typing import Any

from django.db.models import Q

from cutting.planning.hands import GRINDER_A_LB
from cutting.quantities import HUNDRED, ZERO, Unit, UnitPrice, Weight, tray_sticker, working
from cutting.sheet.cutting_test import Piece as CorePiece
from cutting.sheet.cutting_test import Role, same_name
from cutting.ways.chain import Carried, CarriedOn
from cutting.ways.compared import (
    MOST,
    Compared,
    Way,
    WayFigures,
    WayOutput,
    compare_ways,
    flip_rate,
    flip_share,
    ladder,
    way_figures,
)
from cutting.ways.piles import pile_worth
from cutting.ways.splitting import SplitOutput, best_split
from cutting.ways.weighing_up import Sureness, how_sure
from drawings import rails
from drawings.bar import BarPart
from rooms.bench.models import CuttingTest
from rooms.bench.queries.pool import pools
from rooms.bench.queries.rows import TestRows
from rooms.catalog.models import Cut, Piece, Plan, PlanOutput
from rooms.catalog.queries.looks import looks_in_order
from rooms.cooler.models import Bag
from rooms.demand.queries.wants import wants_on
from rooms.planner.queries.asking import pace_of, pace_through
from rooms.planner.queries.chains import Plans, shares_of, with_what_follows
from rooms.pricebook.models import Product
from rooms.pricebook.queries.book import unit_prices_on
from wording.pencil import money, percent
from wording.ways import best_words, split_words

LEAST_ON_A_RAIL = Decimal(2)
"""Percent; of a way that is carried on, what is less stands together."""


@dataclass(frozen=True)
class WayView:
    """One way as a column of the page. Empty words where nothing is known."""

    outputs: list[PlanOutput]
    """Those of its way, in its order."""
    figures: WayFigures
    rail: list[tuple[str, rails.PoundRail]]
    tests: list[int]
    """Numbers of those its yields rest on."""
    is_timed: bool
    missing: list[str]
    """Products of it without a price."""
    rows: list[tuple[str, str]]
    is_best: bool
    piles: list["PileLine"]

    @property
    def name(self) -> str:
        return self.figures.way.name

    @property
    def rests_on(self) -> str:
        """What its yields and minutes rest on."""
        numbers = ", ".join(f"{number}" for number in self.tests)
        many = f"test{'' if len(self.tests) == 1 else 's'} {numbers}"
        words = many if self.tests else "never tested here: usual shares, an assumption"
        return words if self.is_timed else f"{words}; minutes assumed"


@dataclass(frozen=True)
class PileLine:
    """One pile of a way against the same meat as grind, a unit of weight."""

    name: str
    gain: str
    a_minute: str
    grind_below: str
    is_worth_it: bool


@dataclass(frozen=True)
class FlipLine:
    """One product of one of the two best ways: its price and its yield at which both bring the same,
    beside those of now."""

    way: str
    product: str
    price: str
    price_now: str
    share: str
    share_now: str


@dataclass(frozen=True)
class SplitView:
    """The piece by two of the ways, where that is better than either alone."""

    words: str
    rail: list[tuple[str, rails.PoundRail]]


@dataclass(frozen=True)
class WaysView:
    ways: list[WayView]
    compared: Compared
    words: str
    flips: list["FlipLine"]
    flip_hour: str
    sure: Sureness | None
    split: SplitView | None
    goes_on: bool
    """Whether any of the plans gives whole pieces: then boxes of them can be asked about."""

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
    products: dict[int, Product]
    most: dict[int, Decimal]
    """The most that sells today, in the product's unit."""
    grind: dict[str, UnitPrice]
    """The dearest grind of each animal."""


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
    """Thirteen queries at any number of tests, and two for each depth to which plans go on. A plan that
    goes on is there twice: ending at its whole pieces, and carried on. Raises BadValue for fewer than two
    ways, and for one that comes back to itself."""
    every = with_what_follows(plans)
    tests = pools([plan.pk for plan in every.plans.values()])
    priced = _priced(every.rows, day)
    columns = _columns(plans, every, tests, bought, priced)
    found = compare_ways(bought, [one.way for one in columns], rate)
    views = [
        _view(column, figures, bought, found, priced, rate)
        for column, figures in zip(columns, found.ways, strict=True)
    ]
    two = found.by_money[:2]
    sure = None
    if len(two) == 2:
        weighed = {one.way.name: [] if one.is_carried_on else one.tests for one in columns}
        sure = how_sure(bought, [(one, [r.weighed for r in weighed[one.way.name]]) for one in two])
    return WaysView(
        ways=views,
        compared=found,
        words=best_words(found, sure),
        flips=_flips(bought, found),
        flip_hour=_flip_hour(found),
        sure=sure,
        split=_split(bought, views, priced, rate or ZERO),
        goes_on=any(every.goes_on(plan) for plan in plans),
    )


@dataclass(frozen=True)
class _Column:
    """A way with the rows of its outputs and the tests its yields rest on."""

    way: Way
    outputs: list[PlanOutput]
    tests: list[TestRows]
    is_carried_on: bool = False


def _columns(
    plans: Sequence[Plan],
    every: Plans,
    tests: dict[int, list[TestRows]],
    bought: CorePiece,
    priced: Priced,
) -> list[_Column]:
    """The plans as they end, and as many of them carried on as there is room for."""
    rows = {plan.pk: every.outputs.get(plan.address, []) for plan in plans}
    found = [
        _Column(
            _way(plan, bought, rows[plan.pk], tests.get(plan.pk), priced),
            rows[plan.pk],
            tests.get(plan.pk, []),
        )
        for plan in plans
    ]
    on = [plan for plan in plans if every.goes_on(plan)][: MOST - len(found)]
    shares = every.shares(tests) if on else {}
    return found + [_carried_on(plan, every, shares, tests, bought, priced) for plan in on]


def _same_meat(through: CarriedOn[PlanOutput]) -> list[tuple[str, Decimal, PlanOutput]]:
    """What a way gives, products before what is left beside them: one cut that comes out of several
    pieces is one product, under its own name."""
    alike: dict[tuple[Any, ...], list[Carried[PlanOutput]]] = defaultdict(list)
    for one in through.outputs:
        row = one.given.row
        alike[row.cut_id or same_name(row.name), row.role, row.in_case].append(one)
    found: list[tuple[str, Decimal, PlanOutput]] = []
    taken: set[str] = set()
    with working():
        for some in alike.values():
            first = some[0]
            name = first.name if len(some) == 1 else first.given.name
            name = first.name if same_name(name) in taken else name
            taken.add(same_name(name))
            found.append((name, sum((one.share for one in some), ZERO), first.given.row))
    roles = list(Role)
    return sorted(found, key=lambda one: roles.index(Role(one[2].role)))


def _carried_on(
    plan: Plan,
    every: Plans,
    shares: dict[str, dict[str, Decimal]],
    tests: dict[int, list[TestRows]],
    bought: CorePiece,
    priced: Priced,
) -> _Column:
    through = every.through(plan, shares)
    cut = every.cut(through)
    per, is_measured = pace_through(cut, tests)
    with working():
        minutes = per * bought.weight.to(Unit.LB)
    together = _same_meat(through)
    rows = [row for _, _, row in together]
    way = Way(
        f"{plan.name}; carried on",
        tuple(_output(name, share, row, priced) for name, share, row in together),
        minutes,
        is_measured,
    )
    plans = {one.pk for one, _ in cut}
    return _Column(way, rows, [row for pk in plans for row in tests.get(pk, [])], True)


def _flips(bought: CorePiece, found: Compared) -> list[FlipLine]:
    """The price and the yield of each product at which the two best are equal, moved alone."""
    two, prices = found.by_money[:2], {(one.way, one.output): one.price for one in found.flips}
    lines = []
    for own, other in (two, two[::-1]) if len(two) == 2 else ():
        for output in own.way.outputs:
            price = prices.get((own.way.name, output.name))
            share = flip_share(bought, own, other, output)
            if price is None and share is None:
                continue
            lines.append(
                FlipLine(
                    own.way.name,
                    output.name,
                    "–" if price is None else money(price.amount),
                    money(output.retail.amount) if output.retail else "–",
                    "–" if share is None else percent(share),
                    percent(output.share),
                )
            )
    return lines


def _flip_hour(found: Compared) -> str:
    """The hour's wages at which the two best are equal; empty where none are."""
    two = found.by_money[:2]
    hour = flip_rate(*two) if len(two) == 2 else None
    return "" if hour is None else money(hour)


def _split(
    bought: CorePiece,
    views: Sequence[WayView],
    priced: Priced,
    rate: Decimal,
) -> SplitView | None:
    """The best of the piece by two of the ways, where more of a product is made than sells; None
    where one way alone is as good."""
    unit = bought.weight.unit
    best: tuple[Decimal, SplitView] | None = None
    for first, second in combinations(views, 2):
        if first.figures.money is None or second.figures.money is None:
            continue
        rows = _split_outputs(first, second, priced, unit)
        minutes = (first.figures.way.minutes or ZERO, second.figures.way.minutes or ZERO)
        found = best_split(bought.weight.value, [row for row, _ in rows], minutes, rate)
        if not found.is_mixed or (best is not None and found.gain <= best[0]):
            continue
        names = first.name, second.name
        words = split_words(found, *names, unit.value, bought.weight.value)
        best = found.gain, SplitView(words, _split_rail(rows, found.share))
    return best[1] if best else None


def _split_outputs(
    first: WayView,
    second: WayView,
    priced: Priced,
    unit: Unit,
) -> list[tuple[SplitOutput, str]]:
    """Every product of the two ways with its looks; what is the same cut is one."""
    shares: dict[tuple[object, bool], list[Decimal]] = {}
    known: dict[tuple[object, bool], tuple[WayOutput, PlanOutput, str]] = {}
    for place, view in enumerate((first, second)):
        looks = looks_in_order(view.outputs)
        for one, row, look in zip(view.figures.way.outputs, view.outputs, looks, strict=True):
            key = (row.cut_id or f"{place}-{row.pk}", one.goes_to_case)
            shares.setdefault(key, [ZERO, ZERO])[place] += one.share
            known.setdefault(key, (one, row, look))
    found = []
    with working():
        for key, (one, row, look) in known.items():
            price = one.retail if one.goes_to_case else one.credit
            most, over = None, ZERO
            if one.goes_to_case and row.cut_id in priced.most:
                product = priced.products[row.cut_id]
                most = Weight(priced.most[row.cut_id], Unit(product.per)).to(unit)
                if product.transfer is not None and price is not None:
                    left = UnitPrice(product.transfer, Unit(product.per)).to(unit)
                    over = min(left, price.to(unit))
            amount = ZERO if price is None else price.to(unit)
            first_share, rest = shares[key]
            split = SplitOutput(one.name, first_share, rest, amount, most, over)
            found.append((split, look))
    return found


def _split_rail(
    rows: Sequence[tuple[SplitOutput, str]], share: Decimal
) -> list[tuple[str, rails.PoundRail]]:
    parts = []
    with working():
        for one, look in rows:
            own = share * one.first + (1 - share) * one.second
            if own:
                parts.append(BarPart(one.name, own * HUNDRED, percent(own), look))
    return _drawn(parts)


def _drawn(parts: Sequence[BarPart]) -> list[tuple[str, rails.PoundRail]]:
    return [
        (glass, rails.pound_rail(parts, HUNDRED, "100 %", frame))
        for glass, frame in (("wide", rails.WIDE), ("narrow", rails.NARROW))
    ]


def _priced(rows: Sequence[PlanOutput], day: date) -> Priced:
    """Six queries: the products of these cuts, and every grind."""
    cuts = {row.cut_id for row in rows if row.cut_id}
    asked = Q(cut__in=cuts) | Q(cut__is_ground=True, is_sold=True)
    known_cuts = Product.objects.filter(asked).select_related("cut")
    every = list(known_cuts.defer(*Cut.guide_by("cut")))
    current = unit_prices_on(day, [product.pk for product in every])
    grind: dict[str, UnitPrice] = {}
    for one in every:
        if one.cut.is_ground and one.pk in current:
            price, known = current[one.pk], grind.get(one.cut.species)
            if known is None or price.to(Unit.LB) > known.to(Unit.LB):
                grind[one.cut.species] = price
    products = {one.cut_id: one for one in every if one.cut_id in cuts}
    return Priced(
        {cut: current[p.pk] for cut, p in products.items() if p.pk in current},
        {
            cut: UnitPrice(p.transfer, Unit(p.per))
            for cut, p in products.items()
            if p.transfer is not None
        },
        products,
        {one.product.cut_id: one.most for one in wants_on(day)},
        grind,
    )


def _way(
    plan: Plan,
    bought: CorePiece,
    rows: Sequence[PlanOutput],
    tests: list[TestRows] | None,
    priced: Priced,
) -> Way:
    shares = shares_of(rows, tests)
    per, is_measured = pace_of(plan, tests)
    with working():
        minutes = per * bought.weight.to(Unit.LB)
    return Way(
        plan.name,
        tuple(_output(row.name, shares[row.name], row, priced) for row in rows),
        minutes,
        is_measured,
    )


def _output(name: str, share: Decimal, row: PlanOutput, priced: Priced) -> WayOutput:
    return WayOutput(
        name,
        Role(row.role),
        share,
        priced.retail.get(row.cut_id) if row.cut_id else None,
        priced.credit.get(row.cut_id) if row.cut_id else None,
        row.in_case,
    )


def _view(
    column: _Column,
    figures: WayFigures,
    bought: CorePiece,
    found: Compared,
    priced: Priced,
    rate: Decimal | None,
) -> WayView:
    way, rows, tests = figures.way, column.outputs, column.tests
    parts = [
        BarPart(output.name, output.share * HUNDRED, percent(output.share), look)
        for output, look in zip(way.outputs, looks_in_order(rows), strict=True)
        if output.share
    ]
    if column.is_carried_on:
        parts = _largest(parts)
    return WayView(
        outputs=rows,
        figures=figures,
        rail=_drawn(parts),
        tests=sorted({one.test.number for one in tests}, reverse=True),
        is_timed=way.is_measured,
        missing=[
            one.name for one in way.outputs if one.goes_to_case and one.share and not one.retail
        ],
        rows=_rows(figures, bought, _largest_sticker(rows, way, priced)),
        is_best=found.best.money == way.name,
        piles=[]
        if column.is_carried_on
        else _piles(way, rows, tests, priced, bought, rate or ZERO),
    )


def _largest(parts: Sequence[BarPart]) -> list[BarPart]:
    """Parts that can be read on a rail, and the others as one."""
    large = [one for one in parts if one.size >= LEAST_ON_A_RAIL]
    small = [one for one in parts if one.size < LEAST_ON_A_RAIL]
    if len(small) < 2:
        return list(parts)
    size = sum((one.size for one in small), ZERO)
    words = f"smaller products and piles, {len(small)} in all"
    return [*large, BarPart(words, size, percent(size / HUNDRED), small[-1].look)]


def _largest_sticker(
    rows: Sequence[PlanOutput], way: Way, priced: Priced
) -> tuple[Decimal, str] | None:
    """The dearest usual tray of a way, and of what; None where no tray has a weight and a price."""
    found = []
    for row, one in zip(rows, way.outputs, strict=True):
        product = priced.products.get(row.cut_id)
        if one.retail and one.goes_to_case and product and product.tray_weight:
            tray = Weight(product.tray_weight, Unit(product.tray_unit)).to(one.retail.per)
            found.append((tray_sticker(one.retail.amount, tray), one.name))
    return max(found, default=None)


def _piles(
    way: Way,
    rows: Sequence[PlanOutput],
    tests: list[TestRows] | None,
    priced: Priced,
    bought: CorePiece,
    rate: Decimal,
) -> list[PileLine]:
    """Every pile for the case that the clock knows, against grind."""
    grind = priced.grind.get(bought.species)
    if grind is None:
        return []
    unit, minutes = bought.weight.unit, pile_minutes(tests)
    found = []
    for row, one in zip(rows, way.outputs, strict=True):
        pace = minutes.get(same_name(one.name))
        if pace is None or one.retail is None or not one.goes_to_case or _is_ground(row, priced):
            continue
        with working():
            per = Decimal(1) * unit.grams / Unit.LB.grams
            own = pile_worth(
                one.retail.to(unit), pace * per, grind.to(unit), GRINDER_A_LB * per, rate
            )
        found.append(
            PileLine(
                one.name,
                money(own.gain),
                "–" if own.a_minute is None else money(own.a_minute),
                money(own.grind_below),
                own.is_worth_it(rate),
            )
        )
    return found


def _is_ground(row: PlanOutput, priced: Priced) -> bool:
    product = priced.products.get(row.cut_id)
    return product is not None and product.cut.is_ground


def pile_minutes(tests: list[TestRows] | None) -> dict[str, Decimal]:
    """Minutes a pound of each pile that the clock knows, by its folded name."""
    spent: dict[str, Decimal] = defaultdict(lambda: ZERO)
    weighed: dict[str, Decimal] = defaultdict(lambda: ZERO)
    with working():
        for rows in tests or ():
            core = rows.weighed
            for output in core.outputs:
                pounds = sum((one.weight.to(Unit.LB) for one in output.weighings), ZERO)
                if output.minutes and pounds:
                    spent[same_name(output.name)] += output.minutes
                    weighed[same_name(output.name)] += pounds
        return {name: spent[name] / weighed[name] for name in spent}


def _rows(
    one: WayFigures, bought: CorePiece, sticker: tuple[Decimal, str] | None
) -> list[tuple[str, str]]:
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
        ("a labour hour", _marked(shown(margin.gp_per_labour_hour if margin else None), one.way)),
        ("minutes", _marked(f"{one.way.minutes or ZERO:.0f}", one.way)),
        ("after labour", shown(one.money)),
        ("different products", f"{one.products}"),
        (
            "ladder",
            f"{money(steps[0].amount)} to {money(steps[1].amount)}" if steps else "–",
        ),
        ("largest sticker", f"{money(sticker[0])}, {sticker[1]}" if sticker else "–"),
    ]


def _marked(words: str, way: Way) -> str:
    """A figure that rests on minutes: marked where they are assumed."""
    return words if way.is_measured else f"{words}, assumed"


TENTH = Decimal("0.1")


def sensitivity(
    bought: CorePiece, rate: Decimal | None, found: Compared
) -> list[tuple[str, str, str]]:
    """What the best way brings when the invoice, its largest price or its largest yield moves by a
    tenth: what moves, and the two figures."""
    best = next((one for one in found.ways if one.way.name == found.best.money), None)
    if best is None:
        return []
    rows: list[tuple[str, str, str]] = []
    with working():
        for words, piece, way in _moved(bought, best.way):
            low, high = (
                way_figures(piece(1 - sign * TENTH), way(1 - sign * TENTH), rate).money
                for sign in (1, -1)
            )
            shown = ["–" if one is None else money(one) for one in (low, high)]
            rows.append((words, shown[0], shown[1]))
    return rows


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
    for one in sorted(sold, key=lambda each: -each.share):

        def at(factor: Decimal, one: WayOutput = one) -> Way:
            price = one.retail or bought.price
            moved = replace(one, retail=UnitPrice(price.amount * factor, price.per))
            outputs = tuple(moved if each is one else each for each in way.outputs)
            return replace(way, outputs=outputs)

        def yielding(factor: Decimal, one: WayOutput = one) -> Way:
            room = 1 - sum((each.share for each in way.outputs), ZERO)
            moved = replace(one, share=min(one.share * factor, one.share + room))
            outputs = tuple(moved if each is one else each for each in way.outputs)
            return replace(way, outputs=outputs)

        found.append((f"price of {one.name} ∓ 10 %", same_piece, at))
        found.append((f"yield of {one.name} ∓ 10 %", same_piece, yielding))
    return found
