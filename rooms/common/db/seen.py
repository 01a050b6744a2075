"""What a page has seen of what it edits, carried in its form and checked under the lock.

- A form that shows a row carries the whole row: `state_of`, checked by `check_seen`.
- A form that enters a row beside a list, or replaces the one of its name, carries how far the history of the
  list went: `last_change`, checked by `check_unchanged`.
"""

import json
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Any

from django.core import signing
from django.db.models import Max, Model

from rooms.common.errors import BadInput, Difference, Overtaken

SALT = "seen"
HIDDEN = frozenset({"id", "password", "pin", "revision"})
"""Columns whose values no page tells; that they changed is seen all the same."""
NO_EDIT = frozenset({"last_login"})
"""Columns that change without anybody's edit."""


def state_of(row: Model) -> str:
    """Return the row as a page carries it: every column as text, signed."""
    return signing.dumps(_columns(row), salt=SALT, compress=True)


def _columns(row: Model) -> dict[str, str]:
    found = {
        field.attname: _mark(field.attname, getattr(row, field.attname))
        for field in row._meta.concrete_fields
        if field.attname not in NO_EDIT
    }
    if row.pk is not None:
        for many in row._meta.many_to_many:
            found[many.name] = json.dumps(chosen_of(row, many.name))
    return found


def chosen_of(row: Model, name: str) -> list[Any]:
    """Return the ids that a many-to-many field of a row holds, also of one that `row_seen` made."""
    kept: dict[str, list[Any]] = row.__dict__.get("chosen_then", {})
    if name in kept:
        return kept[name]
    if row.pk is None:
        return []
    return sorted(getattr(row, name).values_list("pk", flat=True))


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
        if field.get_internal_type() == "JSONField":
            value = json.loads(text or "null")
        else:
            value = field.to_python(text) if text or not field.null else None
        setattr(row, field.attname, value)
    row.__dict__["chosen_then"] = {
        many.name: json.loads(kept[many.name])
        for many in row._meta.many_to_many
        if many.name in kept
    }
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
    """Return the fields that differ, in words."""
    found = []
    for field in (*row._meta.concrete_fields, *row._meta.many_to_many):
        key = field.name if field.many_to_many else field.attname
        was, is_now = before.get(key, ""), now.get(key, "")
        if was == is_now:
            continue
        if key in HIDDEN or field.many_to_many:
            was, is_now = "as before", "changed"
        else:
            was, is_now = _words(field, was), _words(field, is_now)
        name = str(field.verbose_name)
        found.append(Difference(name[:1].upper() + name[1:], was, is_now))
    return found


def _words(field: Any, text: str) -> str:
    """A column's text as a person reads it: the other row's name, the word of a choice, yes or no."""
    if field.is_relation and text and field.related_model:
        return str(field.related_model._base_manager.filter(pk=text).first() or text)
    if field.get_internal_type() == "BooleanField":
        return {"True": "yes", "False": "no"}.get(text, text)
    return str(dict(field.flatchoices).get(text, text)) if field.choices else text


def is_so(row: Model, columns: Mapping[str, Any]) -> bool:
    """Return whether a row that is there has these values already: the same press again."""
    return not row._state.adding and all(getattr(row, key) == own for key, own in columns.items())


# --- a list -----------------------------------------------------------------------------


def last_change(model: Any) -> int:
    """Return how far the history of a model goes; 0 while nothing changed."""
    return int(model.history.aggregate(last=Max("history_id"))["last"] or 0)


def check_unchanged(model: Any, seen: int | None, values: Mapping[str, Any], **of: Any) -> None:
    """Raise Overtaken where the row `of` a list was changed or entered since the history went as far as
    `seen`, unless it has these `values` already. None stands for an action that no page sent."""
    if seen is None:
        return
    records = model.history.filter(**of).order_by("-history_id")
    newest = records.first()
    if newest is None or newest.history_id <= seen:
        return
    is_there = newest.history_type != "-"
    if is_there and all(getattr(newest, name) == value for name, value in values.items()):
        return
    before = records.filter(history_id__lte=seen).first()
    was = _columns_of(before, model)
    now = _columns_of(newest, model) if is_there else {}
    raise Overtaken(
        newest.instance, differences(newest.instance, was, now), str(last_change(model))
    )


def _columns_of(record: Any, model: type[Model]) -> dict[str, str]:
    if record is None or record.history_type == "-":
        return {}
    names = [field.attname for field in model._meta.concrete_fields if field.attname != "id"]
    return {name: _mark(name, getattr(record, name)) for name in names if hasattr(record, name)}
