"""Minutes at the block, from what was marked and when weights were taken. Nobody is hurried."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from datetime import datetime, timedelta
from decimal import Decimal
from enum import StrEnum
from itertools import pairwise

from cutting.quantities import working

NONE = timedelta(0)


def wages(minutes: Decimal, rate: Decimal) -> Decimal:
    """Money for minutes of hands at a rate by the hour: minutes × rate / 60."""
    with working():
        return minutes * rate / 60


class Mark(StrEnum):
    """START also goes on after a pause and turns to another step."""

    START = "start"
    PAUSE = "pause"
    INTERRUPT = "interrupt"
    COOLED = "cooled"
    """The piece lies in the cooler again: neither work nor minutes out."""


@dataclass(frozen=True, slots=True)
class Marked:
    at: datetime
    mark: Mark
    step: str = ""


@dataclass(frozen=True, slots=True)
class Taken:
    """A weight taken; `output` is whatever tells piles apart."""

    at: datetime
    output: object


@dataclass(frozen=True, slots=True)
class Span:
    """The test from opening to its end, or to now while it is open."""

    opened: datetime
    until: datetime


@dataclass(frozen=True, slots=True)
class Spent:
    """`out`: minutes out of the cooler. `interrupted` is no work. Parts add up to `work`."""

    work: timedelta = NONE
    interrupted: timedelta = NONE
    out: timedelta = NONE
    by_step: dict[str, timedelta] = field(default_factory=dict)
    by_output: dict[object, timedelta] = field(default_factory=dict)
    now: Mark | None = None
    """How the clock stands; None when it was never started."""


def spent(span: Span, marks: Sequence[Marked], taken: Sequence[Taken]) -> Spent:
    """Marks in order. Work between two weighings counts for the pile of the later one.

    Work after the last weighing belongs to no pile. Marks outside the span count at its edges.
    """
    out = max(span.until - span.opened, NONE)
    work = interrupted = NONE
    by_step: dict[str, timedelta] = {}
    running: list[tuple[datetime, datetime]] = []
    until = max(span.until, span.opened)
    edges = [min(max(one.at, span.opened), until) for one in marks] + [until]
    for one, (start, end) in zip(marks, pairwise(edges), strict=True):
        length = max(end - start, NONE)
        if one.mark is Mark.START:
            work += length
            running.append((start, end))
            by_step[one.step] = by_step.get(one.step, NONE) + length
        elif one.mark is Mark.INTERRUPT:
            interrupted += length
        elif one.mark is Mark.COOLED:
            out -= length
    by_output: dict[object, timedelta] = {}
    before = span.opened
    for weighing in sorted(taken, key=lambda one: one.at):
        length = _overlap(running, before, weighing.at)
        if length:
            by_output[weighing.output] = by_output.get(weighing.output, NONE) + length
        before = max(before, weighing.at)
    last = marks[-1].mark if marks else None
    return Spent(work, interrupted, out, by_step, by_output, last)


def _overlap(
    running: Sequence[tuple[datetime, datetime]], start: datetime, end: datetime
) -> timedelta:
    return sum((max(min(end, b) - max(start, a), NONE) for a, b in running), NONE)


def minutes(length: timedelta) -> int:
    """Whole minutes, half up: 90 seconds are 2."""
    return int((length.total_seconds() + 30) // 60)
