"""What a batch of a blend may be called."""

from collections.abc import Mapping
from decimal import Decimal
from typing import Any

from cutting.grinding.blend import BatchFigures, Blend
from cutting.grinding.names import Made, Named, refused_name
from cutting.quantities import Unit, Weight
from formats.blend import read_blend
from rooms.catalog.models import Primal
from rooms.grinder.models import GrinderRules
from rooms.grinder.queries.house import tightened


def figures_of(blend: Blend, answer: Mapping[str, Any]) -> BatchFigures:
    """One batch of an answer."""
    numbers = {tub.name: t for t, tub in enumerate(blend.tubs)}
    takes = {
        numbers[row["tub"]]: Weight(
            Decimal(row["weight"]["value"]), Unit(row["weight"]["unit"])
        ).to(Unit.LB)
        for row in answer["take"]
    }
    fat, spread = Decimal(answer["fat"]), Decimal(answer["fat_sd"])
    return BatchFigures(takes, fat, spread, None, Decimal(answer["cost"]))


def made_of(document: Mapping[str, Any], blend: Blend, figures: BatchFigures) -> Made:
    """With the grades of the lots in its tubs, where the document carries them."""
    grades = {row["name"]: row["grades"] for row in document["tubs"] if "grades" in row}
    return Made.of(blend, figures, grades)


def refused_in(
    document: Mapping[str, Any], number: int, answer: Mapping[str, Any], rules: GrinderRules
) -> Named | None:
    """What stands against the name of one batch; None where nothing does: one query."""
    blend = read_blend(dict(document))
    made = made_of(document, blend, figures_of(blend, answer))
    primals = [name.lower() for name in Primal.objects.values_list("name", flat=True)]
    return refused_name(document["batches"][number]["name"], made, primals, tightened(rules))
