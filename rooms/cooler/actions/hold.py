"""A lot is held, and let go again."""

from uuid import UUID

from django.utils import timezone

from cutting.tracing.lots import lot_key
from rooms.common.errors import BadInput, Refused
from rooms.common.writing import write
from rooms.cooler.models import HoldLifted, LotHold
from rooms.cooler.rules.held import holds_now
from rooms.shop.rules.dates import said_moment


def hold_lot(key: UUID, lot: str, reason: str, by_id: int | None) -> LotHold:
    """From now on nothing of it goes on. The same key again changes nothing.

    Raises BadInput for a lot or a reason that is empty, Refused where it is held already.
    """
    name, words = " ".join(lot.split())[:60], _reason(reason, "why it is held")
    if not lot_key(name):
        raise BadInput("Lot: it is empty; the supplier's lot is right.")
    with write():
        already = LotHold.objects.filter(key=key).first()
        if already is not None:
            return already
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
    with write():
        already = HoldLifted.objects.filter(key=key).first()
        if already is not None:
            return already
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
