"""What a pile is worth for each minute of hands, against the same meat as grind.

Common practice, no published source: kebab and stew are taken before grind where they pay for their time.
"""

from __future__ import annotations

from dataclasses import dataclass
from decimal import Decimal

from cutting.errors import BadValue
from cutting.quantities import working
from cutting.sheet.time_spent import wages


@dataclass(frozen=True, slots=True)
class PileWorth:
    """Of one pile, a unit of weight: `gain` over grind, the `extra` minutes it takes, the gain for a
    minute (None where it takes no more), and the price under which grind is better."""

    gain: Decimal
    extra: Decimal
    a_minute: Decimal | None
    grind_below: Decimal

    def is_worth_it(self, rate: Decimal) -> bool:
        """At an hour's wages of `rate`."""
        with working():
            return self.gain >= wages(self.extra, rate)


def pile_worth(
    price: Decimal, minutes: Decimal, grind: Decimal, grind_minutes: Decimal, rate: Decimal
) -> PileWorth:
    """All for one unit of weight; `rate` is money an hour. Raises BadValue for minutes below 0."""
    for name, value in (("minutes", minutes), ("minutes of grind", grind_minutes)):
        if value < 0:
            raise BadValue(name, f"{value:f}", "0 or more is right")
    with working():
        gain, extra = price - grind, minutes - grind_minutes
        a_minute = gain / extra if extra > 0 else None
        return PileWorth(gain, extra, a_minute, grind + wages(extra, rate))
