"""The best day by a mixed-integer programme (HiGHS, relative gap 0).

In order: the smallest shortfall, the most gross profit, the fewest minutes, the earlier bags and ways.
Each is solved with those before it held; what comes out is worked out again in decimals. Only the
solver's own process and the command line import this module.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from decimal import ROUND_UP, Decimal

import highspy

from cutting.plans.day import Choice, Day, DayBag, DayFigures, day_figures, fits
from cutting.plans.hands import GRINDER, Block, Cutter, Grind, Task
from cutting.quantities import ZERO, Unit, working
from cutting.sheet.machines import Machine

SLACK = 1e-7
"""How far an earlier aim may give way in floating point; choices are compared in decimals."""
INFINITE = highspy.kHighsInf
CENT = Decimal("0.01")


def begin() -> None:
    """Load the solver; its library writes its name to standard output once."""
    highspy.Highs()


class NoDay(Exception):
    """No choice keeps to minutes and musts. `most_products`: the most there can be, where the
    least number of products is what cannot be kept."""

    def __init__(self, most_products: int | None = None) -> None:
        super().__init__("nothing fits")
        self.most_products = most_products


class OutOfTime(Exception):
    """The solver did not prove its answer in the time it had."""


@dataclass(frozen=True)
class _Columns:
    """Where the columns of a programme lie: bags by ways, then over, short and counted of each
    product."""

    cut: list[tuple[int, int]]
    over: int
    short: int
    there: int


@dataclass(frozen=True, slots=True)
class _Kind:
    """Tasks that are alike to the hands: who may do them, and what they ask for."""

    species: str
    is_sawn: bool
    waits: bool
    cutters: tuple[int, ...]

    @classmethod
    def of(cls, block: Block, task: Task) -> _Kind:
        able = tuple(n for n, cutter in enumerate(block.cutters) if cutter.may(task))
        return cls(task.species, task.is_sawn, task.waits, able)


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


class _Programme:
    """One day as a programme; aims are set one after the other."""

    def __init__(self, day: Day, seconds: float) -> None:
        self.day = day
        self.solver = highspy.Highs()
        for name, value in (
            ("output_flag", False),
            ("mip_rel_gap", 0.0),
            ("mip_abs_gap", 0.0),
            ("threads", 1),
            ("mip_allow_restart", False),  # half the time, measured on days of forty bags
            ("time_limit", seconds),
            ("mip_feasibility_tolerance", 1e-9),
            ("primal_feasibility_tolerance", 1e-9),
        ):
            self.solver.setOptionValue(name, value)
        cut = [(b, day.by_id[way]) for b, bag in enumerate(day.bags) for way in bag.ways]
        count, many = len(cut), len(day.products)
        self.columns = _Columns(cut, count, count + many, count + 2 * many)
        for _ in cut:
            self._column(1.0, is_whole=True)
        for one in day.products:
            self._column(INFINITE if one.most is not None else 0.0)
        for _ in day.products:
            self._column(INFINITE)
        for _ in day.products:
            self._column(1.0, is_whole=True)
        self.lost: dict[int, float] = {}
        """Minutes beside cutting: washed boards, the saw, the grinder."""
        self._rows()
        if day.block is not None:
            self._block(day.block)

    def _column(self, upper: float, *, is_whole: bool = False) -> int:
        number: int = self.solver.getNumCol()
        self.solver.addVar(0.0, upper)
        if is_whole:
            self.solver.changeColIntegrality(number, highspy.HighsVarType.kInteger)
        return number

    def _row(self, low: float, high: float, terms: dict[int, float]) -> None:
        kept = {column: value for column, value in terms.items() if value}
        self.solver.addRow(low, high, len(kept), list(kept), list(kept.values()))

    def _rows(self) -> None:
        day, columns = self.day, self.columns
        of_bag: dict[int, list[int]] = {}
        for column, (b, _) in enumerate(columns.cut):
            of_bag.setdefault(b, []).append(column)
        for b, bag in enumerate(day.bags):
            self._row(1.0 if bag.must else 0.0, 1.0, dict.fromkeys(of_bag.get(b, []), 1.0))
        self._row(-INFINITE, float(day.minutes), self.minutes())
        self.made: list[dict[int, float]] = [{} for _ in day.products]
        place = {one.name: i for i, one in enumerate(day.products)}
        for column, (b, w) in enumerate(columns.cut):
            for name, weight in day.made_of(day.bags[b], day.ways[w]).items():
                self.made[place[name]][column] = float(weight)
        for i, one in enumerate(day.products):
            if one.most is not None:
                # what lies over the most: over >= have + made - most
                terms = {c: -v for c, v in self.made[i].items()} | {columns.over + i: 1.0}
                self._row(float(one.have - one.most), INFINITE, terms)
            terms = dict(self.made[i]) | {columns.short + i: 1.0}
            self._row(float(one.least - one.have), INFINITE, terms)
            if one.have > 0:
                continue
            terms = {c: 1.0 for c, v in self.made[i].items() if v} | {columns.there + i: -1.0}
            self._row(0.0, INFINITE, terms)
        self._row(
            float(day.least_products),
            INFINITE,
            {columns.there + i: 1.0 for i in range(len(day.products))},
        )

    def minutes(self) -> dict[int, float]:
        day = self.day
        cut = {
            column: float(day.minutes_of(day.bags[b], day.ways[w]))
            for column, (b, w) in enumerate(self.columns.cut)
        }
        for column, value in self.lost.items():
            cut[column] = cut.get(column, 0.0) + value
        return cut

    def _block(self, block: Block) -> None:
        """Rows for who is there: the minutes of alike tasks go to those who may do them, inside
        everybody's hours, with the washing and setting up that it asks of them."""
        day, cut = self.day, self.minutes()
        kinds: dict[_Kind, dict[int, float]] = {}
        firmed: dict[int, float] = {}
        for column, (b, w) in enumerate(self.columns.cut):
            way = day.ways[w]
            kind = _Kind.of(block, way.task())
            kinds.setdefault(kind, {})[column] = cut[column]
            if way.waits:
                firmed[column] = float(day.bags[b].weight.to(Unit.G) * way.part)
        if block.grind is not None:
            grinder = frozenset([Machine.GRINDER])
            task = Task(GRINDER, "", grinder, waits=False, minutes=ZERO)
            kinds[_Kind.of(block, task)] = self._ground(block.grind)
        if block.freezer is not None:
            self._row(-INFINITE, float(block.freezer.to(Unit.G)), firmed)
        done: dict[_Kind, dict[int, float]] = {kind: {} for kind in kinds}
        most = {kind: sum(terms.values()) for kind, terms in kinds.items()}
        for number, cutter in enumerate(block.cutters):
            self._cutter(block, number, cutter, done, most)
        sawn = {column: 1.0 for kind in done if kind.is_sawn for column in done[kind]}
        self._row(-INFINITE, float(block.longest), sawn)
        for kind, terms in kinds.items():
            self._row(0.0, 0.0, terms | dict.fromkeys(done[kind], -1.0))
        self._row(-INFINITE, float(day.minutes), self.minutes())

    def _cutter(
        self,
        block: Block,
        number: int,
        cutter: Cutter,
        done: dict[_Kind, dict[int, float]],
        most: dict[_Kind, float],
    ) -> None:
        hours = float(cutter.minutes)
        own: dict[int, float] = {}
        waits: dict[int, float] = {}
        species = sorted({kind.species for kind in done if kind.species})
        takes = {one: self._column(1.0, is_whole=True) for one in species}
        saws = self._column(1.0, is_whole=True)
        washes = self._column(INFINITE)
        of_species: dict[str, dict[int, float]] = {}
        sawn: dict[int, float] = {}
        for kind, columns in done.items():
            if number not in kind.cutters:
                continue
            column = self._column(min(hours, most[kind]))
            columns[column] = own[column] = 1.0
            if kind.waits:
                waits[column] = 1.0
            if kind.is_sawn:
                sawn[column] = 1.0
            if kind.species:
                of_species.setdefault(kind.species, {})[column] = 1.0
        for one, terms in of_species.items():
            self._row(-INFINITE, 0.0, terms | {takes[one]: -hours})
        self._row(-INFINITE, 0.0, sawn | {saws: -hours})
        lost = {washes: float(block.wash), saws: float(block.saw)}
        self._row(-1.0, INFINITE, {washes: 1.0} | dict.fromkeys(takes.values(), -1.0))
        self._row(-INFINITE, hours, own | lost)
        self._row(-INFINITE, max(hours - float(block.wait), 0.0), waits)
        self.lost |= lost

    def _ground(self, grind: Grind) -> dict[int, float]:
        """The grinder's minutes: for each pound of what is ground, and to set up where it runs."""
        day = self.day
        found: dict[int, float] = {}
        for i, one in enumerate(day.products):
            if one.name not in grind.products:
                continue
            pounds = float(grind.minutes_per_lb * one.unit.grams / Unit.LB.grams)
            for column, weight in self.made[i].items():
                if weight:
                    found[column] = found.get(column, 0.0) + pounds * weight
        runs = self._column(1.0, is_whole=True)
        for column in found:
            self._row(-INFINITE, 0.0, {column: 1.0, runs: -1.0})
        found[runs] = float(grind.minutes)
        self.lost |= found
        return found

    def shortfall(self) -> dict[int, float]:
        return {
            self.columns.short + i: float(one.price.amount)
            for i, one in enumerate(self.day.products)
        }

    def loss(self) -> dict[int, float]:
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

    def different(self) -> dict[int, float]:
        return {self.columns.there + i: -1.0 for i in range(len(self.day.products))}

    def least(self, terms: dict[int, float]) -> tuple[float, Choice] | None:
        """The smallest sum and a choice that has it; None where nothing fits. Raises OutOfTime."""
        step = self.look(terms)
        if step is None:
            return None
        if step.is_open:
            raise OutOfTime("time limit reached")
        return step.value, step.choice

    def look(self, terms: dict[int, float], seconds: float | None = None) -> _Step | None:
        """As `least`, with what is known when the time is over."""
        solver = self.solver
        if seconds is not None:
            solver.setOptionValue("time_limit", seconds)
        for column in range(solver.getNumCol()):
            solver.changeColCost(column, terms.get(column, 0.0))
        solver.run()
        status, info = solver.getModelStatus(), solver.getInfo()
        if status in (
            highspy.HighsModelStatus.kInfeasible,
            highspy.HighsModelStatus.kUnboundedOrInfeasible,
        ):
            return None
        is_proven = status == highspy.HighsModelStatus.kOptimal
        if not is_proven and info.primal_solution_status != highspy.kSolutionStatusFeasible:
            raise OutOfTime(str(solver.modelStatusToString(status)))
        choice = self._choice(solver.getSolution().col_value)
        value = info.objective_function_value
        return _Step(value, choice, info.mip_dual_bound, not is_proven)

    def left(self, seconds: float) -> float:
        """What is left of so many seconds; never less than a fifth of them."""
        return float(max(seconds - self.solver.getRunTime(), seconds / 5))

    def _choice(self, values: list[float]) -> Choice:
        choice: list[int | None] = [None] * len(self.day.bags)
        for (b, w), value in zip(self.columns.cut, values, strict=False):
            if value > 0.5:
                choice[b] = w
        return tuple(choice)

    def hold(self, terms: dict[int, float], at: float) -> None:
        """An aim that is reached gives way no more."""
        self._row(-INFINITE, at + SLACK * max(1.0, abs(at) / 1000), terms)

    def differ(self, choice: Choice) -> None:
        """Some way is cut more often than in this choice, or less often."""
        of_way: dict[int, list[int]] = {}
        for column, (_, w) in enumerate(self.columns.cut):
            of_way.setdefault(w, []).append(column)
        switches: dict[int, float] = {}
        for w, columns in of_way.items():
            cut, there = sum(own == w for own in choice), len(columns)
            terms = dict.fromkeys(columns, 1.0)
            more, less = self._column(1.0, is_whole=True), self._column(1.0, is_whole=True)
            self._row(0.0, INFINITE, terms | {more: -float(cut + 1)})
            self._row(-INFINITE, float(there), terms | {less: float(there - cut + 1)})
            switches |= {more: 1.0, less: 1.0}
        self._row(1.0, INFINITE, switches)

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
        most = None
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


def worth_of_hour(
    day: Day, found: DayFigures, seconds: float = 30.0, cutter: int | None = None
) -> Decimal:
    """With 60 more minutes; `cutter`: of this one's, by number, where the day says who is there."""
    with working():
        more = replace(day, minutes=day.minutes + HOUR)
        if day.block is not None and cutter is not None:
            own = list(day.block.cutters)
            own[cutter] = replace(own[cutter], minutes=own[cutter].minutes + HOUR)
            more = replace(more, block=replace(day.block, cutters=tuple(own)))
        return most_profit(more, seconds=seconds) - found.gross_profit


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
        max(worth_of_hour(day, found, seconds, one) for one in cutters),
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
