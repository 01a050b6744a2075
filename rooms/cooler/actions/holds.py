"""A lot on hold, and let go."""

from uuid import UUID

from django.utils import timezone

from cutting.tracing.lots import lot_key
from rooms.common.db.writing import Sent, kept_by, write
from rooms.common.errors import BadInput, Refused
from rooms.cooler.models import HoldLifted, LotHold
from rooms.cooler.queries.held import holds_now
from rooms.shop.queries.dates import said_moment


def hold_lot(key: UUID, lot: str, reason: str, by_id: int | None) -> LotHold:
    """From now on nothing of it goes on. The same key again changes nothing.

    Raises BadInput for a lot or a reason that is empty, Refused where it is held already.
    """
    name, words = " ".join(lot.split())[:60], _reason(reason, "why it is held")
    if not lot_key(name):
        raise BadInput("Lot: it is empty; the supplier's lot is right.")
    sent = Sent(key, "hold lot", f"lot {name} on hold", {"lot": name, "reason": words})
    with write(key=sent, recorded=kept_by(LotHold, key, "lot", "reason")) as door:
        if door.first is not None:
            return door.first
        held = holds_now().get(lot_key(name))
        if held is not None:
            raise Refused(f"Lot {held.lot} is held since {said_moment(held.at)} already.")
        return LotHold.objects.create(
            key=key, lot=name, reason=words, at=timezone.now(), by_id=by_id
        )


def lift_hold(key: UUID, hold_id: int, reason: str, by_id: int | None) -> HoldLifted:
    """The lot is free again. The same key again changes nothing.

    Raises BadInput for an empty reason, Refused where somebody lifted it already.
    """
    words = _reason(reason, "why it may go on")
    sent = Sent(key, "release hold", "a hold released", {"hold_id": hold_id, "reason": words})
    with write(key=sent, recorded=kept_by(HoldLifted, key, "hold_id", "reason")) as door:
        if door.first is not None:
            return door.first
        hold = LotHold.objects.select_for_update().filter(pk=hold_id).first()
        if hold is None:
            raise BadInput("Hold: there is no such hold.")
        if hasattr(hold, "lifted"):
            raise Refused(f"Lot {hold.lot} is free since {said_moment(hold.lifted.at)} already.")
        return HoldLifted.objects.create(
            key=key, hold=hold, reason=words, at=timezone.now(), by_id=by_id
        )


def _reason(text: str, right: str) -> str:
    words = " ".join(text.split())[:200]
    if not words:
        raise BadInput(f"Reason: it is empty; {right} is right.")
    return words
