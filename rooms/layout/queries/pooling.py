"""What the shop's own pieces say of a shape: longer, flatter or fuller at one end than it ships."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from decimal import Decimal
from statistics import median

from cutting.layout.follow import Fit, centre_of
from cutting.quantities import Unit, Weight, working
from rooms.catalog.models import Piece
from rooms.catalog.queries.shapes import Shape, length_of
from rooms.layout.models import CameOut, Measured

LOOKS_BACK = 30
FEWEST_CUT = 3
"""Tests whose portions came out, before the shape follows them: one may have been a slip."""


@dataclass(frozen=True)
class Pooled:
    """A shape with the medians of the last pieces: how many were measured, how many were cut, and
    what those that were cut have changed."""

    shape: Shape
    measured: int
    cut: int
    fit: Fit

    @property
    def words(self) -> str:
        """What the shape rests on; nothing where it is the shipped one."""
        found = []
        if self.measured:
            found.append(f"{self.measured} piece{'' if self.measured == 1 else 's'} measured")
        if self.cut >= FEWEST_CUT:
            found.append(f"{self.cut} cut")
        return " and ".join(found)


def pooled(piece: Piece, shape: Shape, usual: Weight | None) -> Pooled:
    """Two queries. Medians, so that one slip of the ruler or the knife does not bend them."""
    measured = list(Measured.objects.filter(piece=piece, part=shape.key)[:LOOKS_BACK])
    came = list(CameOut.objects.filter(piece=piece, part=shape.key)[:LOOKS_BACK])
    found = of_measured(measured, shape, usual)
    fit = of_cut(came, is_measured=bool(measured)) if len(came) >= FEWEST_CUT else Fit()
    return Pooled(as_cut(found, fit), len(measured), len(came), fit)


def of_measured(rows: Sequence[Measured], shape: Shape, usual: Weight | None) -> Shape:
    if not rows:
        return shape
    with working():
        longer = median(
            row.length / length_of(shape, Weight(row.weight_value, Unit(row.weight_unit)), usual)
            for row in rows
        )
        aspect = median(row.width / row.height for row in rows)
        return replace(shape, length=shape.length * Decimal(longer), aspect=Decimal(aspect))


def of_cut(rows: Sequence[CameOut], *, is_measured: bool) -> Fit:
    """`is_measured`: a ruler has said how long they are, so that only the tilt is taken."""
    scales = [row.scale for row in rows if row.scale is not None]
    scale = Decimal(1) if is_measured or not scales else Decimal(median(scales))
    return Fit(scale, Decimal(median(row.tilt for row in rows)))


def as_cut(shape: Shape, fit: Fit) -> Shape:
    """The shape shorter where a length weighs more, and wider at its heavier end."""
    if fit == Fit():
        return shape
    centre = Decimal(
        repr(round(centre_of(shape.profile(Decimal(1000), shape.aspect * 100, Decimal(100))), 6))
    )
    with working():
        stations = tuple(
            (share, wide * (1 + fit.tilt * (share - centre)), high)
            for share, wide, high in shape.stations
        )
        return replace(shape, length=shape.length / fit.scale, stations=stations)
