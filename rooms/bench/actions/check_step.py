"""Ticking a step's check at the block: recorded with the test, with who and when."""

from datetime import datetime
from uuid import UUID

from django.utils import timezone

from rooms.bench.actions.revision import touch
from rooms.bench.models import CuttingTest, StepCheck
from rooms.bench.queries.checks import BOARD, board_words
from rooms.catalog.models import Step
from rooms.common.db.writing import write
from rooms.common.errors import BadInput, Refused


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
