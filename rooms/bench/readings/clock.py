"""Minutes of a test, for the bench and the sheet."""

from dataclasses import dataclass
from datetime import datetime

from django.utils import timezone

from cutting.time_spent import (
    Mark,
    Marked,
    Span,
    Spent,
    Stretch,
    Taken,
    minutes,
    spent,
    time_strip,
)
from rooms.bench.models import CuttingTest, TimeMark
from rooms.bench.rows import TestRows

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
        now = self.spent.now
        if now is None:
            return "not started"
        return {Mark.START: "running", Mark.PAUSE: "paused", Mark.INTERRUPT: "interrupted",
                Mark.COOLED: "in the cooler"}[now]  # fmt: skip

    limit = OUT_TOO_LONG

    @property
    def is_too_long(self) -> bool:
        return self.out >= OUT_TOO_LONG and self.spent.now is not Mark.COOLED


def time_spent(rows: TestRows, now: datetime | None = None) -> Spent:
    """Work, interruptions and minutes out: one query."""
    until = rows.test.finished_at or now or timezone.now()
    marks = [
        Marked(mark.at, Mark(mark.mark), mark.step_key)
        for mark in TimeMark.objects.filter(test=rows.test.pk).order_by("id")
    ]
    taken = [Taken(w.taken_at, w.output_id) for w in rows.standing if w.correction_id is None]
    return spent(Span(rows.test.started_at, until), marks, taken)


def clock(rows: TestRows, step_key: str) -> Clock:
    """The clock beside a step: one query."""
    found = time_spent(rows)
    step = found.by_step.get(step_key)
    return Clock(
        found, step_key, minutes(step) if step else 0, minutes(found.out), minutes(found.work)
    )


def step_strip(test: CuttingTest, found: Spent) -> tuple[Stretch, ...]:
    """The strip of a sheet's time, with the titles of the steps: one query."""
    if not found.by_step:
        return time_strip(found, {})
    return time_strip(found, dict(test.piece.steps.values_list("key", "title")))
