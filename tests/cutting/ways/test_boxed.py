"""A carcass piece against boxes of what it gives. Common practice, no published source."""

from decimal import Decimal as D

import pytest
from hypothesis import given
from hypothesis import strategies as st

from cutting.errors import BadValue
from cutting.quantities import Unit, UnitPrice, Weight
from cutting.sheet.cutting_test import Piece
from cutting.ways.boxed import BoxedPiece, against_boxes


def quarter(price="3.10", freight="16", weight="160"):
    return Piece(
        Weight.of(weight, "lb"), UnitPrice.of(price, "lb"), "Hindquarter", freight=D(freight)
    )


LOIN = BoxedPiece("Short loin", D("0.15"), UnitPrice.of("6.10", "lb"))
INSIDE = BoxedPiece("Inside", D("0.12"), UnitPrice.of("4.20", "lb"))


def test_it_is_worked_by_hand():
    """160 lb at 3.10 = 496; freight 16; 90 min at 24 = 36; beside 300: 248 for the pieces.
    Boxes: 24 lb at 6.10 = 146.40 and 19.2 lb at 4.20 = 80.64; 43.2 lb of freight at 0.10 = 4.32: 231.36."""
    found = against_boxes(quarter(), [LOIN, INSIDE], D(300), D(90), D(24), D("0.10"))
    assert found.weights == (D(24), D("19.2"))
    assert found.carcass.total == D(248)
    assert found.boxes.total == D("231.36")
    assert found.saved == D("-16.64")
    assert found.even_at == D("2.996")  # 3.10 less 16.64 / 160


@given(
    price=st.decimals("0.5", "20", places=2),
    beside=st.decimals("0", "100", places=2),
    minutes=st.integers(0, 600),
    freight=st.decimals("0", "2", places=2),
)
def test_at_the_even_price_both_cost_the_same(price, beside, minutes, freight):
    asked = ([LOIN, INSIDE], beside, D(minutes), D(24), freight)
    found = against_boxes(quarter(str(price)), *asked)
    if found.even_at:
        again = against_boxes(quarter(str(found.even_at)), *asked)
        assert abs(again.saved) < D("1e-9")
    assert (found.saved > 0) == (found.even_at is not None and found.even_at > price)


def test_a_price_by_the_kilo_is_the_same_money():
    by_kilo = BoxedPiece("Short loin", D("0.15"), UnitPrice(D("6.10") / D("0.45359237"), Unit.KG))
    one = against_boxes(quarter(), [LOIN], D(0), D(0), None)
    other = against_boxes(quarter(), [by_kilo], D(0), D(0), None)
    assert abs(one.saved - other.saved) < D("1e-9")


@pytest.mark.parametrize(
    ("pieces", "says"),
    [([], "none comes in a box"), ([BoxedPiece("Flap", D("0.02"))], "price of a box of Flap")],
)
def test_what_cannot_be_compared_says_why(pieces, says):
    with pytest.raises(BadValue, match=says):
        against_boxes(quarter(), pieces, D(0), D(0), None)


@pytest.mark.parametrize("share", ["0", "-0.1", "1.1"])
def test_a_share_is_a_share(share):
    with pytest.raises(BadValue, match="above 0"):
        BoxedPiece("Flap", D(share))
