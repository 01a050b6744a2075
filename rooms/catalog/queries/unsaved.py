"""A piece's document as a guide, before anything is saved: what the preview shows."""

from typing import Any

from rooms.catalog.models import Cut, Piece, Plan, PlanOutput, Primal, Step
from rooms.catalog.queries.guide import Guide, Rows, shape
from rooms.catalog.queries.rows import piece_rows


def guide_of(key: str, piece: dict[str, Any], plan: str = "", step: str = "") -> Guide:
    """The guide this document would give: one query for its cuts.

    `plan` is a key; `step` is the key of the step to light.
    """
    rows: dict[type, list[Any]] = {Piece: [], Step: [], Plan: [], PlanOutput: []}
    used = {o["cut"] for p in piece["plans"] for o in p["outputs"] if o.get("cut")}
    cuts = {c.key: c for c in Cut.objects.filter(key__in=used).select_related("muscle")}
    for model, (identity, fields) in piece_rows(key, piece, 0):
        values = dict(fields)
        if model is Piece:
            values["primal"] = Primal(key=values["primal"])
        if model is PlanOutput:
            values["cut"] = cuts.get(values["cut"])
        row = model(key=identity[-1], **values)
        row.belongs = identity[:-1]
        rows[model].append(row)
    plans = rows[Plan]
    chosen = next((p for p in plans if p.key == plan), plans[0] if plans else None)
    outputs = [o for o in rows[PlanOutput] if chosen and o.belongs[-1] == chosen.key]
    mine = [s for s in rows[Step] if s.is_in(chosen)]
    number = next((i for i, s in enumerate(mine, start=1) if s.key == step), 0)
    return shape(Rows(rows[Piece][0], rows[Step], plans, outputs), chosen, str(number))
