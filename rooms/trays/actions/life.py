"""What becomes of a tray: each change once, and by whom."""

from uuid import UUID, uuid5

from django.db import transaction
from django.utils import timezone

from cutting.labels.tray_life import NEEDS_REASON, Life, may_become
from rooms.common.errors import BadInput, Refused
from rooms.grinder.actions.batch import take_back_packed
from rooms.grinder.actions.tubs import Pulled, pull_lots
from rooms.grinder.models import TubIn
from rooms.trays.models import PrintJob, Tray, TrayEvent


def becomes(key: UUID, tray_id: UUID, life: Life, by_id: int | None, reason: str = "") -> TrayEvent:
    """The same key again changes nothing. Raises BadInput for a missing reason, Refused where the tray is
    not in a state for it, as when another tablet was faster."""
    words = " ".join(reason.split())[:200]
    if life in NEEDS_REASON and not words:
        raise BadInput("Reason: it is empty; write why.")
    with transaction.atomic():
        already = TrayEvent.objects.filter(key=key).first()
        if already is not None:
            return already
        tray = _locked(tray_id)
        if not may_become(tray.state, life):
            raise Refused(f"{tray} is {tray.get_life_display()}; that cannot be done with it now.")
        if life is Life.UNDONE:
            _undo(key, tray, by_id)
        event = TrayEvent.objects.create(
            key=key,
            tray=tray,
            was=tray.life,
            life=life,
            reason=words,
            at=timezone.now(),
            by_id=by_id,
        )
        tray.life = life
        tray.save(update_fields=["life"])
    return event


def _locked(tray_id: UUID) -> Tray:
    tray = Tray.objects.select_for_update().filter(pk=tray_id).first()
    if tray is None:
        raise BadInput("Tray: there is no such tray.")
    return tray


def _undo(key: UUID, tray: Tray, by_id: int | None) -> None:
    """It leaves the log of its batch, and its label the queue."""
    if tray.packed_id is not None and tray.batch_id is not None:
        own = uuid5(key, "packed")
        take_back_packed(own, tray.batch_id, tray.packed_id, by_id, with_label=True)
    tray.jobs.filter(state=PrintJob.State.WAITING).update(state=PrintJob.State.DROPPED)


def not_so(key: UUID, tray_id: UUID, by_id: int | None) -> TrayEvent:
    """The last change was a mistake: the tray is as it was before. The same key again changes nothing.

    Raises Refused where nothing changed, where it lies in a tub still (it is taken back there first), and
    for a tray that was none: pack it again.
    """
    with transaction.atomic():
        already = TrayEvent.objects.filter(key=key).first()
        if already is not None:
            return already
        tray = _locked(tray_id)
        last = tray.events.last()
        if last is None:
            raise Refused(f"{tray}: nothing became of it yet.")
        if tray.state is Life.UNDONE:
            raise Refused(f"{tray} was none: pack it again.")
        if tray.state is Life.TO_TUB and _lies_in_tub(last):
            raise Refused(f"{tray} lies in a tub; take it back in its tub first.")
        if tray.again.standing().exists():
            raise Refused(f"{tray}: something of it is packed again; undo that first.")
        event = TrayEvent.objects.create(
            key=key,
            tray=tray,
            was=tray.life,
            life=last.was,
            reason="taken back",
            at=timezone.now(),
            by_id=by_id,
        )
        tray.life = last.was
        tray.save(update_fields=["life"])
    return event


def _lies_in_tub(event: TrayEvent) -> bool:
    """Whether what went into the tub by this event was not taken back there."""
    return TubIn.objects.standing().filter(key=uuid5(event.key, INTO_TUB)).exists()


INTO_TUB = "tub"


def to_tub(key: UUID, tray_id: UUID, tub_id: UUID, by_id: int | None) -> TrayEvent:
    """A tray is opened into a tub of the grinder, with its lots, by the house's rule."""
    with transaction.atomic():
        already = TrayEvent.objects.filter(key=key).first()
        if already is not None:
            return already
        tray = _locked(tray_id)
        pulled = Pulled(tray.weight, f"tray {tray.number}", tray.packed_on)
        pull_lots(uuid5(key, INTO_TUB), tub_id, pulled, tray.lots, by_id)
        return becomes(key, tray_id, Life.TO_TUB, by_id)
