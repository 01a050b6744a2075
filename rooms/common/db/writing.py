"""The one door for writing: every action that changes the database opens its transaction by `write`.

Writers queue. SQLite's own waiting sleeps ever longer between tries, so that with ten tablets the unlucky
one waits a quarter of a second; a lock on a file beside the database wakes the next writer at once. Writers
that do not come this way are kept out by SQLite (docs/decisions/0035-one-door-for-writing.md).

- `key`: what was sent, under the key of its request. Sent again it is answered as the first time; with other
  content it is refused (`KeyTaken`).
- `saw`: the row as the page showed it. Refused (`Overtaken`) where somebody changed it since.
"""

import fcntl
import hashlib
import json
import os
from collections.abc import Callable, Iterator, Mapping
from contextlib import contextmanager
from contextvars import ContextVar
from dataclasses import dataclass, field
from datetime import UTC, date, datetime
from decimal import Decimal
from enum import Enum
from typing import Any
from uuid import UUID

from django.db import connection, models, transaction

from cutting.quantities import UnitPrice, Weight
from rooms.common.db.seen import Saw, check_seen
from rooms.common.errors import KeyTaken
from rooms.common.models import SentKey

VERSION = 1
"""Of what digests are made of. Raise it when an action's values change their meaning."""
LONGEST_WORDS = 300


@dataclass(frozen=True)
class Sent:
    """What a request means, under its key: the parsed values, never the text as it was typed.

    `values` hold what is meant (test, pile as sent, weight with its unit), never who is signed in or what
    the page had seen. `words` tell it to a person: "3.00 lb, Center filet".
    """

    key: UUID
    action: str
    words: str
    values: Mapping[str, Any]

    @property
    def digest(self) -> str:
        text = json.dumps(_plain(self.values), sort_keys=True, ensure_ascii=False)
        return hashlib.sha256(f"{VERSION} {self.action} {text}".encode()).hexdigest()


@dataclass(frozen=True)
class Recorded:
    """The row that a key made. `values`: what was first recorded, for rows older than their digest; None
    where that cannot be known, which counts as the same."""

    row: Any
    values: Mapping[str, Any] | None = None


def kept_by(
    model: type[models.Model], key: UUID, *names: str, by: str = "key", **columns: str
) -> Callable[[], Recorded | None]:
    """Find the row that a key made. `names`: its columns that hold what was sent, by the names of the sent
    values, for rows older than their digest; `columns` where the value has another name than its column.
    Without them such a row counts as the same."""

    def recorded() -> Recorded | None:
        row = model._default_manager.filter(**{by: key}).first()
        if row is None:
            return None
        kept = {name: name for name in names} | columns
        return Recorded(row, {name: getattr(row, own) for name, own in kept.items()} or None)

    return recorded


@dataclass
class Door:
    """An open transaction. `first`: what the same key made before; None the first time."""

    first: Any = None
    row: Any = None
    """The row of `saw`, locked and unchanged since the page was shown."""
    sent: list[Sent] = field(default_factory=list)


_DEPTH: ContextVar[int] = ContextVar("open doors", default=0)
_REPEATED: ContextVar[datetime | None] = ContextVar("repeated", default=None)


def is_open() -> bool:
    """Return whether a `write` block is open in this thread."""
    return _DEPTH.get() > 0


def repeated_at() -> datetime | None:
    """Return when the key of this request was first recorded; None for a request that was not a repeat."""
    return _REPEATED.get()


def forget_repeats() -> None:
    """Start a request with no repeat."""
    _REPEATED.set(None)


@contextmanager
def write(
    *,
    key: Sent | None = None,
    recorded: Callable[[], Recorded | None] = lambda: None,
    saw: Saw | None = None,
) -> Iterator[Door]:
    """Open a transaction that queues with other writers; on disk when the block ends.

    `recorded` finds what the key made before. Raises KeyTaken for a key that came with other content,
    Overtaken where the row of `saw` changed since the page was shown.
    """
    token = _DEPTH.set(_DEPTH.get() + 1)
    try:
        with _queue(), transaction.atomic():
            door = Door()
            if key is not None:
                door.first = _first(key, recorded)
            if saw is not None and door.first is None:
                door.row = check_seen(saw)
            yield door
    finally:
        _DEPTH.reset(token)


