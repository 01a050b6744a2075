"""A tray is sold for less, with a new label over the old."""

from decimal import Decimal
from typing import Any
from uuid import UUID, uuid5

from django.utils import timezone

from cutting.errors import BadValue
from cutting.labels.mark_down import Marked, at_price, marked
from cutting.labels.tray_life import Life
from cutting.quantities import UnitPrice
from rooms.common.db.writing import Recorded, Sent, write
from rooms.common.errors import BadInput, Refused
from rooms.trays.actions.life import changed, drop_labels, locked_tray, must_become
from rooms.trays.actions.printing import queue_tray
from rooms.trays.models import MarkDown, Tray, TrayEvent
from rooms.trays.queries.labelling import code_of, label_rules, marked_document, readable


def mark_down(
    key: UUID, tray_id: UUID, amount: Decimal | None, by_id: int | None, seen: str = ""
) -> TrayEvent:
    """`amount`: the new price of a unit; None for the shop's rule. `seen`: the price that the page showed.
    The same key again changes nothing, and prints no second label.

    Raises BadInput for a price that is not below the one before; Refused past its day, for a lot that is
    held, and where somebody marked it down meanwhile.
    """
    sent = Sent(key, "mark down", f"{amount or 'by the rule'}", {"tray": tray_id, "amount": amount})

    def recorded() -> Recorded | None:
        row = TrayEvent.objects.select_related("tray").filter(key=key).first()
        return row and Recorded(row)

    with write(key=sent, recorded=recorded) as door:
        if door.first is not None:
            return door.first
        tray = locked_tray(tray_id)
        must_become(tray, Life.MARKED_DOWN)
        if seen and seen != f"{tray.price.amount:f}":
            raise Refused(f"{tray}: it costs {tray.price.amount:f} by now; look at the page again.")
        now = _marked(tray, amount)
        document = marked_document(tray, now.price)
        mark = MarkDown.objects.create(
            tray=tray,
            was_amount=tray.price.amount,
            was_total=tray.price_now,
            amount=now.price.amount,
            per=now.price.per.value,
            total=now.total,
            document=document,
            code=code_of(readable(document)),
            at=timezone.now(),
            by_id=by_id,
        )
        event = changed(key, tray, Life.MARKED_DOWN, by_id, mark=mark)
        drop_labels(tray)
        queue_tray(tray, by_id)
    return event


def _marked(tray: Tray, amount: Decimal | None) -> Marked:
    try:
        if amount is None:
            return marked(tray.price, label_rules().markdown_off, tray.weight)
        return at_price(tray.price, UnitPrice(amount, tray.price.per), tray.weight)
    except BadValue as bad:
        raise BadInput(f"{bad.field.capitalize()}: {bad.wrong}; {bad.right}.") from bad


def mark_down_all(key: UUID, rows: dict[UUID, str], by_id: int | None) -> tuple[int, list[str]]:
    """Each by the shop's rule, `rows` with the price that the page showed; how many, and why others were
    not. The same key again changes nothing."""
    many: Any = 0
    told = []
    for tray, seen in rows.items():
        try:
            mark_down(uuid5(key, str(tray)), tray, None, by_id, seen)
            many += 1
        except Refused as why:
            told.append(why.message)
    return many, told
