"""What becomes of a tray: each change once, and by whom."""

from uuid import UUID, uuid5

from django.db import transaction
from django.utils import timezone

from cutting.labels.tray_life import NEEDS_REASON, Life, may_become
from rooms.common.errors import BadInput, Refused
from rooms.grinder.actions.batch import take_back_packed
from rooms.grinder.actions.tubs import Pulled, pull_of
from rooms.grinder.models import TubIn
from rooms.grinder.rules.sources import Origin
from rooms.trays.models import MarkDown, PrintJob, Tray, TrayEvent
from rooms.trays.rules.held import refuse_held_tray


def becomes(key: UUID, tray_id: UUID, life: Life, by_id: int | None, reason: str = "") -> TrayEvent:
    """The same key again changes nothing. Raises BadInput for a missing reason, Refused where the tray is
    not in a state for it, as when another tablet was faster, and for a lot that is held."""
    words = " ".join(reason.split())[:200]
    if life in NEEDS_REASON and not words:
        raise BadInput("Reason: it is empty; write why.")
    with transaction.atomic():
        already = TrayEvent.objects.filter(key=key).first()
        if already is not None:
            return already
        tray = locked_tray(tray_id)
        must_become(tray, life)
        if life is Life.UNDONE:
            _undo(key, tray, by_id)
        return changed(key, tray, life, by_id, reason=words)


def must_become(tray: Tray, life: Life) -> None:
    """Raises Refused where it may not."""
    if not may_become(tray.state, life):
        raise Refused(f"{tray} is {tray.get_life_display()}; that cannot be done with it now.")
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
    return event


ALSO_WHEN_HELD = frozenset({Life.THROWN, Life.UNDONE})


def locked_tray(tray_id: UUID) -> Tray:
    tray = Tray.objects.select_for_update().filter(pk=tray_id).first()
    if tray is None:
        raise BadInput("Tray: there is no such tray.")
    return tray


def _undo(key: UUID, tray: Tray, by_id: int | None) -> None:
    """It leaves the log of its batch, and its label the queue."""
    if tray.packed_id is not None and tray.batch_id is not None:
        own = uuid5(key, "packed")
        take_back_packed(own, tray.batch_id, tray.packed_id, by_id, with_label=True)
    drop_labels(tray)


def not_so(key: UUID, tray_id: UUID, by_id: int | None) -> TrayEvent:
    """The last change was a mistake: the tray is as it was before. The same key again changes nothing.

    Raises Refused where nothing changed, where it lies in a tub still (it is taken back there first), and
    for a tray that was none: pack it again.
    """
    with transaction.atomic():
        already = TrayEvent.objects.filter(key=key).first()
        if already is not None:
            return already
        tray = locked_tray(tray_id)
        last = tray.events.last()
        if last is None:
            raise Refused(f"{tray}: nothing became of it yet.")
        if tray.state is Life.UNDONE:
            raise Refused(f"{tray} was none: pack it again.")
        if tray.state is Life.TO_TUB and _lies_in_tub(last):
            raise Refused(f"{tray} lies in a tub; take it back in its tub first.")
        if tray.again.standing().exists():
            raise Refused(f"{tray}: something of it is packed again; undo that first.")
        mark, tray.mark = tray.mark, last.was_mark
        event = TrayEvent.objects.create(
            key=key,
            tray=tray,
            was=tray.life,
            life=last.was,
            reason="taken back",
            was_mark=mark,
            mark=tray.mark,
            at=timezone.now(),
            by_id=by_id,
        )
        tray.life = last.was
        tray.save(update_fields=["life", "mark"])
        if mark != tray.mark:
            drop_labels(tray)
    return event


def drop_labels(tray: Tray) -> None:
    """Labels of it that wait are wrong by now."""
    tray.jobs.filter(state=PrintJob.State.WAITING).update(state=PrintJob.State.DROPPED)


def _lies_in_tub(event: TrayEvent) -> bool:
    """Whether what went into the tub by this event was not taken back there."""
    return TubIn.objects.standing().filter(pk=event.entry_id).exists()


INTO_TUB = "tub"


def to_tub(key: UUID, tray_id: UUID, tub_id: UUID, by_id: int | None) -> TrayEvent:
    """A tray is opened into a tub of the grinder, with its lots, by the house's rule."""
    with transaction.atomic():
        already = TrayEvent.objects.filter(key=key).first()
        if already is not None:
            return already
        tray = locked_tray(tray_id)
        must_become(tray, Life.TO_TUB)
        pulled = Pulled(tray.weight, f"tray {tray.number}", tray.packed_on)
        origin = Origin(tray.lots, tray.from_test, tray.from_batch)
        entry = pull_of(uuid5(key, INTO_TUB), tub_id, pulled, origin, by_id)
        return changed(key, tray, Life.TO_TUB, by_id, entry=entry)
