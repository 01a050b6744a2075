"""Time above the limit, against a walk over the readings second by second."""

import itertools
from datetime import UTC, datetime, timedelta
from decimal import Decimal

import pytest
from hypothesis import given
from hypothesis import strategies as st

from cutting.cooler.temperature import LIMIT, Reading, above, excursions, follow, gaps, millicelsius
from cutting.cooler.temperature import Followed as Start
from cutting.errors import BadValue
from wording.cooler import limit_words

T0 = datetime(2026, 11, 1, 3, 0, tzinfo=UTC)
MINUTE = timedelta(minutes=1)


def series(*values, step=1):
    return [Reading(T0 + i * step * MINUTE, value) for i, value in enumerate(values)]


def test_the_limit_is_the_food_codes():
    """FDA Food Code 3-202.11 and 3-501.16: 41 °F, which is 5 °C exactly."""
    assert LIMIT == (41 - 32) * 5000 // 9 == 5000


def test_a_door_left_open_is_one_excursion_with_its_peak():
    found = excursions(series(2000, 4000, 6000, 7500, 6000, 4000, 2000))
    assert len(found) == 1
    assert (found[0].start, found[0].end) == (T0 + 1.5 * MINUTE, T0 + 4.5 * MINUTE)
    assert (found[0].peak, found[0].end - found[0].start) == (7500, 3 * MINUTE)


def test_at_the_limit_is_not_above_it():
    assert excursions(series(4000, 5000, 5000, 4000)) == []


def test_an_excursion_that_lasts_has_no_end_yet():
    lasting = excursions(series(4000, 6000, 6000))[0]
    assert (lasting.end, lasting.last) == (None, T0 + 2 * MINUTE)


@pytest.mark.parametrize("hole", [[None], [None, None]])
def test_a_lost_sensor_is_a_gap_and_counts_for_nothing(hole):
    readings = series(2000, 6000, *hole, 6000, 2000)
    found = excursions(readings)
    assert len(found) == 2
    assert sum(((one.end or one.last) - one.start for one in found), timedelta(0)) < 2 * MINUTE
    far = [Reading(T0, 6000), Reading(T0 + 9 * MINUTE, 6000), Reading(T0 + 10 * MINUTE, 2000)]
    assert gaps(far) == [(T0, T0 + 9 * MINUTE)]
    assert above(excursions(far), T0, T0 + 8 * MINUTE) == timedelta(0)


values = st.lists(st.none() | st.integers(-2000, 12000), min_size=2, max_size=25)


@pytest.mark.long
@given(values, st.integers(1, 7))
def test_time_above_is_what_a_walk_second_by_second_finds(some, step):
    readings = series(*some, step=step)
    found = excursions(readings)
    walked = 0
    for one, other in itertools.pairwise(readings):
        seconds = int((other.at - one.at).total_seconds())
        if one.value is None or other.value is None or seconds > 300:
            continue
        walked += sum(
            one.value + (other.value - one.value) * (s + 0.5) / seconds > LIMIT
            for s in range(seconds)
        )
    end = readings[-1].at
    lived = above(found, T0, end).total_seconds()
    assert abs(lived - walked) <= len(some) + 1
    for a, b in itertools.pairwise(found):
        assert a.end is not None
        assert a.end <= b.start


@given(values, st.integers(0, 24))
def test_reading_by_reading_comes_to_the_same_as_all_at_once(some, stop):
    readings = series(*some)
    so_far, found = Start(), []
    for reading in readings[:stop]:
        so_far, ended = follow(so_far, reading)
        found += [ended] if ended else []
    for reading in readings[stop:]:
        so_far, ended = follow(so_far, reading)
        found += [ended] if ended else []
    found += [so_far.open] if so_far.open else []
    assert found == excursions(readings)


@pytest.mark.long
@given(values, st.integers(0, 25), st.integers(0, 25))
def test_what_one_bag_lived_through_adds_up_over_its_days(some, one, other):
    found = excursions(series(*some))
    first, second = sorted((T0 + one * MINUTE, T0 + other * MINUTE))
    whole = above(found, T0, T0 + 25 * MINUTE)
    parts = [
        above(found, T0, first),
        above(found, first, second),
        above(found, second, T0 + 25 * MINUTE),
    ]
    assert sum(parts, timedelta(0)) == whole


def test_a_reading_out_of_its_order_is_refused():
    so_far, _ = follow(Start(), Reading(T0, 2000))
    with pytest.raises(BadValue, match="later than"):
        follow(so_far, Reading(T0, 2000))
    with pytest.raises(BadValue, match="time zone"):
        Reading(datetime(2026, 1, 1), 2000)  # noqa: DTZ001


@pytest.mark.parametrize(
    ("typed", "is_fahrenheit", "recorded"),
    [("5", False, 5000), ("41", True, 5000), ("-0.4", True, -18000), ("2.0005", False, 2000)],
)
def test_degrees_are_recorded_in_thousandths_of_a_celsius(typed, is_fahrenheit, recorded):
    """41 °F is 5 °C: FDA Food Code 3-202.11."""
    assert millicelsius(Decimal(typed), is_fahrenheit=is_fahrenheit) == recorded


def test_a_limit_that_is_moved_holds_from_then_on_and_never_reaches_into_the_future():
    """6.0 °C lasts above 5; with 7 allowed it ends with the first reading that is held to that."""
    start = datetime(2026, 11, 5, 8, tzinfo=UTC)
    minutes = [start + timedelta(minutes=i) for i in range(4)]
    readings = [
        Reading(at, value) for at, value in zip(minutes, (6000, 6000, 6100, 6500), strict=True)
    ]
    (found,) = excursions(readings, lambda at: 5000 if at < minutes[2] else 7000)
    assert (found.start, found.end) == (minutes[0], minutes[2])
    (lasting,) = excursions(readings, lambda at: 7000 if at < minutes[2] else 5000)
    assert (lasting.start, lasting.end) == (minutes[1], None)


@pytest.mark.parametrize(
    ("limit", "says"),
    [
        (5000, "5 °C (41 °F; FDA Food Code 3-501.16)"),
        (4500, "4.5 °C (40.1 °F; the shop's own limit)"),
    ],
)
def test_the_limit_is_said_in_both_scales_with_its_source(limit, says):
    assert limit_words(limit) == says
