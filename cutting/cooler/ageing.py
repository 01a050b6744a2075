"""Ageing windows and what is due. Days are calendar days of the shop; the clock is an argument.

Common practice, no published source. Past the end of a window is a food-safety decision and
never a yield decision.
"""

from __future__ import annotations

import itertools
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field
from datetime import date, timedelta
from enum import IntEnum, StrEnum

from cutting.errors import BadValue

LONGEST_WINDOW = 365
WARM_STEP = timedelta(hours=4)
"""Each full step of time above the limit takes a day off the end. A house rule."""


class Seal(StrEnum):
    TIGHT = "tight"
    SUSPECT = "suspect"
    LEAKING = "leaking"


class Urgency(IntEnum):
    """In the order in which bags are taken."""

    PAST = 0
    """Its end has passed: somebody decides before anybody cuts."""
    NOW = 1
    """Leaking, or its last day is today."""
    SOON = 2
    """The best window is over, or the seal is suspect."""
    BEST = 3
    READY = 4
    """Old enough, the best still to come."""
    YOUNG = 5


@dataclass(frozen=True, slots=True)
class Window:
    """Days since packing: least, best from, best to, end."""

    least: int
    best_from: int
    best_to: int
    end: int

    def __post_init__(self) -> None:
        names = ("least", "best_from", "best_to", "end")
        days = [getattr(self, name) for name in names]
        for name, day in zip(names, days, strict=True):
            if not 0 <= day <= LONGEST_WINDOW:
                raise BadValue(name.replace("_", " "), f"{day} days", f"0 to {LONGEST_WINDOW}")
        for i, (one, other) in enumerate(itertools.pairwise(days)):
            if one > other:
                raise BadValue(
                    names[i + 1].replace("_", " "), f"{other} days", f"{one} or more is right"
                )

    def no_younger_than(self, days: int) -> Window:
        """The same window where nothing may be cut before so many days: later days follow."""
        least = max(self.least, days)
        best_from = max(self.best_from, least)
        best_to = max(self.best_to, best_from)
        return Window(least, best_from, best_to, max(self.end, best_to))


@dataclass(frozen=True, slots=True)
class Bag:
    """What ageing needs to know of a bag. `warm`: time above the limit it has lived through."""

    packed_on: date
    window: Window
    seal: Seal = Seal.TIGHT
    use_by: date | None = None
    warm: timedelta = field(default=timedelta(0))
    thawed_by: date | None = None
    """The day by which a bag that was frozen must be cut; None for one that was not."""

    def __post_init__(self) -> None:
        if self.warm < timedelta(0):
            raise BadValue("warm", str(self.warm), "0 or more is right")

    @property
    def old_enough_on(self) -> date:
        return self.packed_on + timedelta(days=self.window.least)

    @property
    def best_from(self) -> date:
        return min(self.packed_on + timedelta(days=self.window.best_from), self.ends_on)

    @property
    def best_to(self) -> date:
        return min(self.packed_on + timedelta(days=self.window.best_to), self.ends_on)

    @property
    def lost_days(self) -> int:
        """Days that warm spells took off the end."""
        return self.warm // WARM_STEP

    @property
    def ends_on(self) -> date:
        """The last day: the window's end, or the use-by if sooner, less what warm spells took.

        Never before the packing day, so that no bag ends before it began.
        """
        end = self.packed_on + timedelta(days=self.window.end)
        for sooner in (self.use_by, self.thawed_by):
            if sooner is not None:
                end = min(end, sooner)
        return max(end - timedelta(days=self.lost_days), min(self.packed_on, end))


@dataclass(frozen=True, slots=True)
class Aged:
    """How long meat has aged: before it was packed, and since while it is sealed.

    Meat that lies open does not age on. Common practice, no published source.
    """

    packed_on: date
    before: int = 0
    """Days of age when it was packed."""
    sealed_on: date | None = None
    """When it was sealed, where that was after it was packed."""
    is_unsealed: bool = False

    def on(self, day: date) -> int:
        """Return the days of age on a day."""
        if self.is_unsealed:
            return self.before
        return self.before + (day - (self.sealed_on or self.packed_on)).days

    def counted_from(self, today: date) -> date:
        """Return the day from which its age counts, so that on `today` it is as old as it is."""
        return today - timedelta(days=self.on(today))


@dataclass(frozen=True, slots=True)
class Due:
    """When a bag must be cut."""

    urgency: Urgency
    on: date
    """The day it should be cut by: its end, or today when it cannot wait."""
    age: int

    @property
    def is_today(self) -> bool:
        return self.urgency <= Urgency.SOON


def due(bag: Bag, today: date) -> Due:
    """What is to be done with a bag: by its age, sooner when its seal or its clock says so."""
    urgency = _by_age(bag, today)
    if bag.seal is Seal.LEAKING:
        urgency = min(urgency, Urgency.NOW)
    if bag.seal is Seal.SUSPECT:
        urgency = min(urgency, Urgency.SOON)
    on = min(bag.ends_on, today) if urgency <= Urgency.NOW else bag.ends_on
    return Due(urgency, on, (today - bag.packed_on).days)


def _by_age(bag: Bag, today: date) -> Urgency:
    if today > bag.ends_on:
        return Urgency.PAST
    if today == bag.ends_on:
        return Urgency.NOW
    if today > bag.best_to:
        return Urgency.SOON
    if today < bag.old_enough_on:
        return Urgency.YOUNG
    return Urgency.BEST if today >= bag.best_from else Urgency.READY


@dataclass(frozen=True, slots=True)
class TooYoung:
    """What should not be cut yet: a product, or the piece itself (no name); old enough from
    `on`, which is `missing` days away."""

    name: str
    on: date
    missing: int


def too_young(
    packed_on: date, today: date, window: Window, least_ages: Mapping[str, int]
) -> list[TooYoung]:
    """What of a piece is too young today, by its window and by the least age of each product of
    the plan; the longest wait first. Common practice, no published source."""
    wanted = {"": window.least, **least_ages}
    found = [
        TooYoung(name, on, (on - today).days)
        for name, least in wanted.items()
        if (on := packed_on + timedelta(days=least)) > today
    ]
    return sorted(found, key=lambda one: (-one.missing, one.name))


def too_young_for(bag: Bag, wanted_on: date) -> int:
    """Days that are missing on the day the bag is wanted; 0 when it is old enough."""
    return max((bag.old_enough_on - wanted_on).days, 0)


def in_order(bags: Iterable[tuple[Due, Bag]]) -> list[int]:
    """Places of the bags in the order they are taken: urgency, last day, oldest first.

    Equal bags keep the order they came in.
    """
    keyed = [(found.urgency, found.on, -found.age, i) for i, (found, _) in enumerate(bags)]
    return [key[-1] for key in sorted(keyed)]
