"""Trays formed from portions in the order they were cut, with weight and sticker."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from decimal import Decimal

from cutting.errors import BadValue
from cutting.quantities import ZERO, Unit, UnitPrice, Weight, tray_sticker, working

MOST_IN_A_TRAY = 24


@dataclass(frozen=True, slots=True)
class Tray:
    """`weight` in the unit asked for; `sticker` the price on it, None without a price."""

    number: int
    count: int
    size: int
    weight: Decimal
    sticker: Decimal | None

    @property
    def is_full(self) -> bool:
        return self.count == self.size


def trays(portions: Sequence[Weight], size: int, price: UnitPrice | None, unit: Unit) -> list[Tray]:
    """Portions into trays of `size`; the last may still be filling. Every portion in one tray.

    The sticker is unit price times weight, half up to the cent.
    """
    if not 1 <= size <= MOST_IN_A_TRAY:
        raise BadValue("tray", f"{size} portions a tray", f"1 to {MOST_IN_A_TRAY} is right")
    made = []
    with working():
        for start in range(0, len(portions), size):
            inside = portions[start : start + size]
            weight = sum((portion.to(unit) for portion in inside), ZERO)
            sticker = None if price is None else tray_sticker(price.to(unit), weight)
            made.append(Tray(start // size + 1, len(inside), size, weight, sticker))
    return made


def usual_size(tray: Weight, target: Weight) -> int:
    """How many portions of the target fill a tray of the usual weight: at least one."""
    return min(max(round(tray.to(target.unit) / target.value), 1), MOST_IN_A_TRAY)
