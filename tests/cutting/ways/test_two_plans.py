"""Two plans in one piece: shares follow the split, every pile stands once."""

from decimal import Decimal

import pytest
from hypothesis import given
from hypothesis import strategies as st

from cutting.errors import BadValue
from cutting.ways.two_plans import both, check_split, share_at

D = Decimal
shares = st.dictionaries(st.sampled_from("abcdef"), st.decimals(0, 1, places=3), max_size=6).filter(
    lambda one: sum(one.values()) <= 1
)
splits = st.decimals("0.01", "0.99", places=2)


@given(shares, shares, splits)
def test_the_shares_of_both_sum_to_the_split_of_their_sums(first, rest, split):
    found = both(list(first.items()), list(rest.items()))
    assert {each.key for each in found} == set(first) | set(rest)
    assert len(found) == len({each.key for each in found})
    total = sum(share_at(split, each.one, each.rest) for each in found)
    wanted = split * sum(first.values()) + (1 - split) * sum(rest.values())
    assert abs(total - wanted) < D("1e-20")
    assert total <= 1


def test_the_first_plans_order_comes_first_and_no_share_stays_none():
    found = both([("steak", D("0.5")), ("trim", None)], [("roast", D("0.8")), ("trim", D("0.1"))])
    assert [each.key for each in found] == ["steak", "trim", "roast"]
    assert share_at(D("0.5"), found[1].one, found[1].rest) is None
    assert share_at(D("0.5"), found[2].one, found[2].rest) == D("0.40")


@pytest.mark.parametrize("split", ["0", "1", "1.2", "-0.1"])
def test_a_split_beyond_the_piece_is_refused(split):
    with pytest.raises(BadValue, match="less than 100 %"):
        check_split(D(split))
