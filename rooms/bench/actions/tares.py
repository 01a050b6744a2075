"""Tubs of known weight, by name."""

from typing import Any

from django.utils import timezone

from cutting.errors import BadValue
from cutting.quantities import Unit, Weight
from rooms.bench.models import Tare
from rooms.bench.queries.scales import scales
from rooms.common.db.seen import check_unchanged, is_so
from rooms.common.db.writing import write
from rooms.common.errors import BadInput
from rooms.common.plain_text import is_plain
from rooms.common.web.forms import tidy

LONGEST_NAME = 40


def save_tare(name: str, value: str, unit: str, by: Any, seen: int | None = None) -> Tare:
    """A new known tub, or the new weight of one with that name. The old weight stays in its history; the same
    again changes nothing.

    Raises Overtaken where somebody changed it since the page knew the list's history as far as `seen`.
    """
    name = plain_name(name, "Name")
    try:
        weight = Weight.of(tidy(value), unit)
    except BadValue as bad:
        raise BadInput(f"Weight: {bad}") from bad
    capacity = Weight.of(scales()[0].capacity, scales()[0].unit)
    if not 0 < weight.to(Unit.G) <= capacity.to(Unit.G) / 2:
        raise BadInput(f"Weight: {weight} is no tub; more than 0 and at most half of {capacity}.")
    with write():
        tare = Tare.objects.filter(name=name).first() or Tare(name=name)
        columns = {"value": weight.value, "unit": weight.unit.value, "is_dropped": False}
        if is_so(tare, columns):
            return tare
        check_unchanged(Tare, seen, columns, name=name)
        tare.value, tare.unit, tare.is_dropped = weight.value, weight.unit.value, False
        tare.made_at, tare._history_user = timezone.now(), by
        tare.save()
    return tare


@write()
def drop_tare(pk: str, by: Any) -> None:
    """Out of use; its history stays. Twice: no change."""
    tare = Tare.objects.filter(pk=pk, is_dropped=False).first() if pk.isdecimal() else None
    if tare is not None:
        tare.is_dropped, tare._history_user = True, by
        tare.save()


def plain_name(text: str, field: str) -> str:
    name = " ".join(text.split())
    if not name or len(name) > LONGEST_NAME or not is_plain(name):
        raise BadInput(f"{field}: 1 to {LONGEST_NAME} plain characters are right.")
    return name
