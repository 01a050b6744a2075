"""Taking a weighing back. It stays readable; it no longer counts."""

from uuid import UUID

from django.utils import timezone

from rooms.bench.actions.lay import lay_again
from rooms.bench.actions.ledger import Acting, take_out
from rooms.bench.actions.revision import touch
from rooms.bench.models import TakeBack
from rooms.bench.queries.rows import TestRows, must_be_open, must_load
from rooms.common.db.writing import write
from rooms.common.errors import BadInput


def take_back(test_id: UUID, weighing_id: str, by_id: int | None) -> TestRows:
    """Take back one weighing of the test. A repeat changes nothing."""
    with write():
        rows = must_load(test_id)
        weighing = next((w for w in rows.weighings if str(w.pk) == weighing_id), None)
        if weighing is None:
            raise BadInput("Take back: there is no such weighing in this test.")
        if weighing.back_id is not None:
            return rows
        must_be_open(rows.test, f"{weighing} stays")
        now = timezone.now()
        back = TakeBack.objects.create(weighing=weighing, at=now, by_id=by_id)
        weighing.back_id = back.pk
        take_out(Acting(rows.test, by_id, now), weighing)
        touch(rows.test)
    rows = TestRows(rows.test, rows.outputs, rows.weighings)
    lay_again(rows)
    return rows
