"""What a page has seen of a row it edits, carried in its form and checked under the lock."""

import json
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from django.core import signing
from django.db.models import Model

from rooms.common.errors import BadInput, Difference, Overtaken

SALT = "seen"
HIDDEN = frozenset({"id", "password", "pin", "last_login", "revision"})
"""Columns whose values no page tells; that they changed is seen all the same."""


def state_of(row: Model) -> str:
    """Return the row as a page carries it: every column as text, signed."""
    return signing.dumps(_columns(row), salt=SALT, compress=True)


def _columns(row: Model) -> dict[str, str]:
    return {
        field.attname: _mark(field.attname, getattr(row, field.attname))
        for field in row._meta.concrete_fields
    }


def _mark(name: str, value: Any) -> str:
    if name in HIDDEN:
        return signing.Signer(salt=SALT).signature(str(value))[:12]
    if isinstance(value, list | dict):
        return json.dumps(value, sort_keys=True, ensure_ascii=False)
    return "" if value is None else str(value)


def row_seen(model: type[Model], seen: str) -> Model:
    """Return the row as the page showed it, not saved. Raises BadInput for a mark that is none."""
    kept = read_mark(seen) if seen else {}
    row = model()
    for field in row._meta.concrete_fields:
        text = kept.get(field.attname)
        if text is None or field.attname in HIDDEN:
            continue
        if isinstance(getattr(row, field.attname), list | dict):
            value = json.loads(text or "null")
        else:
            value = field.to_python(text) if text or not field.null else None
        setattr(row, field.attname, value)
    return row


def read_mark(seen: str) -> dict[str, str]:
    """Return the columns in a page's mark. Raises BadInput for one that is none."""
    try:
        return dict(signing.loads(seen, salt=SALT))
    except signing.BadSignature:
        raise BadInput("Page: it is damaged; open it again.") from None


@dataclass(frozen=True)
class Saw:
    """The row a page edits and what it has seen of it. `find` gives the row, locked; None for a new one."""

    find: Callable[[], Model | None]
    seen: str


def check_seen(saw: Saw) -> Model | None:
    """Return the row. Raises Overtaken where it is not as the page showed it, BadInput for a mark that is
    none. An empty mark is that of a row that was not there."""
    row = saw.find()
    before = read_mark(saw.seen) if saw.seen else {}
    if row is None or row._state.adding:
        return row
    now = _columns(row)
    if before != now:
        raise Overtaken(row, differences(row, before, now), state_of(row))
    return row


def differences(row: Model, before: dict[str, str], now: dict[str, str]) -> list[Difference]:
    """Return the fields that differ, by the names that forms give them."""
    found = []
    for field in row._meta.concrete_fields:
        was, is_now = before.get(field.attname, ""), now.get(field.attname, "")
        if was == is_now:
            continue
        name = str(field.verbose_name).capitalize()
        hidden = field.attname in HIDDEN
        found.append(
            Difference(name, "as before" if hidden else was, "changed" if hidden else is_now)
        )
    return found
