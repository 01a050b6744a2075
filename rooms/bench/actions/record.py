"""What is written down beside the weights: notes, steps, time."""

from datetime import datetime
from uuid import UUID

from django.utils import timezone

from cutting.sheet.time_spent import Mark
from rooms.bench.actions.revision import touch
from rooms.bench.models import CuttingTest, Note, StepCheck, TimeMark
from rooms.bench.queries.checks import BOARD, board_words
from rooms.bench.queries.rows import open_rows
from rooms.catalog.models import Step
from rooms.common.db.keys import own_key
from rooms.common.db.writing import Sent, kept_by, write
from rooms.common.errors import BadInput, Refused

LONGEST_KEY = 50
LONGEST_NOTE = 500


def add_note(test: CuttingTest, key: str, text: str, by_id: int | None) -> None:
    """Add one line. The same key again changes nothing."""
    text = " ".join(text.split())
    if not text:
        raise BadInput("Note: it is empty; write a few words.")
    if len(text) > LONGEST_NOTE:
        raise BadInput(f"Note: {len(text)} characters; at most {LONGEST_NOTE} are right.")
    unique = own_key(key, "Note")
    sent = Sent(unique, "note", text, {"test_id": test.pk, "text": text})
    with write(key=sent, recorded=kept_by(Note, unique, "test_id", "text")) as door:
        if door.first is None:
            Note.objects.create(key=unique, test=test, text=text, at=timezone.now(), by_id=by_id)
            touch(test)


@write()
def check_step(
    test_id: UUID, step_key: str, by_id: int | None, *, is_done: bool, at: datetime | None = None
) -> bool:
    """Tick a check, or take the tick back. Saying the same twice changes nothing.

    Returns whether a row was written. Refused on a finished test.
    """
    test = CuttingTest.objects.filter(pk=test_id).first()
    if test is None:
        raise BadInput("Test: it is not known; open the piece from the start page.")
    if not test.is_open:
        raise Refused("This test is finished; its checks stand as they were ticked.")
    text = _text(test, step_key)
    if not text:
        raise BadInput(f"Step: “{step_key}” has nothing to tick; a step with a check is right.")
    last = StepCheck.objects.filter(test=test, step_key=step_key).last()
    if (last is not None and last.is_done) is is_done:
        return False
    StepCheck.objects.create(
        test=test,
        step_key=step_key,
        text=text,
        is_done=is_done,
        at=at or timezone.now(),
        by_id=by_id,
    )
    touch(test)
    return True


def _text(test: CuttingTest, step_key: str) -> str:
    """What the check says, empty when there is nothing to tick."""
    if step_key == BOARD:
        return board_words(test)
    steps = Step.objects.filter(piece_id=test.piece_id, key=step_key).exclude(tick="")
    return steps.values_list("tick", flat=True).first() or ""


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
