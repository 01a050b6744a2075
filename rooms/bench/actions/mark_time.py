"""Marking how the clock of a test runs."""

from uuid import UUID

from django.db import IntegrityError
from django.utils import timezone

from cutting.sheet.time_spent import Mark
from rooms.bench.actions.move import open_rows
from rooms.bench.models import CuttingTest, TimeMark
from rooms.bench.rules.revision import touch
from rooms.common.errors import BadInput
from rooms.common.keys import own_key
from rooms.common.writing import write

LONGEST_KEY = 50


def mark_time(test_id: UUID, key: str, mark: str, step: str, by_id: int | None) -> CuttingTest:
    """Start, pause, interrupt or cooled, at a step. The same key again changes nothing."""
    if mark not in list(Mark):
        raise BadInput("Clock: start, pause, interrupt or cooled is right.")
    unique = own_key(key, "Clock")
    try:
        with write():
            rows = open_rows(test_id, "the clock stays as it is")
            TimeMark.objects.create(
                key=unique,
                test=rows.test,
                mark=mark,
                step_key=step[:LONGEST_KEY],
                at=timezone.now(),
                by_id=by_id,
            )
            touch(rows.test)
    except IntegrityError:
        rows = open_rows(test_id, "the clock stays as it is")
    return rows.test
