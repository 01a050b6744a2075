"""The simulated probe: believable, the same for the same moment, with its faults."""

import itertools
import statistics
import time

import pytest
from aiohttp.test_utils import TestClient, TestServer

from devices.probe import Sender, SimulatedProbe, make_app, send
from tests.run_async import run_async

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


def test_what_the_shop_did_not_take_is_sent_again_in_order(monkeypatch):
    taken, is_up = [], [False]

    def shop(to, key, at, value):
        if is_up[0]:
            taken.append(at)
        return is_up[0]

    monkeypatch.setattr("devices.probe.send", shop)
    sender = Sender(SimulatedProbe(), "to", "key")
    sender.turn(DAY)
    sender.turn(DAY + 60)
    assert (taken, len(sender.waiting)) == ([], 2)
    is_up[0] = True
    sender.turn(DAY + 120)
    assert (taken, sender.waiting) == ([DAY, DAY + 60, DAY + 120], [])


@pytest.mark.parametrize(
    ("what", "origin", "status"),
    [
        ("door", None, 303),
        ("lose", None, 303),
        ("burn", None, 400),
        ("door", "http://elsewhere.example", 403),
    ],
)
def test_the_panel_opens_the_door_for_its_own_page_only(what, origin, status):
    sender = Sender(SimulatedProbe(), "to", "key")

    async def press():
        async with TestClient(TestServer(make_app(sender))) as client:
            headers = {"Origin": origin} if origin else {}
            answer = await client.post(
                "/fault", data={"what": what}, headers=headers, allow_redirects=False
            )
            page = await (await client.get("/panel")).text()
            return answer.status, page

    found, page = run_async(press())
    assert found == status
    assert "readings wait" in page
    assert len(sender.probe.doors) + len(sender.probe.lost) == (status == 303)
    assert ("sensor lost" in page) is (what == "lose")


def test_a_door_is_shut_and_a_sensor_found_again():
    sender, now = Sender(SimulatedProbe(), "to", "key"), time.time()
    for what in ("door", "lose"):
        sender.fault(what, now)
    for what in ("shut", "find"):
        sender.fault(what, now + 60)
    assert sender.probe.doors == [(now, now + 60)]
    assert sender.probe.read(now + 61) is not None
