"""A lot is held and everything of it is looked for; or a drill of the same."""

from uuid import UUID, uuid5

from django.utils import timezone

from cutting.tracing.lots import lot_key
from rooms.common.db.writing import Sent, kept_by, write
from rooms.common.errors import BadInput, Refused
from rooms.cooler.actions.holds import hold_lot, lift_hold
from rooms.cooler.models import HoldLifted
from rooms.recall.models import Found, Recall
from rooms.recall.queries.whereabouts import whereabouts
from rooms.trays.models import Tray
from rooms.trays.queries.lot_graph import Start, forwards


def hold_and_look(key: UUID, lot: str, reason: str, by_id: int | None) -> Recall:
    """Nothing of the lot goes on from now, and everything of it is looked for. The same key again changes
    nothing."""
    with write():
        hold = hold_lot(key, lot, reason, by_id)
        return Recall.objects.filter(hold=hold).first() or Recall.objects.create(
            key=uuid5(key, "recall"), lot=hold.lot, hold=hold, started_at=hold.at, by_id=by_id
        )


def start_drill(key: UUID, lot: str, by_id: int | None) -> Recall:
    """The clock runs; nothing is held. The same key again changes nothing. Raises BadInput for no lot."""
    name = " ".join(lot.split())[:60]
    if not lot_key(name):
        raise BadInput("Lot: it is empty; the supplier's lot is right.")
    sent = Sent(key, "drill", f"drill of lot {name}", {"lot": lot_key(name)})
    with write(key=sent, recorded=kept_by(Recall, key)) as door:
        if door.first is not None:
            return door.first
        return Recall.objects.create(key=key, lot=name, started_at=timezone.now(), by_id=by_id)


def find_tray(recall_id: int, tray: Tray, by_id: int | None) -> tuple[Found, bool]:
    """A tray lies apart now; and whether it did before. Raises Refused for one that is not of the lot, and
    once the looking has ended."""
    recall = _open(recall_id)
    already = Found.objects.filter(recall=recall, tray=tray).first()
    if already is not None:
        return already, True
    if not forwards(Start(lot=recall.lot_key)).all_trays().filter(pk=tray.pk).exists():
        raise Refused(f"{tray} is not of lot {recall.lot}: leave it where it is.")
    made = {"at": timezone.now(), "by_id": by_id}
    with write():
        row, is_new = Found.objects.get_or_create(recall=recall, tray=tray, defaults=made)
    return row, not is_new


def end_looking(recall_id: int, by_id: int | None) -> Recall:
    """What was found out is kept with how long it took. Twice changes nothing."""
    with write():
        recall = Recall.objects.select_for_update().filter(pk=recall_id).first()
        if recall is None:
            raise BadInput("Recall: there is no such recall.")
        if recall.ended_at is None:
            recall.report = whereabouts(recall.lot_key, recall).report()
            recall.ended_at, recall.ended_by_id = timezone.now(), by_id
            recall.save(update_fields=["report", "ended_at", "ended_by"])
    return recall


def lift(key: UUID, recall_id: int, reason: str, by_id: int | None) -> HoldLifted:
    """The lot is free; what was found out is kept. The same key again changes nothing."""
    with write():
        recall = Recall.objects.filter(pk=recall_id).first()
        if recall is None or recall.hold_id is None:
            raise BadInput("Recall: nothing is held by it.")
        lifted = lift_hold(key, recall.hold_id, reason, by_id)
        end_looking(recall_id, by_id)
    return lifted


def _open(recall_id: int) -> Recall:
    recall = Recall.objects.filter(pk=recall_id).first()
    if recall is None:
        raise BadInput("Recall: there is no such recall.")
    if recall.ended_at is not None:
        raise Refused(f"The looking for lot {recall.lot} has ended.")
    return recall
