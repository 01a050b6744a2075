"""Writing rows of a document into the database, only where they differ.

Two ways: an update of the shipped data leaves alone what the shop has changed; an import by a
person changes what the file says, and each change is kept in the history.
"""

from collections.abc import Callable
from dataclasses import dataclass, field
from datetime import datetime
from typing import Any

from django.core.serializers.json import DjangoJSONEncoder
from django.db.models import CharField, Value
from django.db.models.functions import Cast, Concat
from django.utils import timezone
from simple_history.utils import bulk_create_with_history, bulk_update_with_history

from cutting.errors import BadValue
from rooms.catalog.models import Named, Piece, PlanOutput, Primal, Step, search_text
from rooms.catalog.queries.drawings import drawing_of
from rooms.catalog.queries.rows import MODELS, REFERENCES, Row
from rooms.catalog.signals import pieces_changed
from rooms.staff.models import Person

BATCH = 500
PARENTS = {"Step": "piece", "Plan": "piece", "PlanOutput": "plan"}


@dataclass
class Loaded:
    """How many rows were written; all 0 when nothing differed."""

    added: int = 0
    changed: int = 0
    kept: int = 0
    """Shipped values that changed where the shop has its own: the shop's stand."""

    def __bool__(self) -> bool:
        return bool(self.added or self.changed)


@dataclass
class Change:
    """Whose change it is. `reason` is kept in the history."""

    is_import: bool
    reason: str
    by_id: int | None = None
    at: datetime = field(default_factory=timezone.now)


class Merge:
    """One pass of a document's rows over the catalog."""

    def __init__(self, change: Change) -> None:
        self.change = change
        self.loaded = Loaded()
        self.known: dict[Any, dict[tuple[Any, ...], Any]] = {}

    def run(self, rows: dict[Any, list[Row]]) -> Loaded:
        """Seven queries to read, two or three for each model that differs."""
        for model in MODELS:
            self.known[model] = _by_key(model, self.known)
        for model in MODELS:
            self._model(model, rows)
        if not self.change.is_import:
            self._write(Step, [], self._unlit())
        return self.loaded

    def _unlit(self) -> list[Step]:
        """Steps that light what their piece's drawing no longer shows, without it: a shop's own steps
        after an update of the drawing, an updated step beside a shop's own drawing."""
        found, keys = [], {}
        for key, step in self.known[Step].items():
            piece = self.known[Piece][key[:1]]
            if key[0] not in keys:
                keys[key[0]] = _keys_of(piece)
            shown = keys[key[0]]
            if shown is not None and not shown.issuperset(step.touches):
                step.touches = [one for one in step.touches if one in shown]
                found.append(step)
        return found

    def _model(self, model: Any, rows: dict[Any, list[Row]]) -> None:
        known = self.known[model]
        new: list[Any] = []
        changed: list[Any] = []
        merge = self._imported if self.change.is_import else self._updated
        given = {key for key, _ in rows[model]}
        leaving = [row for key, row in known.items() if self._leaves(model, key, given, rows)]
        for key, fields in rows[model]:
            values = self._resolved(fields)
            row = known.get(key)
            if row is None:
                row = model(**self._identity(model, key), **values)
                row.shipped = None if self.change.is_import else _plain(values)
                known[key] = row
                new.append(row)
            elif merge(row, values):
                changed.append(row)
        for row in leaving:
            row.is_dropped = True
            if row.shipped is not None and not self.change.is_import:
                row.shipped = {**row.shipped, "is_dropped": True}
        self._write(model, [], leaving)  # their names are free then
        if model is PlanOutput:
            _free_names(changed)
        self._write(model, new, changed)

    def _leaves(
        self,
        model: Any,
        key: tuple[Any, ...],
        given: set[tuple[Any, ...]],
        rows: dict[Any, list[Row]],
    ) -> bool:
        """Whether a row in use that the document does not name goes out of use.

        An import speaks only for the pieces and plans it names, an update for all it shipped.
        """
        row = self.known[model][key]
        if key in given or row.is_dropped:
            return False
        if not self.change.is_import:
            return row.shipped is not None and not edited(row)
        parent = PARENTS.get(model.__name__)
        return parent is not None and key[:-1] in {k for k, _ in rows[REFERENCES[parent]]}

    def _identity(self, model: Any, key: tuple[Any, ...]) -> dict[str, Any]:
        parent = PARENTS.get(model.__name__)
        if parent is None:
            return {"key": key[0]}
        return {"key": key[-1], parent: self.known[REFERENCES[parent]][key[:-1]]}

    def _resolved(self, fields: dict[str, Any]) -> dict[str, Any]:
        """References as rows' ids; everything is in use unless it says otherwise."""
        values: dict[str, Any] = {"is_dropped": False}
        for name, value in fields.items():
            if name in REFERENCES:
                row = self.known[REFERENCES[name]].get((value,)) if value else None
                values[f"{name}_id"] = row.pk if row else None
            else:
                values[name] = value
        return values

    def _imported(self, row: Any, values: dict[str, Any]) -> bool:
        """Take over what the document says; the place of a known piece or primal stays."""
        if type(row) in (Piece, Primal):
            values = {name: value for name, value in values.items() if name != "position"}
        differing = [name for name, value in values.items() if getattr(row, name) != value]
        for name in differing:
            setattr(row, name, values[name])
        return bool(differing)

    def _updated(self, row: Any, values: dict[str, Any]) -> bool:
        """Take over shipped values where the shop has not put its own."""
        before, now = row.shipped, _plain(values)
        if before == now or before is None:
            return False
        held = edited(row)
        for name, value in values.items():
            if name not in held:
                setattr(row, name, value)
            elif now[name] != before.get(name):
                self.loaded.kept += 1
        row.shipped = now
        return True

    def _write(self, model: Any, new: list[Any], changed: list[Any]) -> None:
        """Several rows at once, each with a line in the history."""
        for row in (*new, *changed):
            if isinstance(row, Named):
                row.search = search_text(row)
        self.loaded.added += len(new)
        self.loaded.changed += len(changed)
        names = [f.name for f in model._meta.concrete_fields if not f.primary_key]
        if not hasattr(model, "history"):
            model.everything.bulk_create(new, batch_size=BATCH)
            if changed:
                model.everything.bulk_update(changed, names, batch_size=BATCH)
            return
        how = {
            "default_user": self.change.by_id and Person(pk=self.change.by_id),
            "default_date": self.change.at,
            "default_change_reason": self.change.reason,
            "batch_size": BATCH,
            "manager": model.everything,
        }
        if changed:
            bulk_update_with_history(changed, model, names, **how)
            if model is Piece:
                pieces_changed.send(model)
        del how["manager"]
        if new:
            bulk_create_with_history(new, model, **how)


