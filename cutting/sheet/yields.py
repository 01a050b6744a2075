"""Yields over many tests: pooled, with their interval. One test is an anecdote.

Shares are fractions of 1 of the weight paid for.
"""

from __future__ import annotations

import statistics
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from decimal import Decimal
from typing import TypeVar

from cutting.errors import BadValue
from cutting.quantities import CONSTANTS, ONE, ZERO, Unit, UnitPrice, Weight, working
from cutting.sheet.cutting_test import CuttingTest, Output, Weighing, same_name

Key = TypeVar("Key")
T_95 = tuple(Decimal(t) for t in CONSTANTS["published"]["student_t"]["two_sided_95"])


@dataclass(frozen=True, slots=True)
class Pooled:
    """`share`: Σ output / Σ input. `low` and `high`: 95 % interval of the mean of single yields.

    With one test there is no spread, so deviation and interval are None, not zero.
    """

    tests: int
    share: Decimal
    mean: Decimal
    least: Decimal = ZERO
    most: Decimal = ZERO
    """The single yields: the smallest and the largest."""
    deviation: Decimal | None = None
    low: Decimal | None = None
    high: Decimal | None = None


def pooled(pairs: Sequence[tuple[Decimal, Decimal]]) -> Pooled:
    """From (output weight, weight paid for) of each test. Student's t, as in any handbook.

    Raises BadValue without a test or for a weight paid for of nothing.
    """
    if not pairs or any(paid <= 0 for _, paid in pairs):
        raise BadValue("tests", "none with a weight paid for", "at least one is right")
    with working():
        count = len(pairs)
        singles = [weight / paid for weight, paid in pairs]
        share = sum((w for w, _ in pairs), ZERO) / sum((paid for _, paid in pairs), ZERO)
        mean = statistics.mean(singles)
        ends = (min(singles), max(singles))
        if count == 1:
            return Pooled(1, share, mean, *ends)
        deviation = statistics.stdev(singles)
        half = t_of(count - 1) * deviation / Decimal(count).sqrt()
        return Pooled(count, share, mean, *ends, deviation, mean - half, mean + half)


def pooled_shares(tests: Sequence[tuple[CuttingTest, Sequence[Key]]]) -> dict[Key, Pooled]:
    """The share of the weight paid for that each kind of output gave, over all tests: the one
    there is.

    Each test comes with a key for each of its outputs (its name, its cut); outputs with the same
    key are one kind, and a kind that a test has not gave nothing in it.
    """
    paid = [test.piece.weight.to(Unit.LB) for test, _ in tests]
    weights: dict[Key, list[Decimal]] = {}
    with working():
        for at, (test, keys) in enumerate(tests):
            for output, key in zip(test.outputs, keys, strict=True):
                row = weights.setdefault(key, [ZERO] * len(tests))
                row[at] += sum((w.weight.to(Unit.LB) for w in output.weighings), ZERO)
    return {key: pooled(list(zip(row, paid, strict=True))) for key, row in weights.items()}


def by_name(test: CuttingTest) -> list[str]:
    """The names of a test's outputs as they meet those of other tests."""
    return [same_name(output.name) for output in test.outputs]


def t_of(degrees: int) -> Decimal:
    """Student's t that leaves 2.5 % on each side; past 100 degrees that of 100, a hair wide."""
    return T_95[min(degrees, len(T_95)) - 1]


@dataclass(frozen=True, slots=True)
class Rest:
    """What prices rest on: one expected test made of many, and how sure its yields are."""

    test: CuttingTest
    saleable: Pooled
    outputs: Mapping[str, Pooled]
    """By the output's name."""

    @property
    def tests(self) -> int:
        return self.saleable.tests


def rest_on(tests: Sequence[CuttingTest], like: CuttingTest) -> Rest:
    """A test like `like`, weighing out as `tests` together did, each by its weight.

    Keeps the piece, prices and credits of `like`; an output another test has and `like` has not
    is added as it was there. Outputs meet by name. Drip and discards are pooled too.
    """
    unit = like.piece.weight.unit
    paid = [test.piece.weight.to(unit) for test in tests]
    found: dict[str, Output] = {same_name(o.name): o for o in like.outputs}
    for test in tests:
        for output in test.outputs:
            found.setdefault(same_name(output.name), output)
    given = pooled_shares([(test, by_name(test)) for test in tests])
    nothing = pooled([(ZERO, each) for each in paid])
    with working():
        outputs, shares = [], {}
        for key, output in found.items():
            pool = shares[output.name] = given.get(key, nothing)
            expected = pool.share * like.piece.weight.value
            outputs.append(
                replace(
                    output,
                    weighings=(Weighing(Weight(expected, unit)),) if expected else (),
                    count=output.count if len(tests) == 1 else None,
                    minutes=_minutes(tests, key, paid, like.piece.weight.value),
                )
            )
        sold = pooled_shares(
            [(test, [found[key].goes_to_case for key in by_name(test)]) for test in tests]
        )
        piece = replace(like.piece, opened_weight=None)
        return Rest(
            replace(like, piece=piece, outputs=tuple(outputs)),
            sold.get(True, nothing),
            shares,
        )


def _minutes(
    tests: Sequence[CuttingTest], key: str, paid: Sequence[Decimal], weight: Decimal
) -> Decimal | None:
    """Minutes of one pile for a piece of `weight`, from the tests whose clock ran."""
    timed = [
        (output.minutes, each)
        for test, each in zip(tests, paid, strict=True)
        for output in test.outputs
        if same_name(output.name) == key and output.minutes is not None
    ]
    total = sum((each for _, each in timed), ZERO)
    return sum((m for m, _ in timed), ZERO) / total * weight if total > 0 else None


def at_invoice(test: CuttingTest, price: UnitPrice) -> CuttingTest:
    """The same test bought at another price; credits, freight and discount stay as they are."""
    return replace(test, piece=replace(test.piece, price=price))


def cost_between(cost: Decimal, saleable: Pooled, paid: Decimal) -> tuple[Decimal, Decimal] | None:
    """Lowest and highest true cost inside the interval of the saleable yield."""
    if saleable.low is None or saleable.high is None or saleable.low <= 0:
        return None
    with working():
        return cost / (min(saleable.high, ONE) * paid), cost / (saleable.low * paid)
