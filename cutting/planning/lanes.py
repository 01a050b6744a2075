"""The order of work: jobs on lanes of hands, a washed board between species, saw work together, firmed
meat after its wait, the grinder last.

Common practice, no published source.
"""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from dataclasses import dataclass
from decimal import Decimal

from cutting.errors import BadValue
from cutting.planning.hands import WASH
from cutting.quantities import ZERO, working

MOST_LANES = 6
BOARD, SAW, SAW_WASH = "board", "saw", "saw wash"
SAW_IN_USE, FIRMING = "saw in use", "firming"
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


def in_order(rows: Sequence[Sequence[Job]], losses: Losses, turns: Sequence[int] = ()) -> Lanes:
    """Each lane's own jobs one after the other, the meat of an animal together, done as early as may be.

    `turns`: lanes by their number in the order in which they have the one saw; left out, as they stand.
    The grinder runs when all is cut.
    """
    with working():
        sawn = [n for n in turns or range(len(rows)) if any(job.is_sawn for job in rows[n])]
        found: dict[int, tuple[Placed, ...]] = {}
        saw = _Saw()
        for number in sawn:
            turn = ALONE if len(sawn) == 1 else LAST if number == sawn[-1] else FIRST
            found[number] = _earliest(rows[number], losses, saw, turn)
            last = [one for one in found[number] if one.job.is_sawn][-1]
            saw = _Saw(last.end, last.job.species, is_set_up=True)
        own = [found.get(n) or _earliest(row, losses, _Saw()) for n, row in enumerate(rows)]
        cut = max((one.end for row in own for one in row if not one.job.is_last), default=ZERO)
        return tuple(tuple(_after(one, cut) for one in row) for row in own)


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


ALONE, FIRST, LAST = "alone", "first", "last"
"""A lane's turn at the saw: nobody else's, before the others, after them."""
MOST_SPECIES = 4
"""For more animals on a lane their order is not searched."""


@dataclass(frozen=True, slots=True)
class _Saw:
    """When it is free, and which animal it sawed last."""

    free: Decimal = ZERO
    species: str = ""
    is_set_up: bool = False


def _earliest(
    row: Sequence[Job], losses: Losses, saw: _Saw, turn: str = ALONE
) -> tuple[Placed, ...]:
    """The order of animals and saw work that is done first; who has the saw before others gives it up as
    early as may be."""
    usual = _animals(row)
    orders = itertools.permutations(usual) if len(usual) <= MOST_SPECIES else [tuple(usual)]
    sawing = (ALONE, LAST) if turn == LAST else (turn,)
    found = [
        _placed(_sorted(row, order, when), losses, saw)
        for order, when in itertools.product(orders, sawing)
    ]
    return min(found, key=lambda own: (_saw_end(own) if turn == FIRST else ZERO, _end(own)))


def _end(placed: Sequence[Placed]) -> Decimal:
    return placed[-1].end if placed else ZERO


def _saw_end(placed: Sequence[Placed]) -> Decimal:
    return max((one.end for one in placed if one.job.is_sawn), default=ZERO)


def _animals(row: Sequence[Job]) -> list[str]:
    """Those with musts first, those with firmed meat last."""
    first: dict[str, tuple[bool, bool, int]] = {}
    for place, job in enumerate(row):
        own = (job.waits, not job.must, place)
        known = first.get(job.species, own)
        first[job.species] = (known[0] or own[0], min(known[1], own[1]), min(known[2], place))
    return sorted(first, key=lambda species: first[species])


def _sorted(row: Sequence[Job], species: Sequence[str], turn: str) -> list[Job]:
    """Animals in this order, of each what is sawn together, firmed meat after the rest, long before short;
    the grinder at the end."""

    def place(job: Job) -> tuple[object, ...]:
        sawn = job.is_sawn if turn != FIRST else not job.is_sawn
        kinds = (job.waits, sawn) if turn == ALONE else (sawn, job.waits)
        return job.is_last, species.index(job.species), *kinds, not job.must, -job.minutes

    return sorted(row, key=place)


def _placed(row: Sequence[Job], losses: Losses, saw: _Saw) -> tuple[Placed, ...]:
    """The saw is set up first thing in the day."""
    found: list[Placed] = []
    now, species, has_saw = ZERO, "", False
    sets_up = losses.saw > 0 and not saw.is_set_up and any(job.is_sawn for job in row)
    for job in row:
        before = []
        if sets_up and not found:
            before.append(SAW)
            now += losses.saw
        if species and job.species and job.species != species:
            before.append(BOARD)
            now += losses.wash
        if job.is_sawn and not has_saw:
            if now < saw.free:
                before.append(SAW_IN_USE)
                now = saw.free
            if saw.is_set_up and job.species != saw.species:
                before.append(SAW_WASH)
                now += losses.wash
            has_saw = True
        if job.waits and now < losses.wait:
            before.append(FIRMING)
            now = losses.wait
        found.append(Placed(job, now, now + job.minutes, tuple(before)))
        now, species = now + job.minutes, job.species or species
    return tuple(found)


def _load(row: Sequence[Job], losses: Losses) -> Decimal:
    return _end(_placed(_sorted(row, _animals(row), ALONE), losses, _Saw()))