def _keys_of(piece: Piece) -> frozenset[str] | None:
    """What a piece's drawing shows; None where it has none that can be drawn."""
    try:
        return drawing_of(piece.key, piece.drawing).keys if piece.drawing else None
    except BadValue:
        return None


def _free_names(changed: list[PlanOutput]) -> None:
    """Two outputs may have swapped their names: each lets go of its old one first."""
    PlanOutput.everything.filter(pk__in=[row.pk for row in changed]).update(
        name=Concat(Value("\N{HORIZONTAL ELLIPSIS}"), Cast("pk", CharField()))
    )


def edited(row: Any) -> set[str]:
    """The fields in which a shipped row differs from what was shipped: the shop's own."""
    return {
        name
        for name, value in (row.shipped or {}).items()
        if _plain({name: getattr(row, name)})[name] != value
    }


def _plain(values: dict[str, Any]) -> dict[str, Any]:
    """Values as JSON would give them back."""
    encode: Callable[..., Any] = DjangoJSONEncoder().default
    return {
        name: value if isinstance(value, str | int | list | dict | type(None)) else encode(value)
        for name, value in values.items()
    }


def _by_key(model: Any, known: dict[Any, dict[tuple[Any, ...], Any]]) -> dict[tuple[Any, ...], Any]:
    """Every row by its key, with its parents set from those already read: one query."""
    parent = PARENTS.get(model.__name__)
    if parent is None:
        return {(row.key,): row for row in model.everything.all()}
    parents = {row.pk: (key, row) for key, row in known[REFERENCES[parent]].items()}
    found = {}
    for row in model.everything.all():
        key, above = parents[getattr(row, f"{parent}_id")]
        setattr(row, parent, above)
        found[(*key, row.key)] = row
    return found
