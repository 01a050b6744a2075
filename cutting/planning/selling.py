"""What sells on a day of the week, and how much to have: a lost sale against a markdown.

The newsvendor's rule: have so much that the chance to sell one more pound is worth its risk. Arrow, Harris
and Marschak 1951; value from memory.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from decimal import ROUND_HALF_UP, Decimal
from statistics import NormalDist, mean, stdev

from cutting.errors import BadValue
from cutting.quantities import ZERO, working

FEWEST_WEEKS, LOOKS_BACK = 3, 12
HALF = Decimal("0.5")
SURE_TO_SELL = 0.2
"""The least is what sells in four weeks of five."""
CAUTIOUS, BOLD = 0.05, 0.98
"""No quantity is asked beyond what so few weeks can tell."""


def balance(price: Decimal, cost: Decimal, over: Decimal) -> Decimal:
    """The share of days on which all of it should sell out or fewer: what a lost sale costs over
    what either mistake costs together, 0 to 1. `over`: what a pound brings that is marked down.

    Raises BadValue where a pound sold brings less than it costs.
    """
    if price <= cost:
        raise BadValue("price", f"{price:f}", f"more than its cost, {cost:f}, is right")
    with working():
        lost, left = price - cost, max(cost - over, ZERO)
        return lost / (lost + left)


@dataclass(frozen=True, slots=True)
class Proposal:
    """Least and most for one product on one day of the week, in its unit, and what they rest on.

    `error`: how far a mean of the weeks before would have been off in the mean, `naive`: how far
    "same day last week"; None with too few weeks.
    """

    least: Decimal
    most: Decimal
    weeks: int
    mean: Decimal
    error: Decimal | None
    naive: Decimal | None


def propose(
    sold: Sequence[Decimal], share: Decimal, factor: Decimal = Decimal(1)
) -> Proposal | None:
    """From what sold on the same day of past weeks, the oldest first; None for fewer than three.

    `share` as `balance` gives it; `factor` for season, a holiday or an ad. To half a pound.
    """
    weeks = list(sold[-LOOKS_BACK:])
    if len(weeks) < FEWEST_WEEKS:
        return None
    if any(one < 0 for one in weeks):
        raise BadValue("sales", f"{min(weeks)}", "0 or more is right")
    with working():
        middle, spread = mean(weeks), stdev(weeks)
        chance = min(max(float(share), CAUTIOUS), BOLD)
        most = _half((middle + _z(chance) * spread) * factor)
        least = _half((middle + _z(min(SURE_TO_SELL, chance)) * spread) * factor)
        errors = [abs(weeks[i] - mean(weeks[:i])) for i in range(FEWEST_WEEKS, len(weeks))]
        naive = [abs(weeks[i] - weeks[i - 1]) for i in range(FEWEST_WEEKS, len(weeks))]
        return Proposal(
            min(least, most),
            most,
            len(weeks),
            middle,
            mean(errors) if errors else None,
            mean(naive) if naive else None,
        )


def _z(share: float) -> Decimal:
    return Decimal(repr(round(NormalDist().inv_cdf(share), 6)))


def _half(value: Decimal) -> Decimal:
    """The nearest half, never below 0."""
    return max((value / HALF).quantize(Decimal(1), ROUND_HALF_UP) * HALF, ZERO)
