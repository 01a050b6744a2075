"""Least and most from what sold: against the normal distribution and against trying every quantity."""

from decimal import Decimal

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy import stats

from cutting.errors import BadValue
from cutting.planning.selling import HALF, balance, propose

D = Decimal
weeks = st.lists(st.integers(0, 40).map(D), min_size=3, max_size=12)


@pytest.mark.parametrize(
    ("price", "cost", "over", "share"),
    [("12", "8", "6", "0.667"), ("10", "5", "5", "1"), ("10", "9", "1", "0.111")],
)
def test_the_balance_is_what_a_lost_sale_costs_over_both(price, cost, over, share):
    assert balance(D(price), D(cost), D(over)).quantize(D("0.001")) == D(share)
    with pytest.raises(BadValue, match="more than its cost"):
        balance(D(cost), D(price), D(over))


def test_the_most_is_the_quantity_that_brings_most_when_every_one_is_tried():
    """Brute force: the expected profit of every half pound over drawn weeks of that mean and spread."""
    sold = [D(20), D(26), D(18), D(30), D(22), D(24), D(16), D(28)]
    price, cost, over = 12.0, 8.0, 3.0
    found = propose(sold, balance(D(12), D(8), D(3)))
    values = [float(one) for one in sold]
    demand = np.random.default_rng(4).normal(np.mean(values), np.std(values, ddof=1), 200_000)

    def profit(quantity):
        bought = np.minimum(np.maximum(demand, 0), quantity)
        return np.mean(bought * price + (quantity - bought) * over - quantity * cost)

    best = max(np.arange(0, 50, 0.5), key=profit)
    assert abs(float(found.most) - best) <= 0.5
    want = stats.norm(np.mean(values), np.std(values, ddof=1)).ppf(0.2)
    assert abs(float(found.least) - want) <= 0.26


@given(weeks, st.integers(1, 99).map(lambda p: D(p) / 100))
def test_least_is_never_over_most_and_both_are_halves(sold, share):
    found = propose(sold, share)
    assert 0 <= found.least <= found.most
    assert found.most % HALF == found.least % HALF == 0
    assert propose(sold, share, D(2)).most >= found.most


def test_too_few_weeks_say_nothing_and_a_steady_product_is_foretold_without_error():
    assert propose([D(4), D(5)], D("0.6")) is None
    steady = propose([D(10)] * 6, D("0.6"))
    assert (steady.least, steady.most, steady.error, steady.naive) == (10, 10, 0, 0)
    wild = propose([D(10), D(20), D(10), D(20), D(10), D(20)], D("0.6"))
    assert wild.error < wild.naive
    with pytest.raises(BadValue, match="0 or more"):
        propose([D(1), D(-1), D(2)], D("0.5"))
