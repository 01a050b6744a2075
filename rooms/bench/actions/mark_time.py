"""Marking how the clock of a test runs."""

from uuid import UUID

from django.utils import timezone

from cutting.sheet.time_spent import Mark
from rooms.bench.actions.move import open_rows
from rooms.bench.actions.revision import touch
from rooms.bench.models import CuttingTest, TimeMark
from rooms.common.db.keys import own_key
from rooms.common.db.writing import Sent, kept_by, write
from rooms.common.errors import BadInput

LONGEST_KEY = 50


def mark_time(test_id: UUID, key: str, mark: str, step: str, by_id: int | None) -> CuttingTest:
    """Start, pause, interrupt or cooled, at a step. The same key again changes nothing."""
    if mark not in list(Mark):
        raise BadInput("Clock: start, pause, interrupt or cooled is right.")
    unique = own_key(key, "Clock")
    values = {"test_id": test_id, "mark": mark, "step_key": step[:LONGEST_KEY]}
    sent = Sent(unique, "clock", mark, values)
    with write(key=sent, recorded=kept_by(TimeMark, unique, *values)) as door:
        rows = open_rows(test_id, "the clock stays as it is")
        if door.first is None:
            at = timezone.now()
            TimeMark.objects.create(
                key=unique,
                test=rows.test,
                mark=mark,
                step_key=values["step_key"],
                at=at,
                by_id=by_id,
            )
            touch(rows.test)
    return rows.test
