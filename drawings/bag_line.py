"""A bag on its own time line: bands of its window on an axis all bags share. In pixels."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date, timedelta

from cutting.cooler.ageing import Bag
from cutting.errors import BadValue


@dataclass(frozen=True, slots=True)
class Axis:
    """Days from `first` to `last` over `width` pixels; a day is as wide as its neighbours."""

    first: date
    last: date
    width: float

    def __post_init__(self) -> None:
        if self.last <= self.first:
            raise BadValue("last", str(self.last), f"after {self.first} is right")

    def x(self, day: date) -> float:
        """Where a day begins, kept within the axis."""
        share = (day - self.first).days / (self.last - self.first).days
        return round(min(max(share, 0.0), 1.0) * self.width, 1)


@dataclass(frozen=True, slots=True)
class Band:
    """One stretch of a bag's life: young, ready, best, or over."""

    kind: str
    x: float
    width: float


@dataclass(frozen=True, slots=True)
class BagLine:
    bands: tuple[Band, ...]
    today: float
    end: float
    runs_on: bool
    """The bag's life goes on past the axis."""


def bag_line(bag: Bag, today: date, axis: Axis) -> BagLine:
    """The bands of a bag, each day once, from packing to the day after its end."""
    day = timedelta(days=1)
    after = bag.ends_on + day
    edges = [
        bag.packed_on,
        min(bag.old_enough_on, after),
        min(max(bag.best_from, bag.old_enough_on), after),
        min(bag.best_to + day, after),
        after,
    ]
    for i in range(1, len(edges)):
        edges[i] = max(edges[i], edges[i - 1])
    kinds = ("young", "ready", "best", "over")
    bands = tuple(
        Band(kind, axis.x(start), round(axis.x(end) - axis.x(start), 1))
        for kind, start, end in zip(kinds, edges, edges[1:], strict=False)
        if axis.x(end) > axis.x(start)
    )
    return BagLine(bands, axis.x(today), axis.x(after), after > axis.last)