@contextmanager
def savepoint() -> Iterator[None]:
    """Take back what the block wrote when it raises; the transaction of the open door goes on."""
    if not is_open():
        raise RuntimeError("a savepoint stands inside a write block")
    with transaction.atomic():
        yield


def _first(sent: Sent, recorded: Callable[[], Recorded | None]) -> Any:
    """Return the row that the key made before; None for a new key. Raises KeyTaken."""
    added = _add(sent)
    found = recorded()
    if added:
        if found is None:
            return None
        # A row older than its digest: what it first recorded says whether this is the same.
        if (
            found.values is not None
            and Sent(sent.key, sent.action, "", found.values).digest != sent.digest
        ):
            raise KeyTaken(_at_of(found.row), str(found.row), found.row, sent=sent.words)
        _repeat(_at_of(found.row))
        return found.row
    kept = SentKey.objects.get(action=sent.action, key=sent.key)
    row = found.row if found is not None else None
    if kept.version == VERSION and kept.digest != sent.digest:
        raise KeyTaken(kept.at, kept.words, row, sent=sent.words)
    _repeat(kept.at)
    return row if row is not None else kept


def _repeat(at: datetime | None) -> None:
    _REPEATED.set(at or datetime.now(UTC))


def _at_of(row: Any) -> datetime | None:
    for name in ("taken_at", "packed_at", "begun_at", "started_at", "at", "made_at", "came_at"):
        at = getattr(row, name, None)
        if isinstance(at, datetime):
            return at
    return None


_ADD = (
    "INSERT INTO common_sentkey (action, key, digest, version, words, at) VALUES (%s, %s, %s, %s, %s, %s)"
    " ON CONFLICT (action, key) DO NOTHING RETURNING id"
)
"""One statement says whether the key is new: nobody else can come between asking and adding."""


def _add(sent: Sent) -> bool:
    """Add the key; return whether it is new."""
    at = connection.ops.adapt_datetimefield_value(datetime.now(UTC))
    key = sent.key if connection.features.has_native_uuid_field else sent.key.hex
    values = [sent.action, key, sent.digest, VERSION, sent.words[:LONGEST_WORDS], at]
    with connection.cursor() as cursor:
        cursor.execute(_ADD, values)
        return cursor.fetchone() is not None


def _plain(value: Any) -> Any:
    """Return a value as JSON tells it, the same for the same meaning: 3.0 and 3.00 are one weight."""
    told = next((tell for kinds, tell in _TOLD if isinstance(value, kinds)), None)
    return value if told is None else told(value)


_TOLD: tuple[tuple[Any, Callable[[Any], Any]], ...] = (
    (Enum, lambda value: value.value),
    (str, str),
    (Decimal, lambda value: f"{value.normalize():f}" if value else "0"),
    (Weight, lambda value: [_plain(value.value), value.unit.value]),
    (UnitPrice, lambda value: [_plain(value.amount), value.per.value]),
    (UUID, lambda value: value.hex),
    (date, lambda value: value.isoformat()),  # a moment is a date too
    (models.Model, lambda value: _plain(value.pk)),
    (Mapping, lambda value: {str(name): _plain(each) for name, each in value.items()}),
    ((set, frozenset), lambda value: sorted((_plain(each) for each in value), key=str)),
    ((list, tuple), lambda value: [_plain(each) for each in value]),
)
"""How each kind of value is told, the first that fits; numbers, truth and nothing are JSON's own."""


@contextmanager
def _queue() -> Iterator[None]:
    name = str(connection.settings_dict["NAME"])
    if connection.vendor != "sqlite" or connection.in_atomic_block or "memory" in name:
        yield
        return
    connection.ensure_connection()  # no lock beside a database that is not there
    file = os.open(f"{name}.turn", os.O_CREAT | os.O_RDWR, 0o600)
    try:
        fcntl.flock(file, fcntl.LOCK_EX)
        yield
    finally:
        os.close(file)  # which gives the lock back, whatever happened
