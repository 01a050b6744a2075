"""The order of work: jobs on lanes of hands, a washed board between species, saw work together, firmed
meat after its wait, the grinder last.

Common practice, no published source.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from decimal import Decimal

from cutting.errors import BadValue
from cutting.plans.hands import WASH
from cutting.quantities import ZERO, working

MOST_LANES = 6
BOARD, SAW, FIRMING = "board", "saw", "firming"
"""What is done, or waited for, before a job."""


@dataclass(frozen=True, slots=True)
class Job:
    """Bags of one piece cut by one way. `key` is whatever tells it apart; minutes of hands.

    `waits`: its meat is firmed first; `is_last`: it is the grinder's.
    """

    key: str
    species: str
    minutes: Decimal
    is_sawn: bool = False
    must: bool = False
    waits: bool = False
    is_last: bool = False


@dataclass(frozen=True, slots=True)
class Losses:
    """Minutes to wash a board, to set up the saw, and until meat is firm."""

    wash: Decimal = WASH
    saw: Decimal = ZERO
    wait: Decimal = ZERO


@dataclass(frozen=True, slots=True)
class Placed:
    """A job on a lane, in minutes from the start, and what comes just before it."""

    job: Job
    start: Decimal
    end: Decimal
    before: tuple[str, ...] = ()


Lanes = tuple[tuple[Placed, ...], ...]


def in_order(rows: Sequence[Sequence[Job]], losses: Losses) -> Lanes:
    """Each lane's own jobs one after the other. The grinder runs when all that gives it meat is cut."""
    with working():
        found = [_placed(_in_order(row), losses) for row in rows]
        cut = max((one.end for row in found for one in row if not one.job.is_last), default=ZERO)
        return tuple(tuple(_after(one, cut) for one in row) for row in found)


def _after(one: Placed, cut: Decimal) -> Placed:
    if not one.job.is_last or one.start >= cut:
        return one
    return Placed(one.job, cut, cut + one.job.minutes, one.before)


def lanes(jobs: Sequence[Job], hands: int, wash: Decimal = WASH) -> Lanes:
    """Jobs shared out to so many hands that are alike: musts first, long before short, each where it
    ends first; on a lane species stay together and saw work comes together. Raises BadValue for no
    hands."""
    if not 1 <= hands <= MOST_LANES:
        raise BadValue("Hands", f"{hands}", f"1 to {MOST_LANES} is right")
    sawyer: list[Job] = [job for job in jobs if job.is_sawn]
    others = [job for job in jobs if not job.is_sawn]
    rows: list[list[Job]] = [[] for _ in range(hands)]
    losses = Losses(wash)
    with working():
        if sawyer:  # one lane has the saw
            rows[-1] += sawyer
        for job in sorted(others, key=lambda one: (not one.must, -one.minutes)):
            row = min(rows, key=lambda row: _load([*row, job], losses))
            row.append(job)
    return in_order(rows, losses)


def _in_order(row: Sequence[Job]) -> list[Job]:
    """Musts' species first, those with firmed meat last; a species together, saw work together, firmed
    meat after the rest, long before short; the grinder at the end."""
    first: dict[str, tuple[bool, bool, int]] = {}
    for place, job in enumerate(row):
        own = (job.waits, not job.must, place)
        known = first.get(job.species, own)
        first[job.species] = (known[0] or own[0], min(known[1], own[1]), min(known[2], place))
    return sorted(
        row,
        key=lambda job: (
            job.is_last,
            first[job.species],
            job.waits,
            job.is_sawn,
            not job.must,
            -job.minutes,
        ),
    )


def _placed(row: Sequence[Job], losses: Losses) -> tuple[Placed, ...]:
    found: list[Placed] = []
    now, species, is_set_up = ZERO, "", False
    for job in row:
        before = []
        if species and job.species and job.species != species:
            before.append(BOARD)
            now += losses.wash
        if job.is_sawn and not is_set_up and losses.saw:
            before.append(SAW)
            now, is_set_up = now + losses.saw, True
        if job.waits and now < losses.wait:
            before.append(FIRMING)
            now = losses.wait
        found.append(Placed(job, now, now + job.minutes, tuple(before)))
        now, species = now + job.minutes, job.species or species
    return tuple(found)


def _load(row: Sequence[Job], losses: Losses) -> Decimal:
    placed = _placed(_in_order(row), losses)
    return placed[-1].end if placed else ZERO
