"""The simulated probe: believable, the same for the same moment, with its faults."""

import itertools
import statistics

from devices.probe import SimulatedProbe, send

DAY = 1_793_000_000


def values(probe, minutes=1440):
    return [probe.read(DAY + 60 * i) for i in range(minutes)]


def test_a_usual_day_stays_between_one_and_four_degrees_and_repeats():
    day = values(SimulatedProbe())
    assert day == values(SimulatedProbe())
    assert 800 < min(day) < max(day) < 4500
    assert 1300 < statistics.mean(day) < 2400
    steps = [abs(b - a) for a, b in itertools.pairwise(day)]
    assert max(steps) < 1000  # air does not jump


def test_a_door_left_open_warms_it_and_it_cools_again():
    probe = SimulatedProbe(doors=[(DAY, DAY + 1200)])
    warm, after = probe.read(DAY + 1200), probe.read(DAY + 3 * 3600)
    assert warm > 6000
    assert after < 4500


def test_a_lost_sensor_says_nothing():
    probe = SimulatedProbe(lost=[(DAY, DAY + 600)])
    assert probe.read(DAY + 300) is None
    assert probe.read(DAY + 600) is not None


def test_a_shop_that_does_not_answer_is_asked_again():
    assert not send("http://127.0.0.1:9/cooler/readings/", "key", DAY, 2000)
