"""Small sums at the block: skewers, strips, strings. Common practice, no published source."""

from __future__ import annotations

from dataclasses import dataclass
from decimal import ROUND_CEILING, ROUND_FLOOR, Decimal

from cutting.errors import BadValue
from cutting.layout.profile import PI
from cutting.quantities import CONSTANTS, Unit, Weight, working

DENSITY = Decimal(CONSTANTS["common_practice"]["meat"]["density"])
"""g/cm³ of lean meat."""
KNOT = Decimal(100)
"""mm of string for a knot."""


@dataclass(frozen=True, slots=True)
class Skewers:
    """`cube` and `skewer` in grams; `many` whole skewers, `left` grams over."""

    cube: Decimal
    skewer: Decimal
    many: int
    left: Decimal


def skewers(meat: Weight, edge: Decimal, cubes: int) -> Skewers:
    """Skewers of so many cubes with an edge in mm, from so much meat."""
    if not 5 <= edge <= 100:
        raise BadValue("Cube", f"{edge:f} mm", "5 to 100 mm (1/4 to 4 in) is right")
    if not 1 <= cubes <= 20:
        raise BadValue("Cubes", f"{cubes}", "1 to 20 a skewer is right")
    with working():
        cube = edge**3 / 1000 * DENSITY
        each = cube * cubes
        grams = meat.to(Unit.G)
        many = int((grams / each).to_integral_value(ROUND_FLOOR))
        return Skewers(cube, each, many, grams - each * many)


@dataclass(frozen=True, slots=True)
class Ties:
    """`many` strings, each `string` mm long, `apart` mm from the next; people it serves."""

    many: int
    apart: Decimal
    string: Decimal
    servings: int


def ties(
    meat: Weight,
    length: Decimal,
    round_: Decimal,
    *,
    apart: Decimal = Decimal(25),
    turns: int = 1,
    a_head: Weight | None = None,
) -> Ties:
    """Strings or bands of a rolled joint: its length and the way round in mm.

    They stand at even distances of at most `apart`, half of one from each end. `a_head`: raw meat
    for one, half a pound where nothing is said.
    """
    for name, value in (("Length", length), ("Round", round_), ("Apart", apart)):
        if value <= 0:
            raise BadValue(name, f"{value:f} mm", "more than 0 is right")
    if apart > length:
        raise BadValue("Apart", f"{apart:f} mm", f"at most the joint's {length:f} mm is right")
    if not 1 <= turns <= 5:
        raise BadValue("Turns", f"{turns}", "1 to 5 is right")
    with working():
        many = int((length / apart).to_integral_value(ROUND_CEILING))
        one = a_head or Weight(Decimal(8), Unit.OZ)
        servings = int((meat.to(Unit.G) / one.to(Unit.G)).to_integral_value(ROUND_FLOOR))
        return Ties(many, length / many, round_ * turns + KNOT, max(servings, 1))


def slices_of(length: Decimal, thick: Decimal) -> tuple[int, Decimal]:
    """How many strips or slices of a thickness, and what is left; lengths in mm."""
    if not 0 < thick <= length:
        raise BadValue("Thickness", f"{thick:f} mm", f"more than 0, at most {length:f} mm is right")
    with working():
        many = int((length / thick).to_integral_value(ROUND_FLOOR))
        return many, length - thick * many


@dataclass(frozen=True, slots=True)
class Butterfly:
    """`cut`: how thick the piece is cut, `first`: how deep the cut goes that does not part it,
    `wide`: how wide it lies once it is opened; mm."""

    cut: Decimal
    first: Decimal
    wide: Decimal


def butterfly(face: Decimal, thick: Decimal) -> Butterfly:
    """A small face cut twice as thick, three quarters through in its middle, and opened."""
    for name, value in (("Face", face), ("Thickness", thick)):
        if value <= 0:
            raise BadValue(name, f"{value:f} mm", "more than 0 is right")
    with working():
        return Butterfly(thick * 2, face * 3 / 4, face * 2)


def circumference(width: Decimal, height: Decimal) -> Decimal:
    """The way round an oval face, mm: Ramanujan's first approximation, within 0.1 % for a joint."""
    with working():
        a, b = width / 2, height / 2
        return PI * (3 * (a + b) - ((3 * a + b) * (a + 3 * b)).sqrt())
