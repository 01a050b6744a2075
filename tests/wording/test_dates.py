"""Days and the clock as a shop writes them."""

from datetime import date, datetime, time

import pytest

from wording.dates import Clock, DayOrder, day_words, moment_words, time_words

DAY = date(2026, 11, 5)


@pytest.mark.parametrize(
    ("order", "more", "says"),
    [
        (DayOrder.DAY, {}, "5 Nov 2026"),
        (DayOrder.DAY, {"whole": True, "weekday": True, "year": False}, "Thursday 5 November"),
        (DayOrder.MONTH, {}, "Nov 5, 2026"),
        (DayOrder.MONTH, {"year": False}, "Nov 5"),
        (DayOrder.MONTH, {"whole": True, "weekday": True}, "Thursday, November 5, 2026"),
        (DayOrder.YEAR, {}, "2026-11-05"),
        (DayOrder.YEAR, {"year": False, "weekday": True}, "Thursday 11-05"),
    ],
)
def test_a_day_is_written_in_the_shops_order(order, more, says):
    assert day_words(DAY, order, **more) == says


@pytest.mark.parametrize(
    ("at", "says"),
    [("00:00", "12:00 am"), ("09:05", "9:05 am"), ("12:00", "12:00 pm"), ("23:59", "11:59 pm")],
)
def test_the_clock_has_twelve_or_twenty_four_hours(at, says):
    assert time_words(time.fromisoformat(at), Clock.H12) == says
    assert time_words(time.fromisoformat(at)) == at


def test_a_moment_is_a_day_and_its_time():
    at = datetime(2026, 11, 5, 17, 4, 9)  # noqa: DTZ001 (words only)
    assert moment_words(at, seconds=True) == "5 Nov 17:04:09"
    assert moment_words(at, DayOrder.MONTH, Clock.H12, year=True) == "Nov 5, 2026 5:04 pm"
