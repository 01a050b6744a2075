"""A bag's time line: every day of its life once, on an axis all bags share."""

from datetime import date, timedelta

import pytest
from hypothesis import given
from hypothesis import strategies as st

from cutting.cooler.ageing import Bag, Window
from cutting.errors import BadValue
from drawings.bag_line import Axis, bag_line
from tests.cutting.cooler.test_ageing import bags

TODAY = date(2026, 11, 25)
DAY = timedelta(days=1)
AXIS = Axis(TODAY - 50 * DAY, TODAY + 30 * DAY, 800.0)


def test_a_bag_of_beef_has_its_four_bands_ten_pixels_a_day():
    line = bag_line(Bag(TODAY - 20 * DAY, Window(7, 14, 28, 40)), TODAY, AXIS)
    assert [(band.kind, band.x, band.width) for band in line.bands] == [
        ("young", 300, 70),
        ("ready", 370, 70),
        ("best", 440, 150),
        ("over", 590, 120),
    ]
    assert (line.today, line.end, line.runs_on) == (500, 710, False)


@given(bags, st.integers(-60, 60))
def test_bands_follow_each_other_without_a_gap_and_stay_on_the_axis(bag, shift):
    today = bag.packed_on + shift * DAY
    line = bag_line(bag, today, Axis(today - 50 * DAY, today + 30 * DAY, 800.0))
    at = None
    for band in line.bands:
        assert band.width > 0
        assert 0 <= band.x <= band.x + band.width <= 800.1
        assert at is None or abs(at - band.x) < 0.11
        at = band.x + band.width
    assert line.today == 500
    if line.bands and not line.runs_on:
        assert abs(at - line.end) < 0.11


def test_an_axis_runs_forward():
    with pytest.raises(BadValue, match="after"):
        Axis(TODAY, TODAY, 100.0)
