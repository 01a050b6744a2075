"""What one product gives when another takes more: meat left on ribs, ribs taken from a rack.

The same meat is sold once. Moving it changes what both bring; nothing is won or lost in weight.
Common practice, no published source.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from decimal import Decimal

from cutting.errors import BadValue
from cutting.quantities import CONSTANTS, Unit, UnitPrice, Weight, working

LEAN_DENSITY = Decimal(CONSTANTS["common_practice"]["meat"]["density"])
"""Grams in a cubic centimetre of lean meat."""
CM_AN_INCH = Decimal(CONSTANTS["exact"]["length"]["cm_per_inch"])


@dataclass(frozen=True, slots=True)
class Layer:
    """Meat left on: `length` by `width` by `thickness`, all in inches."""

    length: Decimal
    width: Decimal
    thickness: Decimal

    def __post_init__(self) -> None:
        for name in ("length", "width"):
            if getattr(self, name) <= 0:
                raise BadValue(name, f"{getattr(self, name)} in", "more than 0 is right")
        if self.thickness < 0:
            raise BadValue("thickness", f"{self.thickness} in", "0 or more is right")

    def weight(self, unit: Unit) -> Weight:
        """Its weight by the density of lean meat."""
        with working():
            cubic_cm = self.length * self.width * self.thickness * CM_AN_INCH**3
            grams = Weight(cubic_cm * LEAN_DENSITY, Unit.G)
            return Weight(grams.to(unit), unit)


@dataclass(frozen=True, slots=True)
class Pieces:
    """So many ribs (or other pieces) of one weight each."""

    count: Decimal
    each: Weight

    def __post_init__(self) -> None:
        if self.count < 0:
            raise BadValue("count", str(self.count), "0 or more is right")

    def weight(self, unit: Unit) -> Weight:
        with working():
            return Weight(self.each.to(unit) * self.count, unit)


@dataclass(frozen=True, slots=True)
class Side:
    """A product that gives or takes: what share of the moved weight it sells, at which price."""

    name: str
    price: UnitPrice
    share: Decimal = Decimal(1)

    def __post_init__(self) -> None:
        if not 0 < self.share <= 1:
            raise BadValue(f"share of {self.name}", str(self.share), "above 0, at most 1 is right")

    def value(self, moved: Weight) -> Decimal:
        """Money this side brings for the moved weight."""
        with working():
            return moved.to(self.price.per) * self.share * self.price.amount


@dataclass(frozen=True, slots=True)
class MovedMeat:
    """The answer. `break_even`: the price of the first taker at which the move changes nothing."""

    weight: Weight
    given: Decimal
    taken: Decimal
    break_even: UnitPrice

    @property
    def gain(self) -> Decimal:
        """Positive: the shop is better off with the move."""
        return self.taken - self.given


def give_and_take(moved: Weight, givers: Sequence[Side], takers: Sequence[Side]) -> MovedMeat:
    """Value of `moved` where it was, and where it goes.

    Shares of each side sum to at most 1: what is missing goes to trim or is lost.
    Raises BadValue when a side is empty or its shares sum to more.
    """
    for name, sides in (("givers", givers), ("takers", takers)):
        if not sides:
            raise BadValue(name, "none", "one or more are right")
        total = sum((side.share for side in sides), Decimal(0))
        if total > 1:
            raise BadValue(f"shares of the {name}", f"sum to {total}", "at most 1 is right")
    with working():
        given = sum((side.value(moved) for side in givers), Decimal(0))
        taken = sum((side.value(moved) for side in takers), Decimal(0))
        first = takers[0]
        others = sum((side.value(moved) for side in takers[1:]), Decimal(0))
        sold = moved.to(first.price.per) * first.share
        needed = (given - others) / sold if sold else _per_unit(givers, first)
        return MovedMeat(moved, given, taken, UnitPrice(max(needed, Decimal(0)), first.price.per))


def _per_unit(givers: Sequence[Side], first: Side) -> Decimal:
    """The break-even when nothing is moved: that of the first little bit."""
    unit = Weight(Decimal(1), first.price.per)
    return sum((side.value(unit) for side in givers), Decimal(0)) / first.share
