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
    Life.TO_BLOCK: frozenset({Life.THROWN, Life.TO_TUB}),
}
"""What a tray may become from each state; what is sold may come back only to be thrown away. What is left of
one at the block, faced and packed again, is thrown away or goes into a tub."""
NEEDS_REASON = frozenset({Life.THROWN, Life.UNDONE})


def may_become(now: Life, to: Life) -> bool:
    return to in NEXT.get(now, frozenset())


NEEDS_A_DAY_LEFT = frozenset({Life.IN_CASE, Life.MARKED_DOWN, Life.SOLD, Life.TO_TUB})
"""What nothing past its last day becomes: it is thrown away."""


def may_today(to: Life, last_day: date, today: date) -> bool:
    """Whether a tray whose last day this is may become so today."""
    return to not in NEEDS_A_DAY_LEFT or today <= last_day


def sell_by(
    packed_on: date, keeps_days: int, ends: Sequence[date], since: date | None = None
) -> date:
    """By the shop's days from when it was cut or ground (`since`; the day it is packed where nobody knows),
    and never past the end of a bag that it is of. Raises BadValue where that day is past already, or the days
    are below 0."""
    if keeps_days < 0:
        raise BadValue("days", f"{keeps_days}", "0 or more is right")
    start = packed_on if since is None else min(since, packed_on)
    last = min([start + timedelta(days=keeps_days), *ends])
    if last < packed_on:
        raise BadValue("sell by", f"{last} has passed", "meat that is within its days is right")
    return last
