"""What the shop's measured pieces say of a shape: longer or flatter than it ships."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from decimal import Decimal
from statistics import median

from cutting.quantities import Unit, Weight, working
from rooms.catalog.models import Piece
from rooms.layout.models import Measured
from rooms.layout.rules.shapes import Shape, length_of

LOOKS_BACK = 30


@dataclass(frozen=True)
class Pooled:
    """A shape with the medians of the last measured pieces, and how many those are."""

    shape: Shape
    pieces: int


def pooled(piece: Piece, shape: Shape, usual: Weight | None) -> Pooled:
    """One query. A median, so that one slip of the ruler does not bend it."""
    rows = list(Measured.objects.filter(piece=piece)[:LOOKS_BACK])
    return Pooled(of_rows(rows, shape, usual), len(rows))


def of_rows(rows: Sequence[Measured], shape: Shape, usual: Weight | None) -> Shape:
    if not rows:
        return shape
    with working():
        longer = median(
            row.length / length_of(shape, Weight(row.weight_value, Unit(row.weight_unit)), usual)
            for row in rows
        )
        aspect = median(row.width / row.height for row in rows)
        return replace(shape, length=shape.length * Decimal(longer), aspect=Decimal(aspect))
