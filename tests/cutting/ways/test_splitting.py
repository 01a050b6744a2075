"""One piece by two ways, and a pile against grind."""

from decimal import Decimal

import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy import optimize

from cutting.errors import BadValue
from cutting.ways.piles import pile_worth
from cutting.ways.splitting import SplitOutput, best_split

D = Decimal
shares = st.integers(0, 50).map(lambda n: D(n) / 100)
outputs = st.lists(
    st.builds(
        lambda first, second, price, most, over: SplitOutput(
            "p", first, second, D(price), most if most is None else D(most), D(min(over, price))
        ),
        shares,
        shares,
        st.integers(1, 30),
        st.none() | st.integers(0, 12),
        st.integers(0, 9),
    ),
    min_size=1,
    max_size=4,
)


@given(outputs, st.integers(1, 40), st.integers(0, 60), st.integers(0, 60))
def test_no_share_brings_more(rows, weight, first, second):
    """Reference library: scipy.optimize.linprog over the share and what sells of each product."""
    found = best_split(D(weight), rows, (D(first), D(second)), D(24))
    n = len(rows)
    rate = 24 / 60
    aim = (
        [rate * (first - second)]
        + [-float(one.price) for one in rows]
        + [-float(one.over) for one in rows]
    )
    equal = [
        [-weight * float(one.first - one.second)]
        + [float(i == j) for j in range(n)]
        + [float(i == j) for j in range(n)]
        for i, one in enumerate(rows)
    ]
    right = [weight * float(one.second) for one in rows]
    bounds = [(0, 1)]
    bounds += [(0, None if one.most is None else float(one.most)) for one in rows] + [(0, None)] * n
    answer = optimize.linprog(aim, A_eq=equal, b_eq=right, bounds=bounds)
    assert float(found.money) == pytest.approx(-answer.fun - rate * second, abs=1e-6)
    assert found.gain >= 0


def test_a_clod_is_split_where_no_more_roasts_sell():
    """Worked by hand: 20 lb; roasts 60 % at 7 where 6 lb sell, steaks 50 % at 8, all sell, the rest of
    either way alike: half of it by the first way makes the 6 lb."""
    roast = SplitOutput("Roast", D("0.6"), D(0), D(7), D(6), D(2))
    steak = SplitOutput("Steak", D(0), D("0.5"), D(8))
    found = best_split(D(20), [roast, steak], (D(20), D(20)))
    assert found.share == D("0.5")
    assert found.money == 6 * 7 + 5 * 8
    assert found.alone == (D(80), D(6 * 7 + 6 * 2))
    assert found.full == ("Roast",)
    assert found.is_mixed
    assert not best_split(D(20), [steak], (D(0), D(0))).is_mixed
    with pytest.raises(BadValue, match="more than 0"):
        best_split(D(0), [steak], (D(0), D(0)))


def test_stew_pays_for_its_time_down_to_a_price():
    """Worked by hand: 1.50 more than grind for 2.5 minutes more is 0.60 a minute; at 24 an hour grind
    is better under 5.49 + 1.00."""
    found = pile_worth(D("6.99"), D(3), D("5.49"), D("0.5"), D(24))
    assert (found.gain, found.a_minute) == (D("1.50"), D("0.6"))
    assert found.grind_below == D("6.49")
    assert found.is_worth_it(D(24))
    assert not found.is_worth_it(D(40))
    assert pile_worth(D(9), D(0), D(5), D("0.5"), D(24)).a_minute is None
    with pytest.raises(BadValue, match="0 or more"):
        pile_worth(D(9), D(-1), D(5), D(0), D(24))
