"""A tray that will pass its day is sold for less; what that and throwing away cost, as a share of what was packed.

Common practice, no published source. The new price × weight reproduces the new total, as on any label.
"""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date, timedelta
from decimal import Decimal

from cutting.errors import BadValue
from cutting.labels.tray_label import total_price
from cutting.quantities import ONE, ZERO, UnitPrice, Weight, round_half_up, working


@dataclass(frozen=True, slots=True)
class Marked:
    """The new price and what the tray costs by it."""

    price: UnitPrice
    total: Decimal


def marked(price: UnitPrice, off: Decimal, net: Weight) -> Marked:
    """`off`: the share that comes off, above 0 and below 1. Raises BadValue for another, and where nothing
    would be left of the price."""
    if not ZERO < off < ONE:
        raise BadValue("off", f"{off:f}", "a share above 0 and below 1 is right")
    with working():
        own = UnitPrice(round_half_up(price.amount * (ONE - off)), price.per)
    return at_price(price, own, net)


def at_price(before: UnitPrice, now: UnitPrice, net: Weight) -> Marked:
    """Marked down to a price that somebody names. Raises BadValue where it is not below the price before,
    or nothing."""
    if not ZERO < now.to(before.per) < before.amount:
        right = f"above 0 and below {before.amount:f} is right"
        raise BadValue("price", f"{now.amount:f} a {now.per.value}", right)
    return Marked(now, total_price(now, net))


def is_due(sell_by: date, today: date, days: int) -> bool:
    """Whether its last day is so near that it is marked down; past it nothing is sold."""
    return today <= sell_by <= today + timedelta(days=days)


@dataclass(frozen=True, slots=True)
class Shrink:
    """Money of what was packed, marked down and thrown away."""

    packed: Decimal
    marked_down: Decimal
    thrown: Decimal

    @property
    def share(self) -> Decimal:
        """Of what was packed; 0 where nothing was."""
        with working():
            return (self.marked_down + self.thrown) / self.packed if self.packed else ZERO
