"""What may become of a tray, and how long it may be sold.

Common practice, no published source, but for the rule that a tray never outlives its bag.
"""

from __future__ import annotations

from collections.abc import Sequence
from datetime import date, timedelta
from enum import StrEnum

from cutting.errors import BadValue


class Life(StrEnum):
    PACKED = "packed"
    IN_CASE = "in_case"
    MARKED_DOWN = "marked_down"
    SOLD = "sold"
    THROWN = "thrown"
    TO_TUB = "to_tub"
    TO_BLOCK = "to_block"
    UNDONE = "undone"
    """It was no tray: a mistake at the scale."""


SOLD_FROM = frozenset({Life.PACKED, Life.IN_CASE, Life.MARKED_DOWN})
NEXT = {
    Life.PACKED: frozenset(Life) - {Life.PACKED},
    Life.IN_CASE: frozenset(Life) - {Life.PACKED, Life.IN_CASE, Life.UNDONE},
    Life.MARKED_DOWN: frozenset({Life.MARKED_DOWN, Life.SOLD, Life.THROWN, Life.TO_TUB}),
    Life.SOLD: frozenset({Life.THROWN}),
}
"""What a tray may become from each state; what is sold may come back only to be thrown away."""
NEEDS_REASON = frozenset({Life.THROWN, Life.UNDONE})


def may_become(now: Life, to: Life) -> bool:
    return to in NEXT.get(now, frozenset())


def sell_by(packed_on: date, keeps_days: int, ends: Sequence[date]) -> date:
    """By the shop's days, and never past the end of a bag that it is of. Raises BadValue where one is
    past already, or the days are below 0."""
    if keeps_days < 0:
        raise BadValue("days", f"{keeps_days}", "0 or more is right")
    last = min([packed_on + timedelta(days=keeps_days), *ends])
    if last < packed_on:
        raise BadValue("sell by", f"{last} has passed", "a bag that is not past its end is right")
    return last
