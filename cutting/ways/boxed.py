"""A carcass piece against the same pieces bought in boxes: by money, labor and freight.

Common practice, no published source.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from decimal import Decimal

from cutting.errors import BadValue
from cutting.quantities import ONE, ZERO, UnitPrice, working
from cutting.sheet.cutting_test import Piece
from cutting.sheet.time_spent import wages


@dataclass(frozen=True, slots=True)
class BoxedPiece:
    """A piece that the carcass piece gives and that boxes give too. `share`: of the carcass piece; `price`: of
    the box, None where nobody knows it."""

    name: str
    share: Decimal
    price: UnitPrice | None = None

    def __post_init__(self) -> None:
        if not ZERO < self.share <= ONE:
            raise BadValue(self.name, f"a share of {self.share}", "above 0 and at most 1 is right")


@dataclass(frozen=True, slots=True)
class Side:
    """What the same pieces cost one way. Money."""

    meat: Decimal
    freight: Decimal
    labor: Decimal
    beside: Decimal
    """What comes with them and is worth something: taken off."""

    @property
    def total(self) -> Decimal:
        with working():
            return self.meat + self.freight + self.labor - self.beside


@dataclass(frozen=True, slots=True)
class AgainstBoxes:
    carcass: Side
    boxes: Side
    weights: tuple[Decimal, ...]
    """Of each piece, in the unit of the carcass piece."""
    even_at: Decimal | None
    """The price of the carcass piece, a unit, at which both cost the same; None where it would be below 0."""

    @property
    def saved(self) -> Decimal:
        """What the carcass piece costs less than the boxes; below 0 where it costs more."""
        with working():
            return self.boxes.total - self.carcass.total


def against_boxes(
    bought: Piece,
    pieces: Sequence[BoxedPiece],
    beside: Decimal,
    minutes: Decimal,
    rate: Decimal | None,
    freight_a_unit: Decimal = ZERO,
) -> AgainstBoxes:
    """Compare a carcass piece with boxes of what it gives.

    `beside`: what all else of it brings. `minutes`: to break it, at `rate` an hour. `freight_a_unit`: of the
    boxes. Raises BadValue without pieces, and for one without a price.
    """
    if not pieces:
        raise BadValue("pieces", "none comes in a box", "a plan that gives whole pieces is right")
    unit = bought.weight.unit
    with working():
        weights = tuple(bought.weight.value * one.share for one in pieces)
        box_meat = ZERO
        for one, weight in zip(pieces, weights, strict=True):
            if one.price is None:
                raise BadValue(f"price of a box of {one.name}", "unknown", "a price is right")
            box_meat += weight * one.price.to(unit)
        meat = bought.weight.value * bought.price.to(unit) - bought.discount
        carcass = Side(meat, bought.freight, wages(minutes, rate or ZERO), beside)
        boxes = Side(box_meat, sum(weights, ZERO) * freight_a_unit, ZERO, ZERO)
        even = (boxes.total - (carcass.total - meat) + bought.discount) / bought.weight.value
    return AgainstBoxes(carcass, boxes, weights, even if even >= 0 else None)
