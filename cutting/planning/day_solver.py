"""The best day by a mixed-integer programme (HiGHS, relative gap 0).

In order: the smallest shortfall, the most gross profit, the fewest minutes, the earlier bags and ways.
Each is solved with those before it held; what comes out is worked out again in decimals. Only the
solver's own process and the command line import this module.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from decimal import ROUND_UP, Decimal
from typing import Any

from cutting.planning.day import Choice, Day, DayBag, DayFigures, day_figures, fits
from cutting.planning.hands import Block, Grind
from cutting.planning.hands_solver import Crew, Grinding, Work
from cutting.planning.integer_program import INFINITE, OutOfTime, Programme, Terms
from cutting.quantities import ZERO, Unit, working

CENT = Decimal("0.01")


class NoDay(Exception):
    """No choice keeps to minutes and musts. `most_products`: the most there can be, where the
    least number of products is what cannot be kept."""

    def __init__(self, most_products: int | None = None) -> None:
        super().__init__("nothing fits")
        self.most_products = most_products


@dataclass(frozen=True)
class _Columns:
    """Where the columns of a programme lie: bags by ways, then over, short and counted of each
    product."""

    cut: list[tuple[int, int]]
    over: int
    short: int
    there: int


@dataclass(frozen=True, slots=True)
class _Step:
    """What one aim came to; it cannot be smaller than `bound`."""

    value: float
    choice: Choice
    bound: float
    is_open: bool
    """The time was over before it was proven."""

    @property
    def gap(self) -> Decimal:
        """In cents, rounded up; 0 where it is proven."""
        if not self.is_open:
            return Decimal(0)
        return Decimal(repr(self.value - self.bound)).quantize(CENT, ROUND_UP)


class _Programme(Programme):
    """One day as a programme; aims are set one after the other."""

    def __init__(self, day: Day, seconds: float) -> None:
        super().__init__(seconds)
        self.day = day
        cut = [(b, day.by_id[way]) for b, bag in enumerate(day.bags) for way in bag.ways]
        count, many = len(cut), len(day.products)
        self.columns = _Columns(cut, count, count + many, count + 2 * many)
        for _ in cut:
            self.whole()
        for one in day.products:
            self.column(INFINITE if one.most is not None else 0.0)
        for _ in day.products:
            self.column()
        for _ in day.products:
            self.whole()
        self.lost: Terms = {}
        """Minutes beside cutting: washed boards, the saw, the grinder."""
        self._rows()
        if day.block is not None:
            self._block(day.block)

    def _rows(self) -> None:
        day, columns = self.day, self.columns
        of_bag: dict[int, list[int]] = {}
        for column, (b, _) in enumerate(columns.cut):
            of_bag.setdefault(b, []).append(column)
        for b, bag in enumerate(day.bags):
            self.row(1.0 if bag.must else 0.0, 1.0, dict.fromkeys(of_bag.get(b, []), 1.0))
        self.at_most(float(day.minutes), self.minutes())
        self.made: list[Terms] = [{} for _ in day.products]
        place = {one.name: i for i, one in enumerate(day.products)}
        for column, (b, w) in enumerate(columns.cut):
            for name, weight in day.made_of(day.bags[b], day.ways[w]).items():
                self.made[place[name]][column] = float(weight)
        for i, one in enumerate(day.products):
            if one.most is not None:
                # what lies over the most: over >= have + made - most
                terms = {c: -v for c, v in self.made[i].items()} | {columns.over + i: 1.0}
                self.row(float(one.have - one.most), INFINITE, terms)
            terms = dict(self.made[i]) | {columns.short + i: 1.0}
            self.row(float(one.least - one.have), INFINITE, terms)
            if one.have > 0:
                continue
            terms = {c: 1.0 for c, v in self.made[i].items() if v} | {columns.there + i: -1.0}
            self.row(0.0, INFINITE, terms)
        self.row(
            float(day.least_products),
            INFINITE,
            {columns.there + i: 1.0 for i in range(len(day.products))},
        )

    def minutes(self) -> Terms:
        day = self.day
        cut = {
            column: float(day.minutes_of(day.bags[b], day.ways[w]))
            for column, (b, w) in enumerate(self.columns.cut)
        }
        for column, value in self.lost.items():
            cut[column] = cut.get(column, 0.0) + value
        return cut

    def _block(self, block: Block) -> None:
        """Rows for who is there: the minutes of alike ways go to those who may do them."""
        day, cut = self.day, self.minutes()
        kinds: dict[Any, Work] = {}
        firmed: Terms = {}
        for column, (b, w) in enumerate(self.columns.cut):
            way = day.ways[w]
            work = Work.of(block, way.task())
            kinds.setdefault(work.kind, work).terms[column] = cut[column]
            if way.waits:
                firmed[column] = float(day.bags[b].weight.to(Unit.G) * way.part)
        if block.freezer is not None:
            self.at_most(float(block.freezer.to(Unit.G)), firmed)
        grinding = None if block.grind is None else self._ground(block.grind)
        crew = Crew(self, block, list(kinds.values()), grinding)
        self.lost |= {column: float(minutes) for column, minutes in crew.lost}
        self.at_most(float(day.minutes), self.minutes())

    def _ground(self, grind: Grind) -> Grinding:
        """The grinder's minutes: for each pound of what is ground, and to set up where it runs."""
        day = self.day
        found: Terms = {}
        for i, one in enumerate(day.products):
            if one.name not in grind.products:
                continue
            pounds = float(grind.minutes_per_lb * one.unit.grams / Unit.LB.grams)
            for column, weight in self.made[i].items():
                if weight:
                    found[column] = found.get(column, 0.0) + pounds * weight
        runs = self.whole()
        for column in found:
            self.at_most(0.0, {column: 1.0, runs: -1.0})
        found[runs] = float(grind.minutes)
        self.lost |= found
        return Grinding(terms=found, runs=runs)

    def shortfall(self) -> Terms:
        return {
            self.columns.short + i: float(one.price.amount)
            for i, one in enumerate(self.day.products)
        }

    def loss(self) -> Terms:
        """Gross profit with its sign turned, but for what is at hand over the most already."""
        day = self.day
        terms = {
            column: float(day.cost_of(day.bags[b], day.ways[w]))
            for column, (b, w) in enumerate(self.columns.cut)
        }
        for i, one in enumerate(day.products):
            price = float(one.price.amount)
            for column, weight in self.made[i].items():
                terms[column] -= price * weight
            terms[self.columns.over + i] = price - float(one.over)
        return terms

    def beyond(self, best: DayFigures) -> Decimal | None:
        """How much more gross profit than this there can be, as far as the search for it came; None
        where it knows no bound."""
        if not math.isfinite(self.bound):
            return None
        with working():
            over = sum(
                (
                    max(one.have - one.most, ZERO) * (one.price.amount - one.over)
                    for one in self.day.products
                    if one.most is not None
                ),
                ZERO,
            )
            most = Decimal(repr(-self.bound)) + over
            return max((most - best.gross_profit).quantize(CENT, ROUND_UP), ZERO)

    def different(self) -> Terms:
        return {self.columns.there + i: -1.0 for i in range(len(self.day.products))}

    def least(self, terms: Terms) -> tuple[float, Choice] | None:
        """The smallest sum and a choice that has it; None where nothing fits. Raises OutOfTime."""
        step = self.look(terms)
        if step is None:
            return None
        if step.is_open:
            raise OutOfTime("time limit reached")
        return step.value, step.choice

    def look(self, terms: Terms, seconds: float | None = None) -> _Step | None:
        """As `least`, with what is known when the time is over."""
        if seconds is not None:
            self.solver.setOptionValue("time_limit", seconds)
        self.aim(terms)
        if self.is_impossible:
            return None
        if not self.is_proven and not self.has_answer:
            raise OutOfTime(self.status)
        return _Step(self.value, self._choice(self.values), self.bound, not self.is_proven)

    def left(self, seconds: float) -> float:
        """What is left of so many seconds; never less than a fifth of them."""
        return float(max(seconds - self.solver.getRunTime(), seconds / 5))

    def _choice(self, values: list[float]) -> Choice:
        choice: list[int | None] = [None] * len(self.day.bags)
        for (b, w), value in zip(self.columns.cut, values, strict=False):
            if value > 0.5:
                choice[b] = w
        return tuple(choice)

    def differ(self, choice: Choice) -> None:
        """Some way is cut more often than in this choice, or less often."""
        of_way: dict[int, list[int]] = {}
        for column, (_, w) in enumerate(self.columns.cut):
            of_way.setdefault(w, []).append(column)
        switches: Terms = {}
        for w, columns in of_way.items():
            cut, there = sum(own == w for own in choice), len(columns)
            terms = dict.fromkeys(columns, 1.0)
            more, less = self.whole(), self.whole()
            self.row(0.0, INFINITE, terms | {more: -float(cut + 1)})
            self.at_most(float(there), terms | {less: float(there - cut + 1)})
            switches |= {more: 1.0, less: 1.0}
        self.row(1.0, INFINITE, switches)

    def fix(self, column: int, value: float) -> None:
        self.solver.changeColBounds(column, value, value)

    def free(self, column: int) -> None:
        self.solver.changeColBounds(column, 0.0, 1.0)


