"""Who changed what in the catalog, read from the history of its rows."""

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import datetime

from rooms.catalog.models import Cut, Muscle, Piece, Plan, PlanOutput, Step

WATCHED = (Piece, Step, Plan, PlanOutput, Cut, Muscle)
NOT_SHOWN = {
    "id",
    "history_id",
    "history_date",
    "history_user_id",
    "history_type",
    "history_change_reason",
    "position",
    "key",
    "piece_id",
    "plan_id",
}
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


def _lines(model: type, rows: Iterable) -> list[ChangedRow]:
    """Each record against the one before it; what came with the data files is not a line."""
    before: dict[int, object] = {}
    lines = []
    named = {f.attname: f for f in model._meta.concrete_fields}
    for row in rows.select_related("history_user").order_by("history_date", "history_id"):
        earlier = before.get(row.id)
        before[row.id] = row
        if row.history_change_reason == "shipped":
            continue
        values = [
            (named[name].verbose_name, getattr(earlier, name, ""), getattr(row, name))
            for name in named
            if name not in NOT_SHOWN
            and hasattr(row, name)
            and getattr(earlier, name, "") != getattr(row, name)
            and not (earlier is None and getattr(row, name) in ("", None, [], False))
        ]
        if values or earlier is None:
            kind = f"{model._meta.verbose_name} {'changed' if earlier else 'added'}"
            title = getattr(row, "title", "") or row.name
            by = str(row.history_user) if row.history_user else "nobody named"
            lines.append(ChangedRow(row.history_date, by, title, kind, values))
    return lines
