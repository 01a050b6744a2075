"""Time above the limit, worked out as readings arrive. Temperatures in thousandths of a °C.

Between two readings the temperature is taken to run straight. Readings further apart than
`gap` have a gap between them: nothing is known there, so nothing is counted.
Limit for receiving and cold holding: 41 °F (5 °C), FDA Food Code 3-202.11 and 3-501.16.
"""

from __future__ import annotations

import itertools
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass, replace
from datetime import datetime, timedelta
from decimal import Decimal

from cutting.errors import BadValue
from cutting.quantities import CONSTANTS, working

LIMIT = int(CONSTANTS["published"]["cold_holding"]["limit_millicelsius"])
LEAST = int(CONSTANTS["common_practice"]["cooler"]["least_millicelsius"])
"""Colder than this meat freezes."""
GAP = timedelta(minutes=5)
ZERO = timedelta(0)


def millicelsius(degrees: Decimal, *, is_fahrenheit: bool = False) -> int:
    """A typed temperature as it is recorded, half to even."""
    with working():
        celsius = (degrees - 32) * 5 / 9 if is_fahrenheit else degrees
        return int((celsius * 1000).to_integral_value())


@dataclass(frozen=True, slots=True)
class Reading:
    """What the probe said; `value` None when it said that its sensor is lost."""

    at: datetime
    value: int | None

    def __post_init__(self) -> None:
        if self.at.tzinfo is None:
            raise BadValue("at", str(self.at), "a moment with its time zone is right")


@dataclass(frozen=True, slots=True)
class Excursion:
    """A stretch above the limit. `end` None while it lasts; `last` is as far as is known."""

    start: datetime
    last: datetime
    peak: int
    end: datetime | None = None

    def within(self, start: datetime, end: datetime) -> timedelta:
        """How much of it lies between two moments."""
        return max(min(self.end or self.last, end) - max(self.start, start), ZERO)


@dataclass(frozen=True, slots=True)
class Followed:
    """Where one has come to: the last reading, and the excursion that lasts, if one does."""

    last: Reading | None = None
    open: Excursion | None = None


def follow(
    so_far: Followed, reading: Reading, limit: int = LIMIT, gap: timedelta = GAP
) -> tuple[Followed, Excursion | None]:
    """The state after one more reading, and the excursion it has ended, if it has.

    Raises BadValue for a reading that is not later than the last one.
    """
    last = so_far.last
    if last is not None and reading.at <= last.at:
        raise BadValue("at", str(reading.at), f"later than {last.at} is right")
    ended, lasting = None, so_far.open
    is_joined = last is not None and last.value is not None and reading.value is not None
    if last is None or not is_joined or reading.at - last.at > gap:
        if lasting is not None:
            ended, lasting = replace(lasting, end=lasting.last), None
        if reading.value is not None and reading.value > limit:
            lasting = Excursion(reading.at, reading.at, reading.value)
        return Followed(reading, lasting), ended
    assert last.value is not None  # noqa: S101 (is_joined says so)
    assert reading.value is not None  # noqa: S101
    if lasting is not None:
        if reading.value > limit:
            lasting = replace(lasting, last=reading.at, peak=max(lasting.peak, reading.value))
        else:
            end = _crossing(last, reading, limit)
            ended, lasting = replace(lasting, last=end, end=end), None
    elif reading.value > limit:
        lasting = Excursion(_crossing(last, reading, limit), reading.at, reading.value)
    return Followed(reading, lasting), ended


def _crossing(one: Reading, other: Reading, limit: int) -> datetime:
    """When the straight line between two readings meets the limit; one of them where the limit was
    moved between them and both lie on one side of it."""
    assert one.value is not None  # noqa: S101 (only readings with a value are joined)
    assert other.value is not None  # noqa: S101
    if one.value == other.value:
        return other.at
    share = (limit - one.value) / (other.value - one.value)
    return one.at + (other.at - one.at) * min(max(share, 0), 1)


def excursions(
    readings: Iterable[Reading],
    limit: int | Callable[[datetime], int] = LIMIT,
    gap: timedelta = GAP,
) -> list[Excursion]:
    """All excursions of readings in their order; one that lasts has no end.

    `limit` may be a function: the limit that held at a moment.
    """
    so_far, found = Followed(), []
    for reading in readings:
        held = limit if isinstance(limit, int) else limit(reading.at)
        so_far, ended = follow(so_far, reading, held, gap)
        if ended is not None:
            found.append(ended)
    return found + ([so_far.open] if so_far.open is not None else [])


def too_cold(
    readings: Iterable[Reading], least: int = LEAST, gap: timedelta = GAP
) -> list[Excursion]:
    """Stretches below the lower limit, as `excursions`; their peak is the coldest."""
    turned = [replace(one, value=None if one.value is None else -one.value) for one in readings]
    return [replace(one, peak=-one.peak) for one in excursions(turned, -least, gap)]


def gaps(readings: Sequence[Reading], gap: timedelta = GAP) -> list[tuple[datetime, datetime]]:
    """Stretches in which nothing is known: no reading, or a lost sensor."""
    known = [reading for reading in readings if reading.value is not None]
    return [
        (one.at, other.at) for one, other in itertools.pairwise(known) if other.at - one.at > gap
    ]


def above(found: Iterable[Excursion], start: datetime, end: datetime) -> timedelta:
    """Time above the limit between two moments: what a bag lived through."""
    return sum((one.within(start, end) for one in found), ZERO)
