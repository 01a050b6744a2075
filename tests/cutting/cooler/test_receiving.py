"""A delivery's sums. Common practice, no published source; Class III from NIST Handbook 44."""

from decimal import Decimal

import pytest
from hypothesis import given
from hypothesis import strategies as st

from cutting.cooler.receiving import (
    InvoiceLine,
    differences,
    part_of,
    short_weight,
    spread,
    stock,
    totals,
)
from cutting.errors import BadValue
from cutting.quantities import Unit, UnitPrice, Weight

D = Decimal


def line(weight, price="7.49", unit="lb"):
    return InvoiceLine(Weight.of(weight, unit), UnitPrice.of(price, unit))


def test_three_bags_and_their_invoice():
    found = totals([line("6.17"), line("5.92"), line("12.40", "4.10")], Unit.LB)
    assert (found.bags, found.weight, found.amount) == (3, D("24.49"), D("141.39"))
    assert differences(found, 3, D("24.49"), D("141.39")) == []
    wrong = differences(found, 4, D("25.49"), D("148.88"))
    assert [(d.what, d.over) for d in wrong] == [
        ("bags", 1),
        ("weight", D("1.00")),
        ("amount", D("7.49")),
    ]
    assert differences(found, None, None, None) == []


def test_bags_in_other_units_are_summed_exactly():
    found = totals([line("1", unit="kg"), line("1")], Unit.LB)
    assert round(found.weight, 6) == D("3.204623")


weights = st.lists(st.decimals(D("0.01"), D("99"), places=2), min_size=1, max_size=40)


@given(st.decimals(D(0), D("5000"), places=2), weights)
def test_freight_over_the_bags_sums_to_the_freight_and_follows_weight(amount, some):
    parts = spread(amount, some)
    assert sum(parts) == amount
    assert all(part >= 0 for part in parts)
    for part, weight in zip(parts, some, strict=True):
        assert abs(part - amount * weight / sum(some)) <= D("0.01")


@pytest.mark.parametrize(
    ("own", "missing"),
    [("6.17", None), ("6.15", None), ("6.14", D("0.03")), ("5.00", D("1.17")), ("7.00", None)],
)
def test_a_short_bag_is_claimed_beyond_what_two_scales_explain(own, missing):
    """NIST Handbook 44, 2.20: 617 divisions of load, two divisions of tolerance."""
    found = short_weight(line("6.17"), Weight.of(own, "lb"), Weight.of("0.01", "lb"))
    if missing is None:
        assert found is None
    else:
        assert (found.missing, found.allowed) == (missing, D("0.02"))
        assert found.worth == round(missing * D("7.49"), 2)


def test_there_must_be_bags_to_carry_freight():
    with pytest.raises(BadValue, match="bags"):
        spread(D("1"), [])
    assert spread(D(0), []) == ()
    with pytest.raises(BadValue, match="0 or less"):
        spread(D(1), [D(0)])


@given(st.decimals("0", "500", places=2), st.decimals("0.01", "99.99", places=2))
def test_what_goes_back_carries_its_part_of_the_freight_and_no_more(freight, part):
    back = part_of(freight, part, D(100))
    assert 0 <= back <= freight
    assert abs(back - freight * part / 100) <= D("0.005")


def test_what_lies_in_the_cooler_in_pounds_and_money():
    lb = Weight.of("10", "lb")
    found = stock(
        [
            (lb, UnitPrice.of("5", "lb"), D(2), D("0.5")),
            (Weight.of("4.5359237", "kg"), None, D(0), D(0)),
        ],
        Unit.LB,
    )
    assert (found.count, found.weight, found.worth, found.unpriced) == (2, D(20), D("51.50"), 1)
