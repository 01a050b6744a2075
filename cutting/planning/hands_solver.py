"""Who cuts what, by a mixed-integer programme: the same rows for a day that is being looked for and for
work that stands already.

A cutter's lane keeps the meat of an animal together: what is cut as it is, what is sawn, then what was
firmed; animals with firmed meat come last. Minutes of one way may be shared by two; nobody works beyond the
own hours. There is one saw: one cutter has it, or two in turn, each for one animal, the first at the start
of the day and the second at the end. There is one grinder: one cutter runs it when all is cut, inside the own
hours. Common practice, no published source.
"""

from __future__ import annotations

import itertools
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field
from decimal import Decimal

from cutting.planning.hands import GRINDER, Block, Hands, Share, Task, turns_at_saw
from cutting.planning.integer_program import INFINITE, OutOfTime, Programme, Terms
from cutting.quantities import ZERO, working
from cutting.sheet.machines import Machine

SECONDS = 10.0
"""For the work of one day that stands already; it takes milliseconds."""
TOGETHER = 2
"""So many may take turns at the saw."""
STEP = Decimal(5)
"""Minutes by which a day may end later so that fewer ways are shared by two."""
A_TURN = 0.1
"""Minutes: nobody sets up the saw for less. No work on it is shorter."""
EXACT = Decimal("0.000001")


@dataclass(frozen=True, slots=True)
class Work:
    """Minutes that are alike to the hands: known already, or a sum of columns.

    `cutters`: those who may do it, by number.
    """

    species: str
    is_sawn: bool
    waits: bool
    cutters: tuple[int, ...]
    minutes: float = 0.0
    terms: Terms = field(default_factory=dict)

    @classmethod
    def of(cls, block: Block, task: Task) -> Work:
        able = tuple(n for n, cutter in enumerate(block.cutters) if cutter.may(task))
        return cls(task.species, task.is_sawn, task.waits, able, float(task.minutes))

    @property
    def most(self) -> float:
        """With every column at 1."""
        return self.minutes + sum(self.terms.values())

    @property
    def kind(self) -> tuple[str, bool, bool, tuple[int, ...]]:
        return self.species, self.is_sawn, self.waits, self.cutters

    def suits(self, species: str | None, *, sawn: bool | None, waits: bool | None) -> bool:
        """Whether it is what is asked for; None: whatever it is."""
        return (
            species in (None, self.species)
            and sawn in (None, self.is_sawn)
            and waits in (None, self.waits)
        )


@dataclass(frozen=True, slots=True)
class Grinding:
    """The grinder's minutes, and the column that is 1 where it runs; None where it does run."""

    minutes: float = 0.0
    terms: Terms = field(default_factory=dict)
    runs: int | None = None


@dataclass(slots=True)
class _Lane:
    """The columns of one cutter. `hours`: what is used of the own minutes before the grinder runs."""

    hours: int
    used: Terms
    firms: int | None = None


