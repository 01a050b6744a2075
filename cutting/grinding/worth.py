"""What trim is worth: as another product, and as what the last batches made of it.

Common practice, no published source.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from decimal import Decimal

from cutting.errors import BadValue
from cutting.quantities import ONE, ZERO, working
from cutting.sheet.time_spent import wages

LEANEST_OTHER = Decimal("0.88")
"""So lean trim must be to be sold as stew or kebab. Common practice, no published source."""
MINUTES_A_POUND = Decimal("1.8")
"""To cut it. Common practice, no published source."""


@dataclass(frozen=True, slots=True)
class OtherUse:
    """Something else that trim may be sold as: its price and that of the grind, a pound."""

    name: str
    price: Decimal


def better_use(
    pounds: Decimal, grind: Decimal, uses: Sequence[OtherUse], rate: Decimal
) -> tuple[OtherUse, Decimal] | None:
    """The use that brings most more than the grind does, hands paid; None where the grind is best.
    `grind`: its price a pound; `rate`: wages an hour."""
    with working():
        hands = wages(pounds * MINUTES_A_POUND, rate)
        gains = [(one, pounds * (one.price - grind) - hands) for one in uses]
    best = max(gains, key=lambda one: one[1], default=None)
    return best if best is not None and best[1] > 0 else None


@dataclass(frozen=True, slots=True)
class Ground:
    """One batch: money it sold for at its price, what hard fat and seasoning in it cost, its pounds of
    lean."""

    money: Decimal
    beside: Decimal
    pounds: Decimal


@dataclass(frozen=True, slots=True)
class TrimMade:
    """What a pound of trim made in some batches: at the case, and what it may cost at the margin."""

    batches: int
    pounds: Decimal
    at_case: Decimal
    value: Decimal


def trim_made(batches: Sequence[Ground], margin: Decimal) -> TrimMade | None:
    """Over all batches together: what they sold for less the margin and less what is not lean, by the
    pounds of lean. None where none was in them. `margin`: a share of the price.
    Raises BadValue for one that is not below 1."""
    if not 0 <= margin < ONE:
        raise BadValue("margin", f"{margin:f}", "0 or more, below 1 is right")
    with working():
        pounds = sum((one.pounds for one in batches), ZERO)
        if pounds <= 0:
            return None
        money = sum((one.money for one in batches), ZERO)
        beside = sum((one.beside for one in batches), ZERO)
        at_case = (money - beside) / pounds
        value = max((money * (ONE - margin) - beside) / pounds, ZERO)
        return TrimMade(len(batches), pounds, at_case, value)
