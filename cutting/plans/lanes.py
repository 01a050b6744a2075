"""The order of work: jobs onto lanes of hands, a washed board between species, saw work together.

Common practice, no published source.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from decimal import Decimal

from cutting.errors import BadValue
from cutting.quantities import ZERO, working

WASH = Decimal(6)
"""Minutes to wash and sanitize a board between two species."""
MOST_LANES = 6


@dataclass(frozen=True, slots=True)
class Job:
    """Bags of one piece cut by one way. `key` is whatever tells it apart; minutes of hands."""

    key: str
    species: str
    minutes: Decimal
    is_sawn: bool = False
    must: bool = False


@dataclass(frozen=True, slots=True)
class Placed:
    """A job on a lane, in minutes from the start; a board is washed just before where it says so."""

    job: Job
    start: Decimal
    end: Decimal
    is_washed: bool


def lanes(jobs: Sequence[Job], hands: int, wash: Decimal = WASH) -> tuple[tuple[Placed, ...], ...]:
    """Jobs shared out to so many hands: musts first, long before short, each where it ends first;
    on a lane species stay together and saw work comes together. Raises BadValue for no hands."""
    if not 1 <= hands <= MOST_LANES:
        raise BadValue("Hands", f"{hands}", f"1 to {MOST_LANES} is right")
    sawyer: list[Job] = [job for job in jobs if job.is_sawn]
    others = [job for job in jobs if not job.is_sawn]
    rows: list[list[Job]] = [[] for _ in range(hands)]
    with working():
        if sawyer:  # one lane has the saw
            rows[-1] += sawyer
        for job in sorted(others, key=lambda one: (not one.must, -one.minutes)):
            row = min(rows, key=lambda row: _load([*row, job], wash))
            row.append(job)
        return tuple(_placed(_in_order(row), wash) for row in rows)


def _in_order(row: list[Job]) -> list[Job]:
    """Musts' species first, a species together, saw work together, long before short."""
    first: dict[str, tuple[bool, int]] = {}
    for place, job in enumerate(row):
        known = first.get(job.species, (True, place))
        first[job.species] = min(known, (not job.must, place))
    return sorted(
        row,
        key=lambda job: (first[job.species], job.is_sawn, not job.must, -job.minutes),
    )


def _placed(row: list[Job], wash: Decimal) -> tuple[Placed, ...]:
    found: list[Placed] = []
    now, species = ZERO, ""
    for job in row:
        is_washed = bool(species) and job.species != species
        now += wash if is_washed else ZERO
        found.append(Placed(job, now, now + job.minutes, is_washed))
        now, species = now + job.minutes, job.species
    return tuple(found)


def _load(row: list[Job], wash: Decimal) -> Decimal:
    placed = _placed(_in_order(row), wash)
    return placed[-1].end if placed else ZERO