class Crew:
    """The rows of those who are there, in a programme. Raises BadValue through `Block` alone."""

    def __init__(
        self,
        programme: Programme,
        block: Block,
        work: Sequence[Work],
        grinding: Grinding | None = None,
    ) -> None:
        self.programme, self.block, self.work = programme, block, work
        self.longest = float(block.longest)
        self.end = programme.column(self.longest)
        """When all is cut."""
        self.done: list[dict[int, int]] = [
            {number: programme.column(self._most(one, number)) for number in one.cutters}
            for one in work
        ]
        self.lost: list[tuple[int, Decimal]] = []
        """Columns with the minutes that each of them loses: washes, the saw."""
        for one, columns in zip(work, self.done, strict=True):
            less = {column: -value for column, value in one.terms.items()}
            programme.row(one.minutes, one.minutes, less | dict.fromkeys(columns.values(), 1.0))
        self.saws: dict[int, int] = {}
        """1 where a cutter uses the saw, by the number of those who may."""
        self.lanes = [self._lane(number) for number in range(len(block.cutters))]
        self._saw()
        for lane in self.lanes:
            programme.at_most(0.0, lane.used | {lane.hours: -1.0})
        if grinding is not None:
            self._grinder(grinding)

    def _hours(self, number: int) -> float:
        return float(self.block.cutters[number].minutes)

    def _most(self, work: Work, number: int) -> float:
        """So many minutes of it a cutter does at most. The tighter, the sooner it is solved."""
        hours = self._hours(number)
        if work.waits:
            hours = max(hours - float(self.block.wait), 0.0)
        return min(hours, work.most)

    def _of(
        self,
        number: int,
        species: str | None = None,
        *,
        sawn: bool | None = None,
        waits: bool | None = None,
    ) -> Terms:
        """A cutter's own columns of some of the work."""
        return {
            columns[number]: 1.0
            for one, columns in zip(self.work, self.done, strict=True)
            if number in columns and one.suits(species, sawn=sawn, waits=waits)
        }

    def is_some(self, terms: Terms, most: float) -> int:
        """A column that is 1 where a sum of at most `most` is more than 0."""
        column = self.programme.whole()
        self.programme.at_most(0.0, terms | {column: -most})
        return column

    def _has(
        self,
        number: int,
        species: str | None = None,
        *,
        sawn: bool | None = None,
        waits: bool | None = None,
    ) -> int:
        """A column that is 1 where a cutter has some of this work."""
        most = sum(
            self._most(one, number)
            for one in self.work
            if number in one.cutters and one.suits(species, sawn=sawn, waits=waits)
        )
        own = self._of(number, species, sawn=sawn, waits=waits)
        return self.is_some(own, min(most, self._hours(number)))

    def _loses(self, lane: _Lane, column: int, minutes: Decimal) -> None:
        lane.used[column] = float(minutes)
        self.lost.append((column, minutes))

    def _lane(self, number: int) -> _Lane:
        programme, hours = self.programme, self._hours(number)
        lane = _Lane(programme.column(hours), self._of(number))
        programme.at_most(0.0, {lane.hours: 1.0, self.end: -1.0})
        species = sorted({one.species for one in self.work if number in one.cutters})
        takes = [self._has(number, one) for one in species if one]
        washes = programme.column()
        programme.row(-1.0, INFINITE, {washes: 1.0} | dict.fromkeys(takes, -1.0))
        self._loses(lane, washes, self.block.wash)
        self._firm(number, lane, species)
        if sawn := self._of(number, sawn=True):
            self.saws[number] = self._has(number, sawn=True)
            programme.row(0.0, INFINITE, sawn | {self.saws[number]: -A_TURN})
        return lane

    def _firm(self, number: int, lane: _Lane, species: Sequence[str]) -> None:
        """Meat that is firmed is begun after its wait. Of the animals with such meat one comes first, all
        work of the others after it."""
        programme, hours = self.programme, self._hours(number)
        firmed = {one: own for one in species if (own := self._of(number, one, waits=True))}
        if not firmed:
            return
        wait, wash = float(self.block.wait), float(self.block.wash)
        lane.firms = self._has(number, waits=True)
        late: Terms = {}
        first = [programme.whole() for _ in firmed]
        programme.at_most(1.0, dict.fromkeys(first, 1.0))
        for (one, own), is_first in zip(firmed.items(), first, strict=True):
            column = programme.column(hours + wash)
            late[column] = 1.0
            programme.at_most(0.0, own | {column: -1.0})
            if len(firmed) > 1:
                is_there, most = self._has(number, one, waits=True), hours + wash
                washed = wash if one else 0.0
                terms = self._of(number, one) | {column: -1.0, is_there: most, is_first: -most}
                programme.at_most(most - washed, terms)
        programme.at_most(0.0, late | {lane.hours: -1.0, lane.firms: wait})

    def _saw(self) -> None:
        programme, block = self.programme, self.block
        turns = [
            number
            for number in turns_at_saw([one.minutes for one in block.cutters])
            if number in self.saws
        ]
        before: Terms = {}
        for number in turns:
            sets_up = programme.column(1.0)
            programme.row(0.0, INFINITE, before | {sets_up: 1.0, self.saws[number]: -1.0})
            self._loses(self.lanes[number], sets_up, block.saw)
            before[self.saws[number]] = 1.0
        programme.at_most(float(TOGETHER), before)
        for first, second in itertools.combinations(turns, 2):
            self._two_at_saw(first, second)

    def _two_at_saw(self, first: int, second: int) -> None:
        """Where both use the saw, each saws one animal, and the second begins when the first is done and
        the saw is clean."""
        programme, block = self.programme, self.block
        one, other = self.lanes[first], self.lanes[second]
        both = programme.column(1.0)
        use = {self.saws[first]: -1.0, self.saws[second]: -1.0}
        programme.row(-1.0, INFINITE, use | {both: 1.0})
        mine, theirs = (self._sawn(number) for number in (first, second))
        for sawn in (mine, theirs):
            many = float(len(sawn))
            programme.at_most(many, dict.fromkeys(sawn.values(), 1.0) | {both: many - 1.0})
        cleaned = programme.column(1.0)
        for (animal, a), (another, b) in itertools.product(mine.items(), theirs.items()):
            if animal != another:
                programme.row(-1.0, INFINITE, {cleaned: 1.0, a: -1.0, b: -1.0})
        self._loses(other, cleaned, block.wash)
        wait = float(block.wait)
        most = 2 * self.longest + float(block.wash + block.saw) + wait
        terms = self._of(first, sawn=True) | self._of(second, sawn=True)
        terms |= {cleaned: float(block.wash), other.hours: -1.0, both: most}
        firm = self._of(first, sawn=True, waits=True) | self._of(second, sawn=True, waits=True)
        if firm:
            terms[self.is_some(firm, 2 * self.longest)] = wait
        programme.at_most(most - float(block.saw), terms)
        for lane in (one, other):
            if lane.firms is not None:
                terms = lane.used | {lane.hours: -1.0, both: most, lane.firms: most}
                programme.at_most(2 * most - wait, terms)

    def _sawn(self, number: int) -> dict[str, int]:
        """By the animal a column that is 1 where a cutter saws it."""
        species = {one.species for one in self.work if one.is_sawn and number in one.cutters}
        return {one: self._has(number, one, sawn=True) for one in sorted(species)}

    def _grinder(self, grinding: Grinding) -> None:
        """One of those who may runs it to its end, once all is cut."""
        programme = self.programme
        able = {
            number: programme.whole()
            for number, cutter in enumerate(self.block.cutters)
            if Machine.GRINDER in cutter.machines
        }
        chosen = dict.fromkeys(able.values(), 1.0)
        if grinding.runs is None:
            programme.row(1.0, 1.0, chosen)
        else:
            programme.row(0.0, 0.0, chosen | {grinding.runs: -1.0})
        self.grinds = able
        for number, column in able.items():
            others = [self._hours(one) for one in able if one != number]
            most = self.longest - self._hours(number) + max(others, default=0.0)
            terms = grinding.terms | {self.end: 1.0, column: most}
            programme.at_most(self._hours(number) + most - grinding.minutes, terms)


