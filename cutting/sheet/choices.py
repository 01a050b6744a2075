"""What a cutter chooses for a test: target weight, thickness, fat left on. Common practice, no
published source; a plan's own values come first, these are the usual others.
"""

from __future__ import annotations

from decimal import Decimal

from cutting.errors import BadValue
from cutting.quantities import HUNDRED, UnitPrice, Weight, round_half_up, working
from cutting.sheet.portioning import parse_thickness

TARGETS = ("6 oz", "8 oz", "10 oz", "12 oz", "16 oz")
THICKNESSES = ("1/4 in", "1/2 in", "3/4 in", "1 in", "1 1/4 in", "1 1/2 in", "2 in")
FAT_LEVELS = ("none", "1/8 in", "1/4 in")
THINNEST, THICKEST = Decimal("0.0625"), Decimal(6)


def check_target(target: Weight, division: Weight, capacity: Weight) -> None:
    """Raises BadValue for a target no scale can show: below ten of its divisions, or above what
    it takes."""
    least = Weight(division.value * 10, division.unit)
    with working():
        is_fine = target.value > 0 and target.to(least.unit) >= least.value
        is_held = target.to(capacity.unit) <= capacity.value
    if not (is_fine and is_held):
        raise BadValue("Target", str(target), f"{least} to {capacity} is what the scale shows")


def check_thickness(text: str) -> str:
    """The thickness as it is written, such as 3/4 in or 1 1/4 in; empty for none."""
    tidy = " ".join(text.split())
    inches = parse_thickness(tidy) if tidy else None
    if tidy and (inches is None or not THINNEST <= inches <= THICKEST):
        raise BadValue("Thickness", tidy[:20], "inches such as 3/4 in or 1 1/4 in, up to 6 in")
    return tidy


def off_the_list(weight: Weight, price: UnitPrice, percent: Decimal) -> Decimal:
    """A percentage off the list price as money, half up to the cent."""
    if not 0 <= percent <= HUNDRED:
        raise BadValue("Percent off", f"{percent} %", "from 0 to 100 is right")
    with working():
        return round_half_up(weight.to(price.per) * price.amount * percent / HUNDRED)
