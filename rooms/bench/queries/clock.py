"""Minutes of a test, for the bench and the sheet."""

from dataclasses import dataclass

from cutting.sheet.time_spent import Mark, Spent, minutes
from drawings.time_strip import Stretch, time_strip
from rooms.bench.models import CuttingTest
from rooms.bench.queries.rows import TestRows
from rooms.bench.queries.steps import with_guide
from rooms.bench.queries.time_spent import time_spent
from wording.block import CLOCK

OUT_TOO_LONG = 60
"""House rule: after so many minutes out of the cooler the bench says so."""


@dataclass(frozen=True)
class Clock:
    """How the clock stands, for the head of the bench; minutes are whole."""

    spent: Spent
    step_key: str
    step: int
    out: int
    work: int

    @property
    def is_running(self) -> bool:
        return self.spent.now is Mark.START

    @property
    def words(self) -> str:
        return CLOCK[self.spent.now]

    limit = OUT_TOO_LONG

    @property
    def is_too_long(self) -> bool:
        return self.out >= OUT_TOO_LONG and self.spent.now is not Mark.COOLED


def clock(rows: TestRows, step_key: str) -> Clock:
    """The clock beside a step: one query."""
    found = time_spent(rows)
    step = found.by_step.get(step_key)
    return Clock(
        found, step_key, minutes(step) if step else 0, minutes(found.out), minutes(found.work)
    )


def step_strip(test: CuttingTest, found: Spent) -> tuple[Stretch, ...]:
    """The strip of a sheet's time, with the titles of the steps: two queries at most, none after
    `checks_of`."""
    if not found.by_step:
        return time_strip(found, {})
    with_guide(test)
    return time_strip(found, {step.key: step.title for step in test.piece.steps.all()})