def best_day(day: Day, *, seconds: float = 30.0, in_order: bool = True) -> DayFigures:
    """The best choice. `in_order`: with equal figures the earlier bags and ways.

    Raises NoDay where nothing keeps to musts, minutes and the least number of products, and
    OutOfTime where it was not proven in time.
    """
    programme, best = _most_profit(day, seconds)
    terms = programme.minutes()
    found = programme.least(terms)
    if found is not None:
        best = min(best, day_figures(day, found[1]), key=DayFigures.order)
        programme.hold(terms, found[0])
    return _earliest(programme, best) if in_order else best


def most_profit(day: Day, *, seconds: float = 30.0) -> Decimal:
    """The gross profit of the best choice alone. Raises as `best_day`."""
    return _most_profit(day, seconds)[1].gross_profit


def _most_profit(day: Day, seconds: float) -> tuple[_Programme, DayFigures]:
    """The smallest shortfall, and the most profit with it, both held."""
    programme = _Programme(day, seconds)
    found = programme.least(programme.shortfall())
    if found is None:
        raise NoDay(_most_products(day, seconds))
    programme.hold(programme.shortfall(), found[0])
    best = day_figures(day, found[1])
    terms = programme.loss()
    found = programme.least(terms)
    if found is not None:
        best = min(best, day_figures(day, found[1]), key=DayFigures.order)
        programme.hold(terms, found[0])
    return programme, best


