"""Who is there to cut: each cutter's hours, machines and pieces, and what the day loses beside cutting.

Who does what of a day is worked out by `cutting.planning.hands_solver`. Common practice, no published source,
but for the machines of those under 18 (29 CFR 570.61, see `cutting.sheet.machines`).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from decimal import Decimal

from cutting.errors import BadValue
from cutting.quantities import ZERO, Weight, working
from cutting.sheet.machines import Machine

WASH = Decimal(6)
"""Minutes to wash and sanitize a board between two species."""
SET_UP = Decimal(8)
"""Minutes to set up the saw and clean it down, once a day."""
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


def turns_at_saw(minutes: Sequence[Decimal]) -> tuple[int, ...]:
    """Cutters by their number in the order in which they have the one saw: who goes home first, first."""
    return tuple(sorted(range(len(minutes)), key=lambda number: (minutes[number], number)))
