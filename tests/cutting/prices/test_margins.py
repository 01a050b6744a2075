from decimal import Decimal
from fractions import Fraction
from math import ceil

import pytest
from hypothesis import example, given
from hypothesis import strategies as st

from cutting.errors import BadValue
from cutting.prices.margins import (
    Convention,
    Loads,
    Policy,
    TraySet,
    exact_price,
    margin_at,
    margin_on,
    markup_as_margin,
    markup_of,
    propose,
    retail_price,
    without_tax,
)
from cutting.quantities import NOISE, Band, Direction, EndingRule, tray_sticker

D = Decimal
BANDS = (Band(D(20), (D("0.49"), D("0.99"))), Band(None, (D("0.99"),)))
NEAREST = EndingRule(BANDS, Direction.NEAREST)
DOWN = EndingRule(BANDS, Direction.DOWN)


@pytest.mark.parametrize(
    ("cost", "target", "by", "exact"),
    [
        ("5", "0.5", "margin", "10"),
        ("5", "1", "markup", "10"),
        ("6", "0.25", "margin", "8"),
        ("6", "0", "margin", "6"),
        ("-3", "0.5", "margin", "-6"),
    ],
)
def test_price_before_its_ending(cost, target, by, exact):
    assert exact_price(D(cost), D(target), Convention(by)) == D(exact)


@pytest.mark.parametrize(("target", "by"), [("1", "margin"), ("1.2", "margin"), ("-1", "markup")])
def test_a_target_that_cannot_be_met_is_refused(target, by):
    with pytest.raises(BadValue, match="is right"):
        exact_price(D(5), D(target), Convention(by))


def test_labour_packaging_and_shrink_come_before_the_margin():
    loads = Loads(labour=D("0.40"), packaging=D("0.10"), shrink=D("0.1"))
    assert loads.on(D("4")) == D(5)
    assert propose(D(4), Policy(D("0.5"), NEAREST), loads).exact == D(10)


@pytest.mark.parametrize("bad", [{"labour": D(-1)}, {"packaging": D(-1)}, {"shrink": D(1)}])
def test_impossible_loads_are_refused(bad):
    with pytest.raises(BadValue):
        Loads(**bad)


def test_a_proposal_tells_its_margin_and_markup():
    found = propose(D("4.30"), Policy(D("0.42"), NEAREST))
    assert (found.price, round(found.exact, 2)) == (D("7.49"), D("7.41"))
    assert (round(found.margin, 3), round(found.markup, 3)) == (D("0.426"), D("0.742"))
    assert found.why == ""


def test_a_price_rounded_under_the_floor_is_not_proposed_and_the_reason_is_told():
    found = propose(D("4.49"), Policy(D("0.40"), DOWN, floor=D("0.38")))
    assert found.price == D("7.49")  # 6.99 would leave 35.8 %
    assert found.why == "6.99 would leave 35.8 %, under the floor of 38.0 %"
    assert found.margin >= D("0.38")


def test_the_margin_of_a_price_is_without_tax_and_with_what_the_product_carries():
    loads = Loads(labour=D("0.50"), packaging=D("0.25"), shrink=D("0.10"))
    # (5.00 + 0.75) / 0.9 = 6.3889 of 11.00 / 1.10 = 10.00
    assert round(margin_at(D("11.00"), D(5), loads, D("0.10")), 4) == D("0.3611")
    assert margin_at(D(10), D(5)) == margin_on(D(10), D(5)) == D("0.5")


@pytest.mark.parametrize("bad", ["0", "-1", "9.999", "10000.01", "0.001"])
def test_a_price_that_no_tag_can_show_is_refused(bad):
    with pytest.raises(BadValue, match=r"more than 0|parts of a cent"):
        retail_price(D(bad))
    assert retail_price(D("7.490")) == D("7.49")


def test_a_negative_cost_still_gives_the_lowest_price():
    assert propose(D(-2), Policy(D("0.4"), NEAREST)).price == D("0.49")


costs = st.decimals(D("0.05"), D(60), places=2)
targets = st.decimals(D(0), D("0.8"), places=2)


@given(costs, targets, st.decimals(D(0), D("0.5"), places=2), st.sampled_from(list(Direction)))
def test_the_floor_is_never_broken_and_the_ending_is_always_allowed(cost, target, floor, way):
    rule = EndingRule(BANDS, way)
    found = propose(cost, Policy(target, rule, floor))
    assert found.margin >= floor - NOISE
    assert rule.up(found.price) == found.price


@given(
    costs,
    st.sampled_from([D(0), D("0.03"), D("0.04")]),
    st.sampled_from([D(0), D("0.0725"), D("0.08")]),
    st.sampled_from([D("0.2"), D("0.35"), D("0.4")]),
)
@example(D("1.60"), D("0.04"), D("0.08"), D("0.2"))  # 2.25 to the cent; it was 2.26
def test_a_price_that_is_exact_is_not_lifted_by_what_a_division_leaves(cost, shrink, tax, margin):
    """Against exact fractions (Python's own): the cent that is just enough, and no more."""
    cents = EndingRule((Band(None, (D(0),), every=D("0.01")),))
    loaded = Fraction(cost) / (1 - Fraction(shrink))
    exact = loaded / (1 - Fraction(margin)) * (1 + Fraction(tax))
    for policy in (Policy(margin, cents), Policy(D(0), cents, floor=margin)):
        found = propose(cost, policy, Loads(shrink=shrink), tax)
        assert Fraction(found.price) == Fraction(ceil(exact * 100), 100)


@given(costs, costs, targets, st.sampled_from(list(Direction)))
def test_a_higher_cost_never_lowers_a_proposed_price(one, other, target, way):
    policy = Policy(target, EndingRule(BANDS, way), D("0.2"))
    low, high = sorted((one, other))
    assert propose(low, policy).price <= propose(high, policy).price


@given(targets)
def test_margin_and_markup_are_two_names_of_one_thing(margin):
    markup = markup_of(D(1), 1 - margin)
    assert abs(markup_as_margin(markup) - margin) < D("1e-30")
    by_markup = exact_price(D(7), markup, Convention.MARKUP)
    assert abs(exact_price(D(7), margin) - by_markup) < D("1e-30")


def test_margins_are_on_the_price_without_its_tax():
    assert without_tax(D("11.00"), D("0.10")) == D(10)
    with pytest.raises(BadValue, match="0 % or more"):
        without_tax(D(11), D("-0.1"))


def test_what_a_unit_carries_of_labour_and_packaging():
    """Five minutes at 24.00 an hour; a tray of 1.25 lb whose parts cost 0.25."""
    each = TraySet(tray=D("0.12"), pad=D("0.04"), film=D("0.06"), label=D("0.03"))
    found = Loads.of(shrink=D("0.1"), minutes=D(5), rate=D(24), packing=each.cost, tray=D("1.25"))
    assert (found.labour, found.packaging, found.on(D("6.8"))) == (D(2), D("0.2"), D(10))
    assert Loads.of(shrink=D(0), packing=each.cost) == Loads()
    with pytest.raises(BadValue, match="pad"):
        TraySet(pad=D(-1))


@pytest.mark.parametrize(
    ("price", "weight", "sticker"), [("7.49", "1.25", "9.36"), ("7.50", "0.99", "7.43")]
)
def test_a_tray_sticker_is_half_up_to_the_cent(price, weight, sticker):
    assert tray_sticker(D(price), D(weight)) == D(sticker)
