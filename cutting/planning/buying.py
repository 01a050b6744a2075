"""What to buy: the same muscle at several stages of trimming, from several hands.

Everything is per one unit of weight bought or per ready unit. Common practice, no published source.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from decimal import Decimal

from cutting.costing.schools import totals
from cutting.errors import BadValue
from cutting.quantities import HUNDRED, ONE, ZERO, Unit, working
from cutting.sheet.cutting_test import CuttingTest, Role, figures
from cutting.sheet.time_spent import wages
from cutting.sheet.yields import Pooled, pooled_shares, rest_on

FEWEST, MOST = 2, 6


@dataclass(frozen=True, slots=True)
class Spec:
    """One thing to buy. `ready` is its yield to the ready state; `low` and `high` its interval.

    `minutes` and `credits` are per unit of weight bought.
    """

    name: str
    price: Decimal
    ready: Decimal
    minutes: Decimal = ZERO
    credits: Decimal = ZERO
    low: Decimal | None = None
    high: Decimal | None = None
    tests: int = 0

    def __post_init__(self) -> None:
        if self.price <= 0:
            raise BadValue(f"{self.name}, price", f"{self.price}", "more than 0 is right")
        if not 0 < self.ready <= 1:
            wrong = f"{self.ready * HUNDRED:f} %"
            raise BadValue(f"{self.name}, yield", wrong, "more than 0 %, at most 100 %")
        for name in ("minutes", "credits"):
            if getattr(self, name) < 0:
                raise BadValue(f"{self.name}, {name}", str(getattr(self, name)), "0 or more")

    def cost(self, rate: Decimal, ready: Decimal | None = None) -> Decimal:
        """Cost of one ready unit: (price − credits + minutes × rate / 60) / yield."""
        with working():
            return (self.price - self.credits + self.labour(rate)) / (ready or self.ready)

    def labour(self, rate: Decimal) -> Decimal:
        return wages(self.minutes, rate)


@dataclass(frozen=True, slots=True)
class TestsGave:
    """What tests gave, per unit of weight bought at `price`, what the newest paid."""

    tests: int
    price: Decimal
    ready: Pooled
    minutes: Decimal | None
    credits: Decimal
    per: Unit


def gave(tests: Sequence[CuttingTest]) -> TestsGave | None:
    """Pooled yield of the main outputs, minutes and credits a unit; None without a main output.

    The newest test comes first: its unit and its price are taken.
    """
    like = tests[0]
    unit = like.piece.weight.unit
    ready = pooled_shares([(test, [o.role is Role.MAIN for o in test.outputs]) for test in tests])
    if True not in ready:
        return None
    with working():
        expected = rest_on(tests, like).test
        sums = totals(expected, figures(expected))
        paid = expected.piece.weight.value
        return TestsGave(
            len(tests),
            like.piece.price.to(unit),
            ready[True],
            sums.minutes / paid if sums.minutes else None,
            (sums.credits or ZERO) / paid,
            unit,
        )


@dataclass(frozen=True, slots=True)
class Bought:
    """A specification with its cost per ready unit, and the price at which it ties the best.

    `low` and `high`: cost inside the interval of its yield. `is_sure`: its interval does not
    touch the best one's.
    """

    spec: Spec
    cost: Decimal
    meat: Decimal
    labour: Decimal
    credits: Decimal
    low: Decimal | None
    high: Decimal | None
    break_even: Decimal
    is_best: bool
    is_sure: bool


def compare(specs: Sequence[Spec], rate: Decimal) -> tuple[Bought, ...]:
    """Two to six specifications, in their order. `rate` is money per hour.

    Break-even: the price at which a spec costs as much ready as the cheapest other one.
    """
    if not FEWEST <= len(specs) <= MOST:
        raise BadValue("specifications", str(len(specs)), f"{FEWEST} to {MOST} are right")
    if rate < 0:
        raise BadValue("labour rate", str(rate), "0 or more is right")
    with working():
        costs = [spec.cost(rate) for spec in specs]
        best = costs.index(min(costs))
        found = []
        for i, (spec, cost) in enumerate(zip(specs, costs, strict=True)):
            other = min(c for j, c in enumerate(costs) if j != i)
            even = other * spec.ready + spec.credits - spec.labour(rate)
            high = spec.cost(rate, spec.low) if spec.low and spec.low > 0 else None
            low = spec.cost(rate, min(spec.high, ONE)) if spec.high else None
            found.append(
                Bought(
                    spec,
                    cost,
                    spec.price / spec.ready,
                    spec.labour(rate) / spec.ready,
                    spec.credits / spec.ready,
                    low,
                    high,
                    even,
                    i == best,
                    False,
                )
            )
        leader = found[best]
        return tuple(replace(one, is_sure=_is_sure(one, leader, found)) for one in found)


def _is_sure(one: Bought, leader: Bought, found: Sequence[Bought]) -> bool:
    """The intervals do not meet. Without an interval on either side nothing is sure."""
    if one is leader:
        return all(_is_sure(other, leader, found) for other in found if other is not leader)
    return leader.high is not None and one.low is not None and leader.high < one.low


@dataclass(frozen=True, slots=True)
class Mark:
    """One specification on the picture: a bar from zero to its cost, a whisker over its range."""

    x: float
    width: float
    low: float | None
    high: float | None


def picture(bought: Sequence[Bought], width: float = 600.0) -> tuple[Mark, ...]:
    """Bars from zero on one scale; the longest whisker or bar takes the width.

    A cost below 0 (credits above the price) is drawn left of the zero line.
    """
    reach = [b for one in bought for b in (one.cost, one.low, one.high) if b is not None]
    most, least = max(*reach, ZERO), min(*reach, ZERO)
    scale = width / (float(most - least) or 1.0)
    zero = -float(least) * scale

    def at(value: Decimal) -> float:
        return round(zero + float(value) * scale, 1)

    found = []
    for one in bought:
        bar = at(one.cost)
        low = None if one.low is None else at(one.low)
        high = None if one.high is None else at(one.high)
        found.append(Mark(min(round(zero, 1), bar), round(abs(bar - zero), 1), low, high))
    return tuple(found)
