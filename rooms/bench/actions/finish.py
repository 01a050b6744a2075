"""A test is finished: from then on it is a sheet."""

from decimal import Decimal
from typing import Any
from uuid import UUID

from django.utils import timezone

from cutting.sheet.time_spent import minutes
from rooms.bench.actions.lay import keep_shape
from rooms.bench.actions.revision import touch
from rooms.bench.models import Output
from rooms.bench.queries.finishing import Agreed, Unfinished, unfinished
from rooms.bench.queries.rows import TestRows, must_load
from rooms.bench.queries.time_spent import time_spent
from rooms.common.db.writing import write
from rooms.common.errors import BadInput, Refused


class NotWeighedOut(Refused):
    """Weight is left, or a pile is empty: somebody has to agree to it first. `told`: to what."""

    def __init__(self, told: Unfinished) -> None:
        parts = [f"{told.unweighed} {told.unit} not weighed"] if told.unweighed else []
        parts += [f"{output} empty" for output in told.empty]
        super().__init__(f"Finish: {', '.join(parts)}. Weigh it, or finish with it as it is.")
        self.told = told


def finish(test_id: UUID, seen: str, at: Any = None, *, agreed: Agreed | None = None) -> TestRows:
    """Close a test for weighing. `seen`: the revision the page showed; `agreed`: what is left open by it.

    Refused when nothing was weighed, or when somebody weighed since the page was loaded; NotWeighedOut where
    more is left unweighed, or another pile empty, than was agreed to. Finishing twice changes nothing.
    """
    agreed = agreed or Agreed()
    with write():
        rows = must_load(test_id)
        if not rows.test.is_open:
            return rows
        if not rows.standing:
            raise BadInput("Finish: nothing has been weighed yet; weigh a pile first.")
        if str(rows.revision) != seen:
            last = rows.weighings[-1]
            raise Refused(
                "Finish: this page is older than the test. Somebody changed it since; "
                f"the last weighing is {last} for {last.output}. Look again, then finish."
            )
        told = unfinished(rows, agreed.none_of)
        if told.empty or (told.unweighed != agreed.unweighed and told.unweighed):
            raise NotWeighedOut(told)
        Output.objects.filter(test=rows.test, pk__in=agreed.none_of).update(is_none=True)
        rows.test.finished_at = at or timezone.now()
        rows.test.save(update_fields=["finished_at"])
        _keep_minutes(rows)
        touch(rows.test)
        keep_shape(rows)
    return rows


def _keep_minutes(rows: TestRows) -> None:
    """Minutes of each pile, where the clock was used."""
    found = time_spent(rows)
    if found.now is not None:
        for output in rows.outputs:
            length = found.by_output.get(output.pk)
            output.minutes = Decimal(minutes(length)) if length else None
        Output.objects.bulk_update(rows.outputs, ["minutes"])
