"""Sausage: meat with a seasoning of the house list by percent, its ingredients and allergens. No recipes beyond
that.

Allergens: 21 USC 321(qq) with the FASTER Act. Ingredients by weight: 9 CFR 317.2(f). Both from memory.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from decimal import Decimal

from cutting.errors import BadValue
from cutting.quantities import ZERO, Weight, round_half_up, working

ALLERGENS = (
    "milk",
    "egg",
    "fish",
    "crustacean shellfish",
    "tree nuts",
    "peanuts",
    "wheat",
    "soybeans",
    "sesame",
)
MOST_SHARE = Decimal("0.15")
"""Of the meat: what is more is no seasoning. Common practice, no published source."""
PLACES = 3


@dataclass(frozen=True, slots=True)
class Seasoning:
    """`share`: of the meat's weight; `ingredients` as on its bag, the most first."""

    name: str
    share: Decimal
    ingredients: str
    allergens: tuple[str, ...] = ()

    def __post_init__(self) -> None:
        if not 0 < self.share <= MOST_SHARE:
            right = f"more than 0, at most {MOST_SHARE:f} is right"
            raise BadValue(f"{self.name}, share", f"{self.share:f}", right)
        unknown = [one for one in self.allergens if one not in ALLERGENS]
        if unknown:
            raise BadValue(f"{self.name}, allergen", unknown[0], f"one of {', '.join(ALLERGENS)}")

    def of(self, meat: Weight) -> Weight:
        """What belongs to this much meat, to a thousandth of its unit."""
        with working():
            return Weight(round_half_up(meat.value * self.share, PLACES), meat.unit)


def ingredients(meats: Sequence[tuple[str, Decimal]], seasoning: Seasoning | None) -> str:
    """“pork, salt, pepper. Contains wheat.”: meats by their pounds, the most first, then what is in the
    seasoning; a single meat without seasoning needs none and gives an empty text."""
    if seasoning is None and len([one for one, pounds in meats if pounds > ZERO]) < 2:
        return ""
    ordered = sorted((one for one in meats if one[1] > ZERO), key=lambda one: (-one[1], one[0]))
    names = [name for name, _ in ordered]
    if seasoning is None:
        return ", ".join(names) + "."
    words = ", ".join([*names, seasoning.ingredients.strip().rstrip(".")])
    told = f" Contains {', '.join(seasoning.allergens)}." if seasoning.allergens else ""
    return f"{words}.{told}"
