"""A tray sold for less."""

from datetime import date, timedelta
from decimal import Decimal as D

import pytest

from cutting.errors import BadValue
from cutting.labels.mark_down import Shrink, at_price, is_due, marked
from cutting.quantities import Unit, UnitPrice, Weight

DAY = date(2026, 11, 26)


@pytest.mark.parametrize(
    ("price", "off", "net", "now", "total"),
    [
        ("12.99", "0.30", "1.24", "9.09", "11.27"),
        ("12.99", "0.50", "1.00", "6.50", "6.50"),
        ("0.03", "0.25", "10.00", "0.02", "0.20"),
    ],
)
def test_a_share_comes_off_the_price_and_the_total_follows(price, off, net, now, total):
    found = marked(UnitPrice(D(price), Unit.LB), D(off), Weight(D(net), Unit.LB))
    assert (found.price.amount, found.total) == (D(now), D(total))


@pytest.mark.parametrize("off", ["0", "1", "-0.1", "1.2"])
def test_a_share_that_is_none_is_refused(off):
    with pytest.raises(BadValue, match="above 0 and below 1"):
        marked(UnitPrice(D(10), Unit.LB), D(off), Weight(D(1), Unit.LB))


@pytest.mark.parametrize(("now", "per"), [("10.00", Unit.LB), ("0", Unit.LB), ("22.05", Unit.KG)])
def test_a_price_that_is_not_below_the_one_before_is_refused(now, per):
    before = UnitPrice(D("10.00"), Unit.LB)
    with pytest.raises(BadValue, match=r"below 10\.00 is right"):
        at_price(before, UnitPrice(D(now), per), Weight(D(1), Unit.LB))


@pytest.mark.parametrize(("days", "due"), [(-1, False), (0, True), (1, True), (2, False)])
def test_it_is_due_on_its_last_days_and_not_past_them(days, due):
    assert is_due(DAY + timedelta(days=days), DAY, 1) is due


def test_shrink_is_a_share_of_what_was_packed():
    assert Shrink(D(400), D(6), D(4)).share == D("0.025")
    assert Shrink(D(0), D(0), D(0)).share == 0
