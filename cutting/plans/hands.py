"""Who cuts what: each cutter's hours, machines and pieces, washed boards, the saw, firmed meat, the grinder.

Minutes of one way may be shared by two cutters; nobody works beyond the own hours. Common practice, no
published source, but for the machines of those under 18 (29 CFR 570.61, see `cutting.sheet.machines`).
"""

from __future__ import annotations

import itertools
from collections import defaultdict, deque
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from decimal import Decimal

from cutting.errors import BadValue
from cutting.quantities import ZERO, Weight, working
from cutting.sheet.machines import Machine

WASH = Decimal(6)
"""Minutes to wash and sanitize a board between two species."""
SET_UP = Decimal(8)
"""Minutes to set up and clean down the saw, for each who uses it."""
WAIT = Decimal(40)
"""Minutes in the freezer until meat is firm enough for thin slices."""
GRINDER_SET_UP, GRINDER_A_LB = Decimal(8), Decimal("0.5")
MOST_CUTTERS = 4
GRINDER = "grinder"
"""The way of the grinder's own task."""


@dataclass(frozen=True, slots=True)
class Cutter:
    """Somebody with minutes of hands. `ways`: the ids of those this cutter may cut; None for all."""

    name: str
    minutes: Decimal
    machines: frozenset[str] = frozenset()
    ways: frozenset[str] | None = None

    def __post_init__(self) -> None:
        if self.minutes <= 0:
            raise BadValue(self.name, f"{self.minutes:f} minutes", "more than 0 is right")

    def may(self, task: Task) -> bool:
        return task.machines <= self.machines and (
            self.ways is None or task.way == GRINDER or task.way in self.ways
        )


@dataclass(frozen=True, slots=True)
class Grind:
    """The grinder's task: what it grinds, minutes to set up and clean, and for each pound."""

    products: frozenset[str]
    minutes: Decimal = GRINDER_SET_UP
    minutes_per_lb: Decimal = GRINDER_A_LB


@dataclass(frozen=True, slots=True)
class Block:
    """Who stands at the block, and what the day loses there beside cutting.

    `freezer`: how much meat it holds while it firms; None for room enough.
    """

    cutters: tuple[Cutter, ...]
    wash: Decimal = WASH
    saw: Decimal = SET_UP
    wait: Decimal = WAIT
    freezer: Weight | None = None
    grind: Grind | None = None

    def __post_init__(self) -> None:
        if not 1 <= len(self.cutters) <= MOST_CUTTERS:
            wrong = f"{len(self.cutters)}"
            raise BadValue("Cutters", wrong, f"1 to {MOST_CUTTERS} are right")
        if len({one.name for one in self.cutters}) < len(self.cutters):
            raise BadValue("Cutters", "a name is there twice", "each once is right")

    @property
    def minutes(self) -> Decimal:
        """Of all hands together."""
        with working():
            return sum((one.minutes for one in self.cutters), ZERO)

    @property
    def longest(self) -> Decimal:
        return max(one.minutes for one in self.cutters)


@dataclass(frozen=True, slots=True)
class Task:
    """All work of one way. `waits`: its meat is firmed first."""

    way: str
    species: str
    machines: frozenset[str]
    waits: bool
    minutes: Decimal

    @property
    def is_sawn(self) -> bool:
        return Machine.SAW in self.machines


@dataclass(frozen=True, slots=True)
class Share:
    """Minutes of one way for one cutter, by number."""

    way: str
    cutter: int
    minutes: Decimal


@dataclass(frozen=True, slots=True)
class Hands:
    """Who does how much of what; `extra`: minutes of washed boards and of the saw's setting up."""

    shares: tuple[Share, ...]
    extra: Decimal


@dataclass(frozen=True, slots=True)
class _Setting:
    """What one cutter does in this try: which species, and whether the saw."""

    species: frozenset[str]
    saws: bool
    extra: Decimal


def share_out(block: Block, tasks: Iterable[Task]) -> Hands | None:
    """Each task to those who may do it, inside everybody's hours, with the fewest minutes of washing
    and setting up; None where the hours do not do."""
    asked = [task for task in tasks if task.minutes > 0]
    with working():
        if sum((task.minutes for task in asked), ZERO) > block.minutes:
            return None
        if sum((task.minutes for task in asked if task.is_sawn), ZERO) > block.longest:
            return None  # there is one saw
        slack = block.minutes - sum((task.minutes for task in asked), ZERO)
        if _flow(block, asked, [_able(one, asked) for one in block.cutters]) is None:
            return None
        for settings in _settings(block, asked):
            extra = sum((one.extra for one in settings), ZERO)
            if extra > slack:
                return None
            found = _flow(block, asked, settings)
            if found is not None:
                return Hands(found, extra)
    return None


STEP = Decimal(5)
"""Minutes by which a day's end is told apart when work is balanced."""


def balanced(block: Block, tasks: Iterable[Task], found: Hands) -> Hands:
    """The same work with as much washing and setting up, shared out so that all are done early, and
    as few tasks as may be are shared by two."""
    asked = [task for task in tasks if task.minutes > 0]
    with working():
        settings = _settings_of(block, asked, found)
        shares = found.shares
        end = STEP
        while end < block.longest:
            early = tuple(
                replace(one, minutes=min(one.minutes, max(end, setting.extra + STEP)))
                for one, setting in zip(block.cutters, settings, strict=True)
            )
            tried = _flow(replace(block, cutters=early), asked, settings)
            if tried is not None:
                shares = tried
                break
            end += STEP
        return Hands(_settled(block, asked, settings, shares), found.extra)


