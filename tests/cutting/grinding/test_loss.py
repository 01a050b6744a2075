"""What grinding loses, and patties."""

from decimal import Decimal

import pytest
from hypothesis import given
from hypothesis import strategies as st

from cutting.errors import BadValue
from cutting.grinding.loss import limits_of, loss_of, patties

D = Decimal


def test_the_published_chart_has_its_limits():
    """NIST/SEMATECH e-Handbook 6.3.2.2, the flow-rate example (value from memory): mean 50.81, mean
    moving range 1.8778, limits 45.82 and 55.80."""
    rates = ["49.6", "47.6", "49.9", "51.3", "47.8", "51.2", "52.6", "52.4", "53.6", "52.1"]
    found = limits_of([D(one) for one in rates])
    assert found.usual == D("50.81")
    assert round(found.low, 1) == D("45.8")
    assert round(found.high, 1) == D("55.8")
    assert found.holds(D(50))
    assert not found.holds(D(60))
    assert limits_of([D(1)] * 7) is None


def test_loss_is_what_neither_came_out_nor_stayed():
    assert loss_of(D(12), D("11.4"), D("0.3")) == D("0.025")
    with pytest.raises(BadValue, match="more than 0"):
        loss_of(D(0), D(0), D(0))


@given(st.integers(0, 4000), st.integers(1, 60), st.integers(1, 12))
def test_patties_and_what_is_left_are_the_meat(ounces, each, in_box):
    found = patties(D(ounces), D(each), in_box)
    assert found.count * each + found.left == ounces
    assert 0 <= found.left < each
    assert found.boxes * in_box <= found.count
    with pytest.raises(BadValue, match="more than 0"):
        patties(D(1), D(0))
