"""Who changed what in the catalog, read from the history of its rows."""

from dataclasses import dataclass
from datetime import datetime
from typing import Any

from rooms.catalog.models import Cut, Muscle, Piece, Plan, PlanOutput, Step

WATCHED = (Piece, Step, Plan, PlanOutput, Cut, Muscle)
NOT_SHOWN = {"id", "position", "key", "piece", "plan"}
MOST = 200


@dataclass(frozen=True)
class ChangedRow:
    """One change: when, who, what, and the values before and after."""

    at: datetime
    by: str
    what: str
    kind: str
    values: list[tuple[str, object, object]]


def changes_of_piece(piece: Piece) -> list[ChangedRow]:
    """The changes of a piece, its steps, plans and outputs: eight queries, newest first."""
    lines = []
    for model, rows in (
        (Piece, Piece.history.filter(id=piece.pk)),
        (Step, Step.history.filter(piece_id=piece.pk)),
        (Plan, Plan.history.filter(piece_id=piece.pk)),
        (
            PlanOutput,
            PlanOutput.history.filter(plan_id__in=Plan.everything.filter(piece=piece).values("pk")),
        ),
    ):
        lines += _lines(model, rows)
    return sorted(lines, key=lambda line: line.at, reverse=True)


def all_changes() -> list[ChangedRow]:
    """The last changes people made anywhere: two queries for each kind of row."""
    lines: list[ChangedRow] = []
    for model in WATCHED:
        touched = model.history.exclude(history_change_reason="shipped").values("id")
        lines += _lines(model, model.history.filter(id__in=touched))
    return sorted(lines, key=lambda line: line.at, reverse=True)[:MOST]


def _lines(model: Any, rows: Any) -> list[ChangedRow]:
    """Each record against the one before it; what came with the data files is not a line."""
    before: dict[int, Any] = {}
    lines = []
    for row in rows.select_related("history_user").order_by("history_date", "history_id"):
        earlier = before.get(row.id)
        before[row.id] = row
        if row.history_change_reason == "shipped":
            continue
        values = _values(model, row, earlier)
        if values or earlier is None:
            kind = f"{model._meta.verbose_name} {'changed' if earlier else 'added'}"
            title = getattr(row, "title", "") or row.name
            by = str(row.history_user) if row.history_user else "nobody named"
            lines.append(ChangedRow(row.history_date, by, title, kind, values))
    return lines


def _values(model: Any, row: Any, earlier: Any) -> list[tuple[str, object, object]]:
    """What a record says otherwise than the one before; of the first one, what it says at all."""
    shown = {
        f.name: f
        for f in model._meta.concrete_fields
        if f.editable and f.name not in NOT_SHOWN and hasattr(row, f.attname)
    }
    if earlier is None:
        return [
            (field.verbose_name, "", getattr(row, field.attname))
            for field in shown.values()
            if getattr(row, field.attname) not in ("", None, [], False)
        ]
    found = {one.field: one for one in row.diff_against(earlier, included_fields=shown).changes}
    return [
        (field.verbose_name, found[name].old, found[name].new)
        for name, field in shown.items()
        if name in found
    ]
