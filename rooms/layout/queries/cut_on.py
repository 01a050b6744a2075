"""Where the whole pieces that a plan gives are laid out in turn."""

from dataclasses import dataclass
from decimal import Decimal
from urllib.parse import urlencode

from django.urls import reverse

from cutting.quantities import Weight, round_half_up, working
from rooms.catalog.models import Piece, Plan
from rooms.catalog.queries.shapes import Shape, shapes


@dataclass(frozen=True)
class CutOn:
    """A whole piece that a plan gives, and the address of its own layout."""

    name: str
    weight: Weight
    address: str


def cut_on(plan: Plan | None, shape: Shape, weight: Weight) -> list[CutOn]:
    """Return the pieces of a plan that are cut on and whose shape is known, at their usual share: two queries,
    none without a plan. `weight`: of the part that is laid out."""
    if plan is None:
        return []
    rows = [row for row in plan.outputs.exclude(goes_on="") if row.share]
    keys = [row.goes_on.partition("/") for row in rows]
    there = Piece.objects.filter(key__in=[key for key, _, _ in keys if key in shapes()])
    known = set(there.values_list("key", flat=True)) if keys else set()
    found = []
    with working():
        for row, (key, _, plan_key) in zip(rows, keys, strict=True):
            if key not in known:
                continue
            whole = weight.value / (shape.share or Decimal(1))
            own = Weight(round_half_up(whole * row.share, 2), weight.unit)
            if own.value <= 0:
                continue
            asked = {"plan": plan_key, "weight": f"{own.value:f}", "unit": own.unit.value}
            address = f"{reverse('layout:piece', args=[key])}?{urlencode(asked)}"
            found.append(CutOn(row.name, own, address))
    return found