@dataclass(frozen=True, slots=True)
class SoFar:
    """A plan and how far it is proven. `gap`: at most so much more gross profit there can be with
    this shortfall, `short_gap`: at most so much less shortfall; None where nobody knows."""

    figures: DayFigures
    is_proven: bool
    gap: Decimal | None
    short_gap: Decimal | None


def best_so_far(day: Day, seconds: float) -> SoFar:
    """The best plan that is found in about so many seconds of the solver's, proven or with its gap.

    Ties fall as in `best_day` as far as the time goes. Raises NoDay, and OutOfTime where not even
    one plan was found.
    """
    programme = _Programme(day, seconds)
    short = programme.look(programme.shortfall(), seconds / 2)
    if short is None:
        raise NoDay(_most_products(day, seconds))
    programme.hold(programme.shortfall(), short.value)
    best, short_gap = day_figures(day, short.choice), short.gap
    try:
        most = programme.look(programme.loss(), programme.left(seconds))
    except OutOfTime:
        return SoFar(best, is_proven=False, gap=programme.beyond(best), short_gap=short_gap)
    if most is None:
        return SoFar(best, is_proven=False, gap=None, short_gap=short_gap)
    found = day_figures(day, most.choice)
    best = min(best, found, key=DayFigures.order)
    with working():
        gap = max(found.gross_profit + most.gap - best.gross_profit, ZERO)
    is_proven = not (short.is_open or most.is_open)
    if is_proven:
        programme.hold(programme.loss(), most.value)
        try:
            fewest = programme.look(programme.minutes(), programme.left(seconds))
        except OutOfTime:
            fewest = None
        if fewest is not None:
            best = min(best, day_figures(day, fewest.choice), key=DayFigures.order)
    return SoFar(best, is_proven, gap, short_gap)


MOST_ROUNDS = 30


def best_by_the_hour(day: Day, *, seconds: float = 30.0) -> DayFigures:
    """The choice that brings the most gross profit a minute of hands, of those with the smallest
    shortfall: a ratio, solved by a row of programmes (Dinkelbach 1967; value from memory).

    Where nothing brings more than it costs, the best day as it is. Raises as `best_day`.
    """
    programme = _Programme(day, seconds)
    found = programme.least(programme.shortfall())
    if found is None:
        raise NoDay(_most_products(day, seconds))
    programme.hold(programme.shortfall(), found[0])
    best = best_day(day, seconds=seconds, in_order=False)
    if best.gross_profit <= 0 or not best.minutes:
        return best
    loss, minutes = programme.loss(), programme.minutes()
    for _ in range(MOST_ROUNDS):
        rate = float(best.gross_profit) / float(best.minutes)
        terms = dict(loss)
        for column, value in minutes.items():
            terms[column] = terms.get(column, 0.0) + rate * value
        found = programme.least(terms)
        tried = None if found is None else day_figures(day, found[1])
        if tried is None or not _is_dearer(tried, best):
            break
        best = tried
        if not best.minutes:  # what takes no time at all
            break
    return best


def _is_dearer(one: DayFigures, other: DayFigures) -> bool:
    """Whether it brings more a minute, in decimals."""
    with working():
        return one.gross_profit * other.minutes > other.gross_profit * one.minutes


