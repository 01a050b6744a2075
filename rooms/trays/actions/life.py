"""What becomes of a tray: each change once, and by whom."""

from typing import Any
from uuid import UUID, uuid5

from django.utils import timezone

from cutting.labels.tray_life import NEEDS_REASON, SOLD_FROM, Life, may_become, may_today
from rooms.common.db.writing import Recorded, Sent, write
from rooms.common.errors import BadInput, Refused
from rooms.grinder.actions.batch import take_back_packed
from rooms.grinder.actions.tubs import Pulled, pull_of
from rooms.grinder.models import TubIn
from rooms.grinder.queries.sources import Origin
from rooms.shop.queries.dates import said_day
from rooms.trays.actions.printing import label_again
from rooms.trays.models import MarkDown, PrintJob, Tray, TrayEvent
from rooms.trays.queries.held import refuse_held_tray
from rooms.trays.queries.meat import left_on_tray
from rooms.trays.queries.sources import meat_now


def becomes(key: UUID, tray_id: UUID, life: Life, by_id: int | None, reason: str = "") -> TrayEvent:
    """The same key again changes nothing. Raises BadInput for a missing reason, Refused where the tray is
    not in a state for it, as when another tablet was faster, past its day, and for a lot that is held."""
    words = " ".join(reason.split())[:200]
    if life in NEEDS_REASON and not words:
        raise BadInput("Reason: it is empty; write why.")
    values = {"tray": tray_id, "life": life, "reason": words}
    sent = Sent(key, "tray becomes", f"{life.replace('_', ' ')}", values)
    with write(key=sent, recorded=lambda: _event(key)) as door:
        if door.first is not None:
            return door.first
        tray = locked_tray(tray_id)
        must_become(tray, life)
        if life is Life.UNDONE:
            _undo(key, tray, by_id)
        return changed(key, tray, life, by_id, reason=words)


def _event(key: UUID) -> Recorded | None:
    row = TrayEvent.objects.select_related("tray").filter(key=key).first()
    if row is None:
        return None
    return Recorded(row, {"tray": row.tray_id, "life": Life(row.life), "reason": row.reason})


def must_become(tray: Tray, life: Life) -> None:
    """Raises Refused where it may not."""
    if not may_become(tray.state, life):
        raise Refused(f"{tray} is {tray.get_life_display()}; that cannot be done with it now.")
    if not may_today(life, tray.sell_by, timezone.localdate()):
        raise Refused(f"{tray}: its last day was {said_day(tray.sell_by)}; it is thrown away.")
    if life is Life.TO_TUB and left_on_tray(tray).value <= 0:
        raise Refused(f"{tray}: nothing is left of it; all of it was packed again.")
    if life not in ALSO_WHEN_HELD:
        refuse_held_tray(tray)


def changed(
    key: UUID,
    tray: Tray,
    life: Life,
    by_id: int | None,
    *,
    reason: str = "",
    mark: MarkDown | None = None,
    entry: TubIn | None = None,
) -> TrayEvent:
    """What became of it is on record, and stands in the tray. `mark`: that stands now."""
    mark = mark or tray.mark
    event = TrayEvent.objects.create(
        key=key,
        tray=tray,
        was=tray.life,
        life=life,
        reason=reason,
        was_mark=tray.mark,
        mark=mark,
        entry=entry,
        at=timezone.now(),
        by_id=by_id,
    )
    tray.life, tray.mark = life, mark
    tray.save(update_fields=["life", "mark"])
    if life not in SOLD_FROM:
        drop_labels(tray)  # a label that came out later would be good for any tray
    return event


ALSO_WHEN_HELD = frozenset({Life.THROWN, Life.UNDONE})


def locked_tray(tray_id: UUID) -> Tray:
    rows = Tray.objects.select_related("product__cut__muscle", "from_batch", "from_test", "mark")
    tray = rows.select_for_update(of=("self",)).filter(pk=tray_id).first()
    if tray is None:
        raise BadInput("Tray: there is no such tray.")
    return tray


def _undo(key: UUID, tray: Tray, by_id: int | None) -> None:
    """It leaves the log of its batch, and its label the queue."""
    if tray.packed_id is not None and tray.batch_id is not None:
        own = uuid5(key, "packed")
        take_back_packed(own, tray.batch_id, tray.packed_id, by_id, with_label=True)
    drop_labels(tray)


