"""An order is worked out, sent, taken back: kept as it was asked and answered."""

from datetime import date
from decimal import Decimal
from typing import Any
from uuid import UUID

from django.db import IntegrityError
from django.utils import timezone

from rooms.catalog.models import Piece
from rooms.common.db.seen import check_unchanged
from rooms.common.db.writing import write
from rooms.common.errors import BadInput
from rooms.planner.models import BuyingTerms, NextOrder
from rooms.staff.models import Person


def keep_order(
    key: UUID,
    days: tuple[date, date],
    document: dict[str, Any],
    answer: dict[str, Any],
    by_id: int | None,
) -> NextOrder:
    """A row of its own; the same key again returns it. `days`: of its delivery and the one after."""
    row = NextOrder(
        key=key,
        arrives_on=days[0],
        lasts_until=days[1],
        document=document,
        answer=answer,
        made_at=timezone.now(),
        made_by_id=by_id,
    )
    try:
        with write():
            row.save(force_insert=True)
    except IntegrityError:
        return NextOrder.objects.get(key=key)
    return row


def send_order(order_id: int) -> NextOrder:
    """It counts as coming from now on; twice changes nothing.

    Raises BadInput where nothing is in it, a newer one was worked out since, or its day has come.
    """
    with write():
        order = NextOrder.objects.select_for_update().get(pk=order_id)
        if order.is_coming:
            return order
        newest = NextOrder.objects.first()
        if newest is not None and newest.pk != order.pk:
            raise BadInput("Order: a newer one was worked out since; look at it first.")
        if not order.answer["buys"]:
            raise BadInput("Order: nothing is in it; one with a piece is right.")
        if order.arrives_on <= timezone.localdate():
            raise BadInput(f"Order: its delivery was on {order.arrives_on}; work it out again.")
        order.sent_at, order.taken_back_at = timezone.now(), None
        order.save(update_fields=["sent_at", "taken_back_at"])
    return order


def take_back(order_id: int) -> NextOrder:
    """It does not come after all; twice changes nothing."""
    with write():
        order = NextOrder.objects.select_for_update().get(pk=order_id)
        if order.is_coming:
            order.taken_back_at = timezone.now()
            order.save(update_fields=["taken_back_at"])
    return order


@write()
def set_terms(
    piece: Piece, in_case: int, more: Decimal, by_id: int | None = None, seen: int | None = None
) -> None:
    """So many in a case, and what one alone costs more a unit. The same again changes nothing.

    Raises Overtaken where somebody changed it since the page knew the list's history as far as `seen`.
    """
    if in_case < 1:
        raise BadInput(f"In a case: {in_case}; 1 or more is right.")
    row = BuyingTerms.objects.filter(piece=piece).first()
    if row is not None and (row.in_case, row.more) == (in_case, more):
        return
    check_unchanged(BuyingTerms, seen, {"in_case": in_case, "more": more}, piece=piece)
    row = row or BuyingTerms(piece=piece)
    row.in_case, row.more = in_case, more
    row._history_user = Person.objects.filter(pk=by_id).first()
    row.save()