def share_out(block: Block, tasks: Iterable[Task]) -> Hands | None:
    """Each task to those who may do it, inside everybody's hours, with the fewest minutes of washing
    and setting up; None where the hours do not do. Raises OutOfTime."""
    asked = [task for task in tasks if task.minutes > 0]
    with working():
        if sum((task.minutes for task in asked), ZERO) > block.minutes:
            return None
    standing = _Standing(block, asked)
    return standing.hands() if standing.least(standing.lost()) else None


def balanced(block: Block, tasks: Iterable[Task], found: Hands) -> Hands:
    """The same work with as much washing and setting up, shared out so that all are done early, and
    as few tasks as may be are shared by two."""
    standing = _Standing(block, [task for task in tasks if task.minutes > 0])
    programme, crew = standing.programme, standing.crew
    programme.hold(standing.lost(), float(found.extra))
    if not standing.least({crew.end: 1.0}):
        return found
    programme.hold({crew.end: 1.0}, programme.value + float(STEP))
    shares = [
        crew.is_some({column: 1.0}, one.minutes)
        for one, columns in zip(crew.work, crew.done, strict=True)
        for column in columns.values()
    ]
    return standing.hands() if standing.least(dict.fromkeys(shares, 1.0)) else found


class _Standing:
    """Work that stands already, as a programme."""

    def __init__(self, block: Block, tasks: Sequence[Task]) -> None:
        self.cut = [task for task in tasks if task.way != GRINDER]
        self.ground = [task for task in tasks if task.way == GRINDER]
        self.programme = Programme(SECONDS)
        grinding = [Grinding(float(task.minutes)) for task in self.ground]
        work = [Work.of(block, task) for task in self.cut]
        self.crew = Crew(self.programme, block, work, *grinding)

    def lost(self) -> Terms:
        return {column: float(minutes) for column, minutes in self.crew.lost}

    def least(self, terms: Terms) -> bool:
        """Whether it can be done; raises OutOfTime where nobody knows."""
        self.programme.aim(terms)
        if self.programme.is_impossible:
            return False
        if not self.programme.is_proven:
            raise OutOfTime(self.programme.status)
        return True

    def hands(self) -> Hands:
        """As it was solved last."""
        values = self.programme.values
        with working():
            extra = sum(
                (round(values[column]) * minutes for column, minutes in self.crew.lost if minutes),
                ZERO,
            )
            shares = [
                share
                for task, columns in zip(self.cut, self.crew.done, strict=True)
                for share in _shares(task, {n: values[c] for n, c in columns.items()})
            ]
        for task in self.ground:
            number = max(self.crew.grinds, key=lambda one: values[self.crew.grinds[one]])
            shares.append(Share(task.way, number, task.minutes))
        return Hands(tuple(shares), extra)


def _shares(task: Task, minutes: dict[int, float]) -> list[Share]:
    """A task's minutes of each who does some of it, together exactly its own."""
    exact = {n: Decimal(repr(value)).quantize(EXACT) for n, value in minutes.items()}
    kept = {n: value for n, value in exact.items() if value > EXACT * 10}
    most = max(exact, key=lambda n: exact[n])
    rest = task.minutes - sum((value for n, value in kept.items() if n != most), ZERO)
    return [Share(task.way, n, value) for n, value in ({**kept, most: rest}).items()]