def not_so(key: UUID, tray_id: UUID, by_id: int | None, seen: str = "") -> TrayEvent:
    """The last change that stands was a mistake: the tray is as it was before. The same key again changes
    nothing. `seen`: the event that the page showed as the last; empty where it showed none.

    Raises Refused where nothing changed or somebody changed it since, where it lies in a tub still (it is
    taken back there first), and for a tray that was none: pack it again.
    """
    sent = Sent(key, "undo of tray", "an undo", {"tray": tray_id})
    with write(key=sent, recorded=lambda: _undo_of(key)) as door:
        if door.first is not None:
            return door.first
        tray = locked_tray(tray_id)
        last = last_event(tray)
        if last is None:
            raise Refused(f"{tray}: nothing became of it yet.")
        if seen and seen != str(last.pk):
            raise Refused(f"{tray}: {_now_words(tray)} by now; look at the page again.")
        if tray.state is Life.UNDONE:
            raise Refused(f"{tray} was none: pack it again.")
        if tray.state is Life.TO_TUB and _lies_in_tub(last):
            raise Refused(f"{tray} lies in a tub; take it back in its tub first.")
        if tray.state is Life.TO_BLOCK and tray.again.standing().exists():
            raise Refused(f"{tray}: something of it is packed again; undo that first.")
        return _undo_event(key, tray, last, by_id)


def _undo_of(key: UUID) -> Recorded | None:
    row = TrayEvent.objects.select_related("tray").filter(key=key).first()
    return row and Recorded(row, {"tray": row.tray_id})


def _now_words(tray: Tray) -> str:
    return f"it is {tray.get_life_display()}"


def last_event(tray: Tray) -> TrayEvent | None:
    """The last event that is neither an undo nor undone."""
    return tray.events.filter(undoes=None, undone_by=None).last()


def _undo_event(key: UUID, tray: Tray, last: TrayEvent, by_id: int | None) -> TrayEvent:
    event = TrayEvent.objects.create(
        key=key,
        tray=tray,
        was=tray.life,
        life=last.was,
        reason="taken back",
        was_mark=tray.mark,
        mark=last.was_mark,
        undoes=last,
        at=timezone.now(),
        by_id=by_id,
    )
    if tray.mark_id != last.was_mark_id:
        drop_labels(tray)
    tray.life, tray.mark = last.was, last.was_mark
    tray.save(update_fields=["life", "mark"])
    if tray.state in SOLD_FROM:
        label_again(tray, by_id)
    return event


def tray_taken_out(entry: TubIn, key: UUID, by_id: int | None, **_: Any) -> None:
    """What went into a tub by a tray's page is out of it again: the tray is as it was before."""
    event = TrayEvent.objects.filter(entry=entry, undone_by=None).select_related("tray").last()
    if event is not None:
        tray = locked_tray(event.tray_id)
        if last_event(tray) == event:
            _undo_event(uuid5(key, "tray"), tray, event, by_id)


def drop_labels(tray: Tray) -> None:
    """Labels of it that wait are wrong by now."""
    tray.jobs.filter(state=PrintJob.State.WAITING).update(state=PrintJob.State.DROPPED)


def _lies_in_tub(event: TrayEvent) -> bool:
    """Whether what went into the tub by this event was not taken back there."""
    return TubIn.objects.standing().filter(pk=event.entry_id).exists()


INTO_TUB = "tub"


def to_tub(key: UUID, tray_id: UUID, tub_id: UUID, by_id: int | None) -> TrayEvent:
    """What lies on a tray goes into a tub of the grinder, with its lots, by the house's rule."""
    sent = Sent(key, "tray to tub", "a tray into a tub", {"tray": tray_id, "tub": tub_id})

    def recorded() -> Recorded | None:
        row = TrayEvent.objects.select_related("tray", "entry").filter(key=key).first()
        if row is None:
            return None
        tub = row.entry.tub_id if row.entry is not None else None
        return Recorded(row, {"tray": row.tray_id, "tub": tub})

    with write(key=sent, recorded=recorded) as door:
        if door.first is not None:
            return door.first
        tray = locked_tray(tray_id)
        must_become(tray, Life.TO_TUB)
        meat = meat_now(tray)
        pulled = Pulled(left_on_tray(tray), f"tray {tray.number}", tray.packed_on)
        origin = Origin(tray.lots, meat.species, tray.from_test, tray.from_batch, meat)
        entry = pull_of(uuid5(key, INTO_TUB), tub_id, pulled, origin, by_id)
        return changed(key, tray, Life.TO_TUB, by_id, entry=entry)