def _settings_of(block: Block, tasks: Sequence[Task], found: Hands) -> tuple[_Setting, ...]:
    """Which species each has, and whether the saw, as it was found."""
    by_way = {task.way: task for task in tasks}
    settings = []
    for number in range(len(block.cutters)):
        own = [by_way[one.way] for one in found.shares if one.cutter == number]
        species = frozenset(task.species for task in own if task.species)
        saws = any(task.is_sawn for task in own)
        extra = block.wash * max(len(species) - 1, 0) + (block.saw if saws else ZERO)
        settings.append(_Setting(species, saws, extra))
    return tuple(settings)


def _settled(
    block: Block, tasks: Sequence[Task], settings: Sequence[_Setting], shares: Sequence[Share]
) -> tuple[Share, ...]:
    """What two share goes to one of them wherever the own hours allow it, the small shares first."""
    by_way = {task.way: task for task in tasks}
    done = {(one.way, one.cutter): one.minutes for one in shares}

    def fits_in(number: int, task: Task, more: Decimal) -> bool:
        cutter, setting = block.cutters[number], settings[number]
        own = [(by_way[way], minutes) for (way, c), minutes in done.items() if c == number]
        total = sum((minutes for _, minutes in own), more)
        firm = sum((minutes for other, minutes in own if other.waits), ZERO)
        return total <= cutter.minutes - setting.extra and (
            not task.waits or firm + more <= max(cutter.minutes - block.wait, ZERO)
        )

    for (way, number), minutes in sorted(done.items(), key=lambda pair: pair[1]):
        others = [c for (own, c) in done if own == way and c != number]
        for other in others:
            if fits_in(other, by_way[way], minutes):
                done[way, other] += minutes
                del done[way, number]
                break
    return tuple(Share(way, number, minutes) for (way, number), minutes in done.items())


def _able(cutter: Cutter, tasks: Sequence[Task]) -> _Setting:
    """Everything a cutter may, as if nothing were lost by it."""
    species = frozenset(task.species for task in tasks if cutter.may(task))
    return _Setting(species, saws=True, extra=ZERO)


def _settings(block: Block, tasks: Sequence[Task]) -> list[tuple[_Setting, ...]]:
    """Every way to give species and saw to the cutters, the one that loses least first."""
    of_each = []
    for cutter in block.cutters:
        own = [task for task in tasks if cutter.may(task)]
        species = sorted({task.species for task in own if task.species})
        saws = (False, True) if any(task.is_sawn for task in own) else (False,)
        options = []
        for many in range(len(species) + 1):
            for some in itertools.combinations(species, many):
                for saw in saws:
                    extra = block.wash * max(many - 1, 0) + (block.saw if saw else ZERO)
                    if extra <= cutter.minutes:
                        options.append(_Setting(frozenset(some), saw, extra))
        of_each.append(options)
    every = [each for each in itertools.product(*of_each) if _is_whole(each, tasks)]
    return sorted(every, key=lambda each: sum((one.extra for one in each), ZERO))


def _is_whole(settings: Sequence[_Setting], tasks: Sequence[Task]) -> bool:
    """Whether somebody stands ready for each species and for the saw."""
    return all(any(_suits(one, task) for one in settings) for task in tasks)


def _suits(setting: _Setting, task: Task) -> bool:
    return (not task.species or task.species in setting.species) and (
        setting.saws or not task.is_sawn
    )


def _flow(
    block: Block, tasks: Sequence[Task], settings: Sequence[_Setting]
) -> tuple[Share, ...] | None:
    """Minutes of each task for each cutter, by the largest flow (Edmonds and Karp 1972; value from
    memory); exact. None where it does not carry all of them."""
    source, sink = "source", "sink"
    room: dict[tuple[object, object], Decimal] = defaultdict(lambda: ZERO)
    for number, task in enumerate(tasks):
        room[source, ("task", number)] = task.minutes
        for c, (cutter, setting) in enumerate(zip(block.cutters, settings, strict=True)):
            if cutter.may(task) and _suits(setting, task):
                hands = ("firm", c) if task.waits else ("hands", c)
                room[("task", number), hands] = task.minutes
    for c, (cutter, setting) in enumerate(zip(block.cutters, settings, strict=True)):
        room[("firm", c), ("hands", c)] = max(cutter.minutes - block.wait, ZERO)
        room[("hands", c), sink] = cutter.minutes - setting.extra
    capacity = dict(room)
    wanted, carried = sum((task.minutes for task in tasks), ZERO), ZERO
    while carried < wanted:
        path = _path(room, source, sink)
        if path is None:
            return None
        least = min(room[edge] for edge in path)
        for a, b in path:
            room[a, b] -= least
            room[b, a] += least
        carried += least
    return tuple(
        Share(tasks[number].way, c, done)
        for number in range(len(tasks))
        for c in range(len(block.cutters))
        for kind in ("hands", "firm")
        if (edge := (("task", number), (kind, c))) in capacity
        and (done := capacity[edge] - room[edge]) > 0
    )


def _path(
    room: Mapping[tuple[object, object], Decimal], source: object, sink: object
) -> list[tuple[object, object]] | None:
    """The shortest way from source to sink with room left on every edge."""
    reach: dict[object, list[object]] = defaultdict(list)
    for (a, b), left in room.items():
        if left > 0:
            reach[a].append(b)
    came: dict[object, object] = {source: None}
    waiting = deque([source])
    while waiting:
        node = waiting.popleft()
        for after in reach[node]:
            if after in came:
                continue
            came[after] = node
            if after == sink:
                path = [(node, after)]
                while came[path[-1][0]] is not None:
                    path.append((came[path[-1][0]], path[-1][0]))
                return path
            waiting.append(after)
    return None
