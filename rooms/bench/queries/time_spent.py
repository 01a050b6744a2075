"""Minutes of a test from its marks and weighings."""

from datetime import datetime

from django.utils import timezone

from cutting.sheet.time_spent import Mark, Marked, Span, Spent, Taken, spent
from rooms.bench.models import TimeMark
from rooms.bench.queries.rows import TestRows


def time_spent(rows: TestRows, now: datetime | None = None) -> Spent:
    """Work, interruptions and minutes out: one query."""
    until = rows.test.finished_at or now or timezone.now()
    marks = [
        Marked(mark.at, Mark(mark.mark), mark.step_key)
        for mark in TimeMark.objects.filter(test=rows.test.pk).order_by("id")
    ]
    taken = [Taken(w.taken_at, w.output_id) for w in rows.standing if w.correction_id is None]
    return spent(Span(rows.test.started_at, until), marks, taken)
