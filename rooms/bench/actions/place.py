"""A weighing that could not go where it was sent is placed by a person: onto a pile, or nowhere."""

from uuid import UUID

from django.utils import timezone

from rooms.bench.actions.lay import lay_again
from rooms.bench.actions.ledger import Acting, fill
from rooms.bench.actions.move import open_rows
from rooms.bench.actions.revision import touch
from rooms.bench.models import Placed, Unplaced, Weighing
from rooms.bench.queries.rows import load_known, must_load
from rooms.bench.queries.tub_entries import gross_of
from rooms.common.db.writing import Recorded, Sent, write
from rooms.common.errors import BadInput, Refused

SHORTEST_REASON, LONGEST_REASON = 3, 200


def place_weighing(key: UUID, unplaced_id: int, pile: str, by_id: int | None) -> Placed:
    """Put it onto a pile of its test, and into the tub of that pile, as it was weighed. The same key again
    changes nothing.

    Raises BadInput for a pile that is not there; Refused where somebody placed it already, and for a test
    that is not open: take it back to the block first, or discard this and correct the sheet.
    """
    with write(
        key=_sent_placing(key, unplaced_id, pile, ""), recorded=lambda: _recorded_placing(key)
    ) as door:
        if door.first is not None:
            return door.first
        row = _waiting(unplaced_id)
        rows = open_rows(row.test_id, f"{row} stays not placed")
        output = next((one for one in rows.piles if str(one.pk) == pile), None)
        if output is None:
            raise BadInput("Pile: choose one of the piles shown.")
        now = timezone.now()
        weighing = Weighing(
            key=row.key,
            test=rows.test,
            output=output,
            value=row.value,
            unit=row.unit,
            division=row.division,
            portions=(row.portions or 1) if output.is_counted else None,
            is_typed=row.is_typed,
            taken_at=row.taken_at,
            taken_by_id=row.taken_by_id,
            scale=row.scale,
            run=row.run,
            sequence=row.sequence,
            tare=row.tare,
        )
        tub = output.tub if output.tub_id is not None else None
        if tub is not None:
            if tub.closed_at is not None:
                raise Refused(f"Tub {tub}: it was closed; choose another pile or another tub.")
            weighing.tub, weighing.before = tub, gross_of(tub)
        weighing.save(force_insert=True)
        if tub is not None:
            fill(Acting(rows.test, by_id, now), tub, weighing)
        touch(rows.test)
        placed = Placed.objects.create(
            key=key, unplaced=row, weighing=weighing, at=now, by_id=by_id
        )
    lay_again(load_known(row.test_id))
    return placed


def discard_weighing(key: UUID, unplaced_id: int, reason: str, by_id: int | None) -> Placed:
    """It counts nowhere, with a reason; the weighing stays readable. The same key again changes nothing."""
    words = " ".join(reason.split())
    if not SHORTEST_REASON <= len(words) <= LONGEST_REASON:
        raise BadInput(f"Reason: {SHORTEST_REASON} to {LONGEST_REASON} characters; write why.")
    with write(
        key=_sent_placing(key, unplaced_id, "", words), recorded=lambda: _recorded_placing(key)
    ) as door:
        if door.first is not None:
            return door.first
        row = _waiting(unplaced_id)
        rows = must_load(row.test_id)
        touch(rows.test)
        return Placed.objects.create(
            key=key, unplaced=row, reason=words, at=timezone.now(), by_id=by_id
        )


def _sent_placing(key: UUID, unplaced_id: int, pile: str, reason: str) -> Sent:
    values = {"unplaced": unplaced_id, "pile": pile, "reason": reason}
    return Sent(key, "place weighing", reason or "a weighing onto a pile", values)


def _recorded_placing(key: UUID) -> Recorded | None:
    row = Placed.objects.filter(key=key).first()
    return row and Recorded(row)


def _waiting(unplaced_id: int) -> Unplaced:
    row = Unplaced.objects.select_for_update().filter(pk=unplaced_id).first()
    if row is None:
        raise BadInput("Weighing: there is no such weighing.")
    if hasattr(row, "placed"):
        raise Refused(f"{row}: somebody placed it already; look at the page again.")
    return row
