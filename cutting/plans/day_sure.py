"""How sure a day's plan is: its yields drawn again and again with the spread of the tests behind them.

Only the solver's process imports this module: it needs numpy. Seeded, so that the same plan is always
told the same.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from cutting.plans.day import Choice, Day

DRAWS, SEED = 4000, 12
USUAL_SPREAD = 0.10
"""Of a share, where fewer than two tests say: one standard deviation. Common practice, no published
source."""
LOW, HIGH = 5.0, 95.0


@dataclass(frozen=True, slots=True)
class Sure:
    """Nine times in ten the profit lies between `low` and `high`; of each product that has a least,
    how often it is met, 0 to 1."""

    low: float
    high: float
    met: Mapping[str, float]


def how_sure(day: Day, choice: Choice, spreads: Mapping[tuple[str, str], float]) -> Sure:
    """`spreads`: the standard deviation of a single test's share, by way and product. Bags of one
    way are drawn each by itself."""
    draws = np.random.default_rng(SEED)
    made = {one.name: np.zeros(DRAWS) for one in day.products}
    cost = 0.0
    for bag, number in zip(day.bags, choice, strict=True):
        if number is None:
            continue
        way = day.ways[number]
        cost += float(day.cost_of(bag, way))
        for name, weight in day.made_of(bag, way).items():
            share = float(dict(way.outputs)[name])
            spread = spreads.get((way.id, name), USUAL_SPREAD * share)
            relative = spread / share if share else 0.0
            factor = np.maximum(draws.normal(1.0, relative, DRAWS), 0.0)
            made[name] = made[name] + float(weight) * factor
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
    return Sure(float(low), float(high), met)
