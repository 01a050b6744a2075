"""One piece by two ways: how much of it by the first, where no more of a product sells than it does.

Common practice, no published source: the first part plain, the rest by its seams.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from decimal import Decimal

from cutting.errors import BadValue
from cutting.quantities import ONE, ZERO, working
from cutting.sheet.time_spent import wages


@dataclass(frozen=True, slots=True)
class SplitOutput:
    """One product of either way: its shares by the first and by the second, its price, how much of it
    sells, and what a unit beyond that is worth. All in one unit of weight; `most` None: all sells."""

    name: str
    first: Decimal
    second: Decimal
    price: Decimal
    most: Decimal | None = None
    over: Decimal = ZERO


@dataclass(frozen=True, slots=True)
class Split:
    """`share` of the piece goes the first way. `money`: what it brings less labour, `alone`: what the
    second and the first bring alone; `full`: products that then reach the most that sells."""

    share: Decimal
    money: Decimal
    alone: tuple[Decimal, Decimal]
    full: tuple[str, ...]

    @property
    def is_mixed(self) -> bool:
        return 0 < self.share < 1

    @property
    def gain(self) -> Decimal:
        """Over the better of the two alone."""
        with working():
            return self.money - max(self.alone)


def best_split(
    weight: Decimal,
    outputs: Sequence[SplitOutput],
    minutes: tuple[Decimal, Decimal],
    rate: Decimal = ZERO,
) -> Split:
    """The best share, exactly: what is brought bends only where a product reaches its most, so those
    shares and the two ends are all there is to try. Of equals the smaller share.

    `minutes` of the whole piece by the first and the second way. Raises BadValue for no weight.
    """
    if weight <= 0:
        raise BadValue("weight", f"{weight:f}", "more than 0 is right")
    with working():
        tried = {ZERO, ONE}
        for one in outputs:
            turn = one.first - one.second
            if one.most is None or not turn:
                continue
            share = (one.most / weight - one.second) / turn
            if 0 < share < 1:
                tried.add(share)
        brought = {
            share: _money(weight, outputs, share) - _labour(minutes, share, rate)
            for share in sorted(tried)
        }
        best = max(brought, key=lambda share: (brought[share], -share))
        full = tuple(
            one.name
            for one in outputs
            if one.most is not None
            and (one.first or one.second)
            and _made(weight, one, best) >= one.most
        )
        return Split(best, brought[best], (brought[ZERO], brought[ONE]), full)


def _made(weight: Decimal, one: SplitOutput, share: Decimal) -> Decimal:
    return weight * (share * one.first + (1 - share) * one.second)


def _money(weight: Decimal, outputs: Sequence[SplitOutput], share: Decimal) -> Decimal:
    total = ZERO
    for one in outputs:
        made = _made(weight, one, share)
        sold = made if one.most is None else min(made, one.most)
        total += sold * one.price + (made - sold) * one.over
    return total


def _labour(minutes: tuple[Decimal, Decimal], share: Decimal, rate: Decimal) -> Decimal:
    return wages(share * minutes[0] + (1 - share) * minutes[1], rate)
