"""The simulated scale behaves like a scale; the bridge streams it and takes orders."""

import asyncio
import json
from decimal import Decimal

import pytest
from aiohttp.test_utils import TestClient, TestServer
from hypothesis import given, settings
from hypothesis import strategies as st

from devices.bridge import make_app
from devices.scale import Refused, State
from devices.simulated_scale import SimulatedScale

POUND = 453.59237
PAGE = "http://127.0.0.1:8000"


class Clock:
    """A scale read ten times a second on a clock of our own."""

    def __init__(self, seed=1):
        self.scale, self.now = SimulatedScale(seed), 0.0

    def wait(self, seconds):
        for _ in range(round(seconds * 10)):
            self.now += 0.1
            reading = self.scale.read(self.now)
        return reading


def test_a_load_moves_then_settles_on_its_weight():
    clock = Clock()
    assert clock.wait(1).zero
    clock.scale.put(2.61 * POUND)
    assert clock.wait(0.2).state is State.MOVING
    reading = clock.wait(2)
    assert reading.state is State.STEADY
    assert abs(reading.weight - Decimal("2.61")) <= reading.division
    clock.scale.take_off()
    assert clock.wait(2).zero


@settings(max_examples=40, deadline=None)
@given(st.integers(1, 1000), st.floats(0.05, 29), st.sampled_from(["lb", "oz", "kg", "g"]))
def test_what_it_shows_is_a_multiple_of_its_division_and_right(seed, pounds, unit):
    clock = Clock(seed)
    clock.wait(0.2)
    while clock.scale.unit != unit:
        clock.scale.next_unit()
    clock.scale.put(pounds * POUND)
    reading = clock.wait(2.5)
    assert reading.weight % reading.division == 0
    in_unit = {"lb": pounds, "oz": pounds * 16, "kg": pounds * POUND / 1000, "g": pounds * POUND}
    assert abs(float(reading.weight) - in_unit[unit]) <= 1.1 * float(reading.division)


def test_it_says_over_when_it_is_over_and_comes_back():
    clock = Clock()
    clock.scale.put(31 * POUND)
    reading = clock.wait(2)
    assert (reading.state, reading.weight) == (State.OVERLOAD, None)
    clock.scale.put(-2 * POUND)
    assert clock.wait(2).state is State.STEADY


def test_switched_off_it_shows_nothing_and_refuses_orders():
    clock = Clock()
    clock.scale.switch(False)
    reading = clock.wait(0.5)
    assert (reading.state, reading.weight) == (State.OFF, None)
    with pytest.raises(Refused, match="off"):
        clock.scale.tare()


def test_tare_takes_the_tub_off_and_clears_on_an_empty_scale():
    clock = Clock()
    clock.wait(1)
    clock.scale.put(0.5 * POUND)
    clock.wait(1.5)
    clock.scale.tare()
    assert abs(clock.wait(1).weight) <= Decimal("0.01")
    with pytest.raises(Refused, match="tare is set"):
        clock.scale.next_unit()
    clock.scale.put(1 * POUND)
    assert abs(clock.wait(2).weight - 1) <= Decimal("0.01")
    clock.scale.take_off()
    assert clock.wait(2).weight < 0
    clock.scale.tare()
    assert clock.wait(1).tare == 0


def test_orders_wait_for_a_steady_scale():
    clock = Clock()
    clock.scale.put(1 * POUND)
    clock.wait(0.1)
    with pytest.raises(Refused, match="moving"):
        clock.scale.tare()
    clock.wait(2)
    clock.scale.put(2 * POUND)
    clock.wait(2)
    with pytest.raises(Refused, match="too much"):
        clock.scale.zero()


def run(story):
    """Run a story against the bridge on a loopback port of its own."""

    async def with_bridge():
        scale = SimulatedScale()
        async with TestClient(TestServer(make_app(scale, frozenset({PAGE})))) as client:
            return await story(client, scale)

    return asyncio.run(with_bridge())


async def next_message(response):
    while True:
        line = (await response.content.readline()).decode()
        if line.startswith("data: "):
            return json.loads(line.removeprefix("data: "))


def test_readings_stream_as_text_in_order_to_our_page_only():
    async def story(client, scale):
        async with client.get("/readings", headers={"Origin": PAGE}) as ours:
            first, second = await next_message(ours), await next_message(ours)
        async with client.get("/readings", headers={"Origin": "http://else.example"}) as other:
            return ours.headers, other.headers, first, second

    ours, other, first, second = run(story)
    assert ours["Content-Type"].startswith("text/event-stream")
    assert ours["Access-Control-Allow-Origin"] == PAGE
    assert "Access-Control-Allow-Origin" not in other
    assert second["sequence"] == first["sequence"] + 1
    assert set(first) == {
        "sequence", "weight", "unit", "division", "state", "tare", "zero", "capacity", "at",
    }  # fmt: skip
    assert isinstance(first["weight"], str)


@pytest.mark.parametrize(
    ("path", "body", "origin", "status"),
    [
        ("/unit", None, PAGE, 204), ("/zero", None, "http://else.example", 403),
        ("/tare", None, PAGE, 409), ("/jump", None, PAGE, 404),
        ("/hand", '{"put": 450}', None, 204), ("/hand", '{"take_off": true}', None, 204),
        ("/hand", '{"on": false}', None, 204), ("/hand", '{"put": "x"}', None, 400),
        ("/hand", '{"put": 1e400}', None, 400), ("/hand", "[]", None, 400),
        ("/hand", "{", None, 400),
    ],
)  # fmt: skip
def test_orders_and_the_hand(path, body, origin, status):
    async def story(client, scale):
        headers = {"Origin": origin} if origin else {}
        async with client.post(path, data=body, headers=headers) as answer:
            return answer.status, await answer.text()

    found, text = run(story)
    assert found == status
    if status == 409:
        assert text == "tare: the scale is moving; wait until it is steady"


def test_the_panel_is_there():
    async def story(client, scale):
        async with client.get("/panel") as answer:
            return await answer.text()

    assert "Scale panel" in run(story)
