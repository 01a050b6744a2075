"""Loading the shipped catalog. Loading it twice changes nothing."""

from dataclasses import dataclass

from django.db import transaction

from rooms.catalog import shipped
from rooms.catalog.models import Cut, Piece, Plan, PlanOutput


@dataclass
class Loaded:
    """How many rows were written; both 0 when the data was already there."""

    added: int = 0
    changed: int = 0


@transaction.atomic
def load_catalog() -> Loaded:
    """Bring cuts, pieces and plans in line with the shipped files."""
    loaded = Loaded()
    cuts = {
        key: _keep(loaded, Cut, {"key": key}, {"muscle": "", **fields})
        for key, fields in shipped.cuts().items()
    }
    for position, piece in enumerate(shipped.pieces()):
        row = _keep(loaded, Piece, {"key": piece.key}, {**piece.fields, "position": position})
        for place, plan in enumerate(piece.plans):
            kept = _keep(
                loaded,
                Plan,
                {"piece": row, "key": plan.key},
                {"name": plan.name, "is_sawn": plan.is_sawn, "position": place},
            )
            _keep_outputs(loaded, kept, plan, cuts)
    return loaded


def _keep_outputs(loaded: Loaded, kept: Plan, plan: shipped.ShippedPlan, cuts: dict) -> None:
    PlanOutput.objects.filter(plan=kept, position__gte=len(plan.outputs)).delete()
    for position, output in enumerate(plan.outputs):
        _keep(
            loaded,
            PlanOutput,
            {"plan": kept, "position": position},
            {
                "name": output.name,
                "pile": output.pile.value,
                "role": output.role.value,
                "share": output.share,
                "cut": cuts[output.cut] if output.cut else None,
                "target_value": output.target.value if output.target else None,
                "target_unit": output.target.unit.value if output.target else "",
                "is_counted": output.is_counted,
                "in_case": output.in_case,
            },
        )


def _keep(loaded: Loaded, model, identity: dict, fields: dict):
    """Write only what differs."""
    row = model.objects.filter(**identity).first()
    if row is None:
        loaded.added += 1
        return model.objects.create(**identity, **fields)
    if any(getattr(row, name) != value for name, value in fields.items()):
        loaded.changed += 1
        for name, value in fields.items():
            setattr(row, name, value)
        row.save()
    return row
