"""Give and take. Common practice, no published source; the sums are worked out by hand."""

from decimal import Decimal

import pytest
from hypothesis import given
from hypothesis import strategies as st

from cutting.errors import BadValue
from cutting.prices.give_take import Layer, Pieces, Side, give_and_take
from cutting.quantities import Unit, UnitPrice, Weight

D = Decimal


def side(name, price, share="1", per="lb"):
    return Side(name, UnitPrice.of(price, per), D(share))


def test_a_quarter_inch_of_meat_on_a_rack_of_spare_ribs():
    """18 by 6 by 1/4 in = 27 in³ = 442.45 cm³ (1 in = 2.54 cm, exact); at 1.06 g a cm³ 1.034 lb."""
    moved = Layer(D(18), D(6), D("0.25")).weight(Unit.LB)
    assert round(moved.value, 3) == D("1.034")
    found = give_and_take(moved, [side("belly", "5.99")], [side("ribs", "3.99")])
    assert round(found.given, 2) == D("6.19")
    assert round(found.taken, 2) == D("4.13")
    assert round(found.gain, 2) == D("-2.07")
    assert found.break_even.amount == D("5.99")


def test_four_ribs_taken_from_the_back_rib_rack():
    """Four ribs of 0.35 lb, 60 % of them meat that sells as chops, the rest bone."""
    moved = Pieces(D(4), Weight.of("0.35", "lb")).weight(Unit.LB)
    assert moved.value == D("1.40")
    found = give_and_take(moved, [side("rack", "4.50")], [side("country", "3.99")])
    assert (found.given, found.taken) == (D("6.300"), D("5.5860"))
    two = give_and_take(
        moved, [side("rack", "4.50")], [side("chop", "6", "0.6"), side("bone", "1", "0.4")]
    )
    assert two.taken == D("1.4") * (D("3.6") + D("0.4"))
    assert round(two.break_even.amount * D("0.6") + D("0.4"), 9) == D("4.5")


def test_prices_of_different_units_meet():
    found = give_and_take(
        Weight.of("1", "kg"), [side("a", "1", per="lb")], [side("b", "2.5", per="kg")]
    )
    assert round(found.given, 4) == D("2.2046")
    assert found.taken == D("2.5")


amounts = st.decimals(D("0.01"), D("200"), places=2)
shares = st.decimals(D("0.05"), D("0.5"), places=2)


@given(amounts, amounts, amounts, amounts, shares, shares)
def test_at_the_break_even_price_nothing_is_won_or_lost(weight, giver, taker, other, one, two):
    moved = Weight(weight, Unit.LB)
    takers = [side("t", str(taker), str(one)), side("o", str(other), str(two))]
    found = give_and_take(moved, [side("g", str(giver))], takers)
    even = Side("t", found.break_even, one)
    again = give_and_take(moved, [side("g", str(giver))], [even, takers[1]])
    if found.break_even.amount > 0:
        assert abs(again.gain) < D("1e-12") * max(found.given, 1)
    else:
        assert again.gain >= 0


@given(amounts, amounts)
def test_what_one_gives_the_other_takes(one, other):
    """Moving a layer and moving it back leaves everything as it was."""
    moved = Layer(D(10), D(4), one).weight(Unit.LB)
    there = give_and_take(moved, [side("a", str(one))], [side("b", str(other))])
    back = give_and_take(moved, [side("b", str(other))], [side("a", str(one))])
    assert there.gain == -back.gain


def test_nothing_moved_changes_nothing_and_still_says_the_even_price():
    moved = Layer(D(10), D(4), D(0)).weight(Unit.LB)
    found = give_and_take(moved, [side("a", "3")], [side("b", "4", "0.5")])
    assert (found.given, found.taken, found.break_even.amount) == (0, 0, 6)


@pytest.mark.parametrize(
    ("wrong", "says"),
    [
        (lambda: Layer(D(0), D(1), D(1)), "length"),
        (lambda: Layer(D(1), D(-1), D(1)), "width"),
        (lambda: Layer(D(1), D(1), D("-0.1")), "thickness"),
        (lambda: Pieces(D(-1), Weight.of("1", "lb")), "count"),
        (lambda: side("a", "1", "0"), "share of a"),
        (lambda: side("a", "1", "1.01"), "share of a"),
        (lambda: give_and_take(Weight.of("1", "lb"), [], [side("a", "1")]), "givers"),
        (lambda: give_and_take(Weight.of("1", "lb"), [side("a", "1")], []), "takers"),
        (
            lambda: give_and_take(
                Weight.of("1", "lb"), [side("a", "1", "0.6")] * 2, [side("b", "1")]
            ),
            "sum to 1.2",
        ),
    ],
)
def test_what_cannot_be_is_refused_by_name(wrong, says):
    with pytest.raises(BadValue, match=says):
        wrong()
