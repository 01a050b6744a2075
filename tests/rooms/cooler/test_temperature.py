"""Readings as they arrive, from the probe and by hand; excursions, gaps, the chart."""

import json
from datetime import timedelta

import pytest
from django.urls import reverse
from django.utils import timezone
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from cutting.cooler.temperature import Reading as CoreReading
from cutting.cooler.temperature import excursions
from devices.probe import SimulatedProbe
from rooms.common.errors import BadInput
from rooms.cooler.actions.temperature import take_reading
from rooms.cooler.models import Excursion, Reading
from rooms.cooler.queries.temperature import POINTS, chart, now

pytestmark = pytest.mark.django_db
MINUTE = timedelta(minutes=1)


def start():
    return timezone.now().replace(second=0, microsecond=0) - timedelta(hours=2)


def kept():
    return [
        (row.started_at, row.last_at, row.ended_at, row.peak)
        for row in Excursion.objects.order_by("started_at")
    ]


@settings(max_examples=15, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(st.lists(st.none() | st.integers(1000, 9000), min_size=1, max_size=14), st.randoms())
def test_excursions_kept_as_readings_arrive_are_those_of_all_at_once(db, values, chance):
    Reading.objects.all()._raw_delete("default")
    Excursion.objects.all().delete()
    first = start()
    readings = [CoreReading(first + i * MINUTE, value) for i, value in enumerate(values)]
    late = readings.pop(chance.randrange(len(readings))) if len(readings) > 2 else None
    for reading in readings:
        take_reading(reading.at, reading.value)
    if late is not None:  # a reading that was held up on its way
        take_reading(late.at, late.value)
        readings = sorted([*readings, late], key=lambda one: one.at)
    found = [(one.start, one.last, one.end, one.peak) for one in excursions(readings)]
    assert kept() == found


def test_the_same_moment_twice_is_one_reading_and_nonsense_is_refused():
    at = start()
    take_reading(at, 2000)
    take_reading(at, 9000)
    assert [row.value for row in Reading.objects.all()] == [2000]
    with pytest.raises(BadInput, match="-40"):
        take_reading(at + MINUTE, 99000)
    with pytest.raises(BadInput, match="still to come"):
        take_reading(timezone.now() + timedelta(hours=1), 2000)


@pytest.mark.parametrize(
    ("body", "key", "status"),
    [
        ({"celsius": "1.62"}, "test-probe", 200),
        ({"celsius": None}, "test-probe", 200),
        ({"celsius": "1.62"}, "wrong", 403),
        ({"celsius": "warm"}, "test-probe", 422),
        ({"celsius": "400"}, "test-probe", 422),
        ({"celsius": "NaN"}, "test-probe", 422),
        ({}, "test-probe", 422),
        ([], "test-probe", 422),
        ("x", "test-probe", 422),
    ],
)
def test_the_probe_is_heard_with_its_key_and_sense(client, body, key, status):
    if isinstance(body, dict):
        body = {"at": start().isoformat(), **body}
    answer = client.post(
        reverse("cooler:readings"), json.dumps(body), "application/json", headers={"Probe-Key": key}
    )
    assert answer.status_code == status, answer.content
    assert Reading.objects.count() == (status == 200)


def test_a_reading_by_hand_in_fahrenheit(client):
    address = reverse("cooler:temperature")
    assert client.post(address, {"celsius": "41", "degrees": "F"}).status_code == 302
    reading = Reading.objects.get()
    assert (reading.value, reading.is_manual) == (5000, True)
    assert client.post(address, {"celsius": "", "degrees": "C"}).status_code == 422
    assert client.post(address, {"celsius": "cold", "degrees": "C"}).status_code == 422
    assert "5.0 °C" in client.get(reverse("cooler:now")).content.decode()


def test_the_chart_leaves_a_gap_empty_and_stays_small(client, django_assert_max_num_queries):
    first = int((timezone.now() - timedelta(days=3)).timestamp()) // 60 * 60
    probe = SimulatedProbe(lost=[(first + 7200, first + 10800)])
    Reading.objects.bulk_create(
        Reading(
            at=timezone.datetime.fromtimestamp(stamp, timezone.get_current_timezone()),
            stamp=stamp,
            value=probe.read(stamp),
        )
        for stamp in range(first, first + 2 * 86400, 60)
    )
    with django_assert_max_num_queries(4):
        drawn = chart("week")
    times, least, most, mean = drawn.columns
    assert len(times) <= POINTS + 10
    assert any(value is None for value in mean)
    assert all(a <= m <= b for a, m, b in zip(least, mean, most, strict=True) if m is not None)
    page = client.get(reverse("cooler:temperature"), {"for": "week"})
    assert len(page.content) < 100_000
    assert now().is_old
    for stretch in ("day", "month", "year", "aeon"):
        assert client.get(reverse("cooler:temperature"), {"for": stretch}).status_code == 200


# --- a reading that comes late ---


@pytest.mark.long
def test_a_late_reading_leaves_the_excursion_before_alone():
    """Two hours warm, two minutes cold, two days warm; then a reading of the second, a day late."""
    first = timezone.now().replace(second=0, microsecond=0) - timedelta(days=4)
    moments = [(i, 9000) for i in range(0, 120, 2)] + [(120, 2000), (121, 2000)]
    moments += [(i, 9000) for i in range(122, 122 + 60 * 50, 4)]
    for minute, value in moments:
        take_reading(first + minute * MINUTE, value)
    before = kept()
    take_reading(first + 122 * MINUTE + timedelta(hours=25, seconds=30), 9000)
    assert kept() == before


@pytest.mark.long
@settings(max_examples=12, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(st.lists(st.sampled_from([2000, 9000, None]), min_size=20, max_size=40), st.data())
def test_late_readings_after_a_day_give_what_all_at_once_give(db, values, data):
    """Readings two hours apart do not join; within a run of four minutes they do."""
    Reading.objects.all()._raw_delete("default")
    Excursion.objects.all().delete()
    first = timezone.now().replace(second=0, microsecond=0) - timedelta(days=6)
    at = [first + timedelta(hours=4 * (i // 4), minutes=4 * (i % 4)) for i in range(len(values))]
    readings = [CoreReading(moment, value) for moment, value in zip(at, values, strict=True)]
    late = [readings.pop(data.draw(st.integers(0, len(readings) - 1))) for _ in range(3)]
    for reading in [*readings, *late]:
        take_reading(reading.at, reading.value)
    every = sorted([*readings, *late], key=lambda one: one.at)
    assert kept() == [(one.start, one.last, one.end, one.peak) for one in excursions(every)]


def test_the_chart_of_a_five_minute_probe_has_no_holes_and_a_gap_is_one():
    at = timezone.now().replace(second=0, microsecond=0)
    for i in [*range(100), *range(112, 200)]:
        Reading(at=at - timedelta(minutes=5 * i), value=1800).save()
    assert sum(value is None for value in chart("day", at).columns[3]) == 1


def test_an_excursion_says_how_many_bags_lived_through_it(shop):
    at = timezone.now() - timedelta(hours=5)
    take_reading(at, 9000)
    take_reading(at + MINUTE, 2000)
    ((_, bags),) = chart("day").excursions
    assert bags == 0