def _most_products(day: Day, seconds: float) -> int | None:
    """The most different products there can be; None where musts and minutes fit by no means."""
    free = _Programme(replace(day, least_products=0), seconds)
    found = free.least(free.different())
    return None if found is None else day_figures(day, found[1]).different


def _earliest(programme: _Programme, best: DayFigures) -> DayFigures:
    """Of choices that bring the same that which cuts the earlier bags, by the earlier ways.

    One bag after the other is asked for its earliest way; what is already so needs no question.
    """
    day, current = programme.day, best
    columns: dict[int, list[tuple[int, int]]] = {}
    for column, (b, w) in enumerate(programme.columns.cut):
        columns.setdefault(b, []).append((w, column))
    for b in range(len(day.bags)):
        for way, column in sorted(columns.get(b, [])):
            if current.choice[b] == way:
                break
            programme.fix(column, 1.0)
            found = programme.least({})
            tried = None if found is None else day_figures(day, found[1])
            if tried is not None and _is_equal(tried, best) and fits(day, tried):
                current = tried
                break
            programme.fix(column, 0.0)
        for way, column in columns.get(b, []):
            programme.fix(column, 1.0 if current.choice[b] == way else 0.0)
    return current


def _is_equal(one: DayFigures, best: DayFigures) -> bool:
    return one.order()[:3] == best.order()[:3]


@dataclass(frozen=True, slots=True)
class Worth:
    """Plain differences of gross profit: an hour more, a pound more of each product's most, each
    must left free. None where a day cannot be solved so."""

    hour: Decimal | None
    products: dict[str, Decimal | None]
    musts: tuple[tuple[DayBag, Decimal | None], ...]


HOUR = Decimal(60)


@dataclass(frozen=True, slots=True)
class Hour:
    """What 60 more minutes bring. `less_short`: how much less is short then, at the products' prices;
    where it is above 0, `profit` may be below 0."""

    profit: Decimal
    less_short: Decimal


def hour_more(
    day: Day, found: DayFigures, seconds: float = 30.0, cutter: int | None = None
) -> Hour:
    """`cutter`: of this one's, by number, where the day says who is there. Raises as `best_day`."""
    with working():
        more = replace(day, minutes=day.minutes + HOUR)
        if day.block is not None and cutter is not None:
            own = list(day.block.cutters)
            own[cutter] = replace(own[cutter], minutes=own[cutter].minutes + HOUR)
            more = replace(more, block=replace(day.block, cutters=tuple(own)))
        best = _most_profit(more, seconds)[1]
        return Hour(best.gross_profit - found.gross_profit, found.shortfall - best.shortfall)


def next_best(day: Day, found: DayFigures, seconds: float = 30.0) -> DayFigures | None:
    """The best plan, with as small a shortfall, that cuts another number of bags by some way; None
    where there is none."""
    programme = _Programme(day, seconds)
    programme.hold(programme.shortfall(), float(found.shortfall))
    programme.differ(found.choice)
    other = programme.least(programme.loss())
    return None if other is None else day_figures(day, other[1])


def worth_of_product(
    day: Day, found: DayFigures, number: int, seconds: float = 30.0
) -> Decimal | None:
    """With one pound more of its most; None where it has none."""
    one = day.products[number]
    if one.most is None:
        return None
    with working():
        pound = Decimal(1) * Unit.LB.grams / one.unit.grams
        wider = replace(one, most=one.most + pound)
        products = (*day.products[:number], wider, *day.products[number + 1 :])
        more = most_profit(replace(day, products=products), seconds=seconds)
        return more - found.gross_profit


def cost_of_must(day: Day, found: DayFigures, number: int, seconds: float = 30.0) -> Decimal:
    """What a bag costs that must be cut: as much more there would be if it were free."""
    free = replace(day.bags[number], must=False)
    bags = (*day.bags[:number], free, *day.bags[number + 1 :])
    with working():
        more = most_profit(replace(day, bags=bags), seconds=seconds)
        return more - found.gross_profit


def worth(day: Day, found: DayFigures, seconds: float = 30.0) -> Worth:
    """All of them, each solved by itself. Where the day says who is there, the hour is of who brings
    most with it."""
    cutters = range(len(day.block.cutters)) if day.block else [None]
    return Worth(
        max(hour_more(day, found, seconds, one).profit for one in cutters),
        {
            one.name: worth_of_product(day, found, number, seconds)
            for number, one in enumerate(day.products)
        },
        tuple(
            (bag, cost_of_must(day, found, number, seconds))
            for number, bag in enumerate(day.bags)
            if bag.must
        ),
    )
