"""The house list of seasonings, for a batch."""

from decimal import Decimal

from cutting.grinding import seasoning as core
from cutting.quantities import Unit, Weight, working
from rooms.grinder.models import Seasoning


def to_core(row: Seasoning) -> core.Seasoning:
    return core.Seasoning(row.name, row.share, row.ingredients, tuple(row.allergens))


def season(row: Seasoning, meat: Weight) -> Decimal:
    """Weight of it for so much meat, in the meat's unit."""
    return to_core(row).of(meat).value


def cost_of(meat: Decimal, row: Seasoning | None, seasoned: Decimal, of: Weight) -> Decimal:
    """What meat and seasoning cost together. `seasoned`: its weight in the unit of `of`."""
    with working():
        if row is None:
            return meat
        return meat + Weight(seasoned, of.unit).to(Unit(row.per)) * row.cost
