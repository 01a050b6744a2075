"""Changing settings: checked, told what it does, kept in the history with who and when."""

import hashlib
import json
from dataclasses import dataclass, replace
from typing import Any

from django.core.serializers.json import DjangoJSONEncoder
from django.db import IntegrityError
from django.utils import timezone

from rooms.common.db.lengths import must_fit
from rooms.common.db.seen import Saw, check_seen
from rooms.common.db.writing import write
from rooms.common.errors import BadInput, Refused
from rooms.shop.models import Shop
from rooms.shop.queries.consequences import Consequence, consequences
from rooms.shop.queries.current import forget, house
from rooms.shop.queries.house import House
from rooms.shop.signals import zone_moved
from rooms.staff.models import Person

FIRST_TWICE = "Somebody else has just kept the first settings. Save yours again."


class Asked(Refused):
    """What it does must be read and agreed to first. `agreed`: what then comes along."""

    def __init__(self, told: list[Consequence], agreed: str) -> None:
        super().__init__(
            "This changes more than one figure. Read what it does, tick it, save again."
        )
        self.told, self.agreed = told, agreed


@dataclass(frozen=True)
class Changer:
    """Who changes, the settings as the page had them (None where no page sent it), what was agreed to."""

    by_id: int | None
    seen: str | None = None
    agreed: str = ""


def change(values: dict[str, Any], changer: Changer) -> House:
    """Write some settings. The same values again change nothing.

    Raises BadInput for what would falsify a record, Asked for what must be agreed to, Overtaken when
    another manager was faster.
    """
    with write():
        row = Shop.objects.select_for_update().first()
        now = House() if row is None else House.of(row)
        wanted = replace(now, **values)
        if row is not None and wanted == now:
            return now
        if row is not None and changer.seen is not None:
            check_seen(Saw(lambda: row, changer.seen))
        told = consequences(now, wanted, timezone.now())
        if wrong := [one for one in told if one.refuses]:
            raise BadInput(f"{wrong[0].field.capitalize()}: {wrong[0].words}")
        if told and changer.agreed != (agreed := _agreed(told, now, wanted)):
            raise Asked(told, agreed)
        _write(wanted, changer.by_id)
        forget()
        if wanted.time_zone != now.time_zone:
            with timezone.override(wanted.zone):
                zone_moved.send(sender=None)
    return house()


def _agreed(told: list[Consequence], now: House, wanted: House) -> str:
    """What somebody agrees to: each of these settings, from its old value to the new. The words tell the clock
    and counts that go on meanwhile."""
    before, after = now.columns, wanted.columns
    return mark([[one.field, before[one.field], after[one.field]] for one in told])


def _write(wanted: House, by_id: int | None) -> None:
    row = Shop(id=1, **wanted.columns)
    row._state.adding = not Shop.objects.exists()
    must_fit(row)
    row._history_user = Person.objects.filter(pk=by_id).first()
    try:
        with write():
            row.save()
    except IntegrityError:
        raise Refused(FIRST_TWICE) from None


def mark(what: Any) -> str:
    text = json.dumps(what, cls=DjangoJSONEncoder, ensure_ascii=False)
    return hashlib.sha256(text.encode()).hexdigest()[:16]
