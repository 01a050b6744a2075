"""Keeping what a ruler said of one piece, for the shape of those to come."""

from uuid import UUID

from django.utils import timezone

from cutting.quantities import Unit
from rooms.catalog.models import Piece
from rooms.catalog.queries.shapes import Shape
from rooms.common.db.writing import Sent, kept_by, write
from rooms.common.errors import BadInput
from rooms.layout.models import Measured
from rooms.layout.queries.asking import Asked

LEAST, MOST = 80, 130
"""Hundredths of a g/cm³: beyond them the ruler or the scale was misread."""


def keep_measures(
    piece: Piece, shape: Shape, asked: Asked, key: UUID, by_id: int | None
) -> Measured:
    """A row of its own; the same key again returns it. BadInput for measures that cannot be."""
    missing = [
        name
        for name, value in (
            ("Length", asked.length),
            ("Widest", asked.width),
            ("Highest", asked.height),
        )
        if not value
    ]
    if missing or asked.length is None or asked.width is None or asked.height is None:
        raise BadInput(f"{', '.join(missing)}: not measured; all three are right.")
    profile = shape.profile(asked.length, asked.width, asked.height)
    density = profile.density(asked.weight.to(Unit.G))
    if not LEAST <= density * 100 <= MOST:
        raise BadInput(
            f"Length, widest, highest: they would make {density:.2f} g/cm³; lean meat is 1.04 to"
            " 1.07. Measure again, or lay it out without keeping it."
        )
    row = Measured(
        key=key,
        piece=piece,
        part=shape.key,
        weight_value=asked.weight.value,
        weight_unit=asked.weight.unit.value,
        length=asked.length,
        width=asked.width,
        height=asked.height,
        at=timezone.now(),
        by_id=by_id,
    )
    names = ("piece_id", "part", "weight_value", "weight_unit", "length", "width", "height")
    values = {name: getattr(row, name) for name in names}
    sent = Sent(key, "measures", f"{asked.weight}, {asked.length} long", values)
    with write(key=sent, recorded=kept_by(Measured, key, *names)) as door:
        if door.first is not None:
            return door.first
        row.save(force_insert=True)
    return row
