"""Nutrition facts of ground meat, and when a small shop need not state them.

9 CFR 317.300 to 317.400; the exemption is 317.400(a)(1). All values from memory until looked up; local codes come
first.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from decimal import Decimal

from cutting.errors import BadValue
from cutting.quantities import HUNDRED, ONE, ZERO, working

RULE = "9 CFR 317.300 to 317.400"
EXEMPTION = "9 CFR 317.400(a)(1)"
MOST_PEOPLE, MOST_POUNDS = 500, Decimal(100_000)
"""Of a small business: people, and pounds of a product in a year. Value from memory."""
NUTRIENTS = {
    "calories": ("Calories", "kcal"),
    "total_fat": ("Total fat", "g"),
    "saturated_fat": ("Saturated fat", "g"),
    "trans_fat": ("Trans fat", "g"),
    "cholesterol": ("Cholesterol", "mg"),
    "sodium": ("Sodium", "mg"),
    "carbohydrate": ("Total carbohydrate", "g"),
    "protein": ("Protein", "g"),
    "iron": ("Iron", "mg"),
}
"""In the order of the label."""
CALORIES = {"total_fat": 9, "carbohydrate": 4, "protein": 4}
"""A gram of each: general factors, 21 CFR 101.9(c)(1)(i)(B). Value from memory."""
CALORIES_OFF = Decimal("0.20")
FAT_OFF = Decimal("0.02")
"""So far the fat of the facts may lie from the stated fat, as a share of the serving."""


@dataclass(frozen=True, slots=True)
class Exempt:
    """Whether the shop may leave the facts out, with the reason."""

    may: bool
    words: str


def exemption(product: str, pounds: Decimal) -> Exempt:
    """By pounds of the product ground in twelve months."""
    ground = f"{pounds:,.0f} lb of {product} in twelve months"
    if pounds > MOST_POUNDS:
        most = f"more than {MOST_POUNDS:,.0f}"
        return Exempt(
            False, f"{ground}, {most}: facts must stand on the label ({EXEMPTION}; from memory)"
        )
    return Exempt(
        True,
        f"No facts needed: {ground}, at most {MOST_POUNDS:,.0f} and {MOST_PEOPLE} people"
        f" ({EXEMPTION}; from memory)",
    )


def check_facts(fat: Decimal, serving: Decimal, amounts: Mapping[str, Decimal]) -> None:
    """Whether facts fit each other and the stated fat. Raises BadValue that names what does not."""
    missing = [NUTRIENTS[key][0] for key in NUTRIENTS if key not in amounts]
    if missing:
        raise BadValue(missing[0], "missing", "an amount a serving is right, 0 where there is none")
    for key, amount in amounts.items():
        if key not in NUTRIENTS:
            raise BadValue("Nutrient", key, f"one of {', '.join(NUTRIENTS)} is right")
        if amount < 0:
            raise BadValue(NUTRIENTS[key][0], f"{amount:f}", "0 or more is right")
    if not 0 <= fat <= ONE:
        raise BadValue("Fat", f"{fat:f}", "0 to 1 is right")
    if serving <= 0:
        raise BadValue("Serving", f"{serving:f}", "more than 0 g is right")
    _check_sums(fat, serving, amounts)


def _check_sums(fat: Decimal, serving: Decimal, amounts: Mapping[str, Decimal]) -> None:
    with working():
        wanted = fat * serving
        if abs(amounts["total_fat"] - wanted) > FAT_OFF * serving:
            right = f"about {wanted:.0f} g of {serving:f} g at {fat * HUNDRED:.0f} % fat is right"
            raise BadValue("Total fat", f"{amounts['total_fat']:f} g", right)
        burnt = sum((amounts[key] * factor for key, factor in CALORIES.items()), ZERO)
        if abs(amounts["calories"] - burnt) > CALORIES_OFF * burnt:
            right = f"about {burnt:.0f} by its fat, carbohydrate and protein is right"
            raise BadValue("Calories", f"{amounts['calories']:f}", right)
    for part, whole in (("saturated_fat", "total_fat"), ("trans_fat", "total_fat")):
        if amounts[part] > amounts[whole]:
            right = f"at most the total fat, {amounts[whole]:f} g, is right"
            raise BadValue(NUTRIENTS[part][0], f"{amounts[part]:f} g", right)
