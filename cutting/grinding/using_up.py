"""Use these up: the smallest batch that takes some tubs whole and lies in its fat range."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from decimal import Decimal

from cutting.errors import BadValue
from cutting.grinding.blend import Tub
from cutting.quantities import HUNDRED, ZERO, round_half_up, working


@dataclass(frozen=True, slots=True)
class Whole:
    """Tubs that go in whole: their pounds and the share of fat that they have together."""

    pounds: Decimal
    fat: Decimal


def whole(tubs: Sequence[Tub]) -> Whole:
    """Raises BadValue for none, or for empty ones."""
    with working():
        pounds = sum((tub.pounds for tub in tubs), ZERO)
        if pounds <= 0:
            raise BadValue("Used up whole", "no tub", "a tub with something in it is right")
        return Whole(pounds, sum((tub.pounds * tub.fat for tub in tubs), ZERO) / pounds)


def smallest_batch(
    musts: Sequence[Tub], others: Sequence[Tub], least: Decimal, most: Decimal
) -> Decimal:
    """Pounds of the smallest batch with all `musts` and as little of `others` as brings its fat into
    `least` to `most`: from the leanest (or fattest) on. Raises BadValue where they cannot.
    """
    with working():
        own = whole(musts)
        if least <= own.fat <= most:
            return own.pounds
        is_fat = own.fat > most
        edge = most if is_fat else least
        sign = 1 if is_fat else -1
        missing = sign * (own.fat - edge) * own.pounds
        pounds = own.pounds
        for tub in sorted(others, key=lambda tub: sign * tub.fat):
            gain = sign * (edge - tub.fat)
            if gain <= 0:
                break
            needed = missing / gain
            if needed <= tub.pounds:
                return pounds + needed
            pounds, missing = pounds + tub.pounds, missing - tub.pounds * gain
        fat = round_half_up(own.fat * HUNDRED, 1)
        what = "leaner" if is_fat else "fatter"
        right = f"more {what} meat, or a fat nearer to theirs, is right"
        raise BadValue("Used up whole", f"together they have {fat:f} % fat", right)
