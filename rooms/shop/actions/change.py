"""Changing settings: checked, told what it does, kept in the history with who and when."""

import hashlib
import json
from collections.abc import Iterable
from dataclasses import dataclass, replace
from typing import Any

from django.core.serializers.json import DjangoJSONEncoder
from django.db import IntegrityError
from django.utils import timezone

from rooms.common.errors import BadInput, Refused
from rooms.common.lengths import must_fit
from rooms.common.writing import write
from rooms.shop.models import Shop
from rooms.shop.rules.consequences import Consequence, consequences
from rooms.shop.rules.current import forget, house
from rooms.shop.rules.house import House
from rooms.staff.models import Person

FIRST_TWICE = "Somebody else has just kept the first settings. Save yours again."


class Asked(Refused):
    """What it does must be read and agreed to first. `agreed`: what then comes along."""

    def __init__(self, told: list[Consequence]) -> None:
        super().__init__(
            "This changes more than one figure. Read what it does, tick it, save again."
        )
        self.told, self.agreed = told, mark([one.words for one in told])


class ChangedMeanwhile(Refused):
    """Somebody else changed the same settings since the page was shown."""


@dataclass(frozen=True)
class Changer:
    """Who changes, the state of these settings he has seen, and what he has agreed to."""

    by_id: int | None
    seen: str = ""
    agreed: str = ""


def change(values: dict[str, Any], changer: Changer) -> House:
    """Write some settings. The same values again change nothing.

    Raises BadInput for what would falsify a record, Asked for what must be agreed to,
    ChangedMeanwhile when another manager was faster.
    """
    with write():
        row = Shop.objects.select_for_update().first()
        now = House() if row is None else House.of(row)
        wanted = replace(now, **values)
        if row is not None and wanted == now:
            return now
        if changer.seen and changer.seen != state(now, values):
            raise ChangedMeanwhile(_by_whom(now, values))
        told = consequences(now, wanted, timezone.now())
        if wrong := [one for one in told if one.refuses]:
            raise BadInput(f"{wrong[0].field.capitalize()}: {wrong[0].words}")
        if told and changer.agreed != mark([one.words for one in told]):
            raise Asked(told)
        _write(wanted, changer.by_id)
    forget()
    return house()


def _write(wanted: House, by_id: int | None) -> None:
    row = Shop(id=1, **wanted.columns)
    row._state.adding = not Shop.objects.exists()
    must_fit(row)
    row._history_user = Person.objects.filter(pk=by_id).first()
    try:
        with write():
            row.save()
    except IntegrityError:
        raise ChangedMeanwhile(FIRST_TWICE) from None


def state(now: House, names: Iterable[str]) -> str:
    """A short mark of some settings: the same for the same values."""
    columns = now.columns
    return mark({name: columns[name] for name in sorted(names)})


def mark(what: Any) -> str:
    text = json.dumps(what, cls=DjangoJSONEncoder, ensure_ascii=False)
    return hashlib.sha256(text.encode()).hexdigest()[:16]


def _by_whom(now: House, values: dict[str, Any]) -> str:
    last = Shop.history.select_related("history_user").first()
    who = last.history_user if last else None
    return (
        f"{who or 'Somebody else'} has changed these settings since this page was shown. Nothing was"
        " lost: what you typed is still here, and beside it stands what holds now. Save again to"
        " put yours in its place."
    )
