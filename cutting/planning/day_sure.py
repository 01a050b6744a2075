"""How sure a day's plan is: its yields drawn again and again with the spread of the tests behind them.

Only the solver's process imports this module: it needs numpy. Seeded, so that the same plan is always
told the same.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from decimal import Decimal
from functools import partial

import numpy as np

from cutting.planning.day import Choice, Day, DayWay, day_figures
from cutting.quantities import ZERO, working

DRAWS, SEED = 4000, 12
USUAL_SPREAD = 0.10
"""Of a share, where fewer than two tests say: one standard deviation. Common practice, no published
source."""
USUAL_SPREAD_OF_MINUTES = 0.15
"""Of the minutes of one bag, where fewer than two tests used the clock. Common practice, no published
source."""
LOW, HIGH = 5.0, 95.0


@dataclass(frozen=True, slots=True)
class Sure:
    """Nine times in ten the profit lies between `low` and `high`; of each product that has a least,
    how often it is met, and how often the hours are kept, 0 to 1."""

    low: float
    high: float
    met: Mapping[str, float]
    in_time: float


def how_sure(
    day: Day,
    choice: Choice,
    spreads: Mapping[tuple[str, str], float],
    paces: Mapping[str, float] | None = None,
) -> Sure:
    """`spreads`: the standard deviation of a single test's share, by way and product; `paces`: that of
    its minutes, as a share of them, by way. Bags of one way are drawn each by itself."""
    draws = np.random.default_rng(SEED)
    made = {one.name: np.zeros(DRAWS) for one in day.products}
    cost, minutes = 0.0, np.zeros(DRAWS)
    for bag, number in zip(day.bags, choice, strict=True):
        if number is None:
            continue
        way = day.ways[number]
        cost += float(day.cost_of(bag, way))
        pace = _together(way, partial(_pace, paces or {}))
        minutes += float(day.minutes_of(bag, way)) * _drawn(draws, pace)
        for name, weight in day.made_of(bag, way).items():
            share = float(dict(way.outputs)[name])
            usual = USUAL_SPREAD * share
            spread = _together(way, partial(_spread, spreads, name, usual))
            made[name] = made[name] + float(weight) * _drawn(
                draws, spread / share if share else 0.0
            )
    minutes += float(day_figures(day, choice).minutes) - float(_of_bags(day, choice))
    profit = np.full(DRAWS, -cost)
    met = {}
    for one in day.products:
        have, price, over = float(one.have), float(one.price.amount), float(one.over)
        there = have + made[one.name]
        most = np.inf if one.most is None else float(one.most)
        sold = np.minimum(there, most)
        profit += sold * price + (there - sold) * over - float(one.sales(one.have))
        if one.least > 0:
            met[one.name] = float(np.mean(there >= float(one.least) - 1e-9))
    low, high = np.percentile(profit, [LOW, HIGH])
    in_time = float(np.mean(minutes <= float(day.minutes) + 1e-9))
    return Sure(float(low), float(high), met, in_time)


def _pace(paces: Mapping[str, float], way: str) -> float:
    return paces.get(way, USUAL_SPREAD_OF_MINUTES)


def _spread(
    spreads: Mapping[tuple[str, str], float], product: str, usual: float, way: str
) -> float:
    return spreads.get((way, product), usual)


def _drawn(draws: np.random.Generator, spread: float) -> np.ndarray:
    return np.maximum(draws.normal(1.0, spread, DRAWS), 0.0)


def _together(way: DayWay, spread: Callable[[str], float]) -> float:
    """The spread of a way; of one that is made of others that of its parts."""
    if not way.parts:
        return spread(way.id)
    return math.sqrt(sum((float(part) * spread(own)) ** 2 for own, part in way.parts))


def _of_bags(day: Day, choice: Choice) -> Decimal:
    """Minutes of the bags alone, without what is lost at the block."""
    with working():
        pairs = zip(day.bags, choice, strict=True)
        own = [day.minutes_of(bag, day.ways[way]) for bag, way in pairs if way is not None]
        return sum(own, ZERO)
