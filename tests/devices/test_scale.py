"""The simulated scale behaves like a scale; the bridge streams it and takes orders."""

import asyncio
import hmac
import json
from decimal import Decimal

import pytest
from aiohttp.test_utils import TestClient, TestServer
from hypothesis import given, settings
from hypothesis import strategies as st

from devices.bridge import Line, make_app
from devices.scale import Refused, State
from devices.signing import FIELDS, is_signed
from devices.simulated_scale import SimulatedScale
from tests.cases import some_often
from tests.run_async import run_async

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

    return run_async(with_bridge())


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
        "sequence",
        "weight",
        "unit",
        "division",
        "state",
        "tare",
        "zero",
        "capacity",
        "at",
        "scale",
        "run",
    }
    assert isinstance(first["weight"], str)


@pytest.mark.parametrize(
    ("path", "body", "origin", "status"),
    [
        ("/unit", None, PAGE, 204),
        ("/zero", None, "http://else.example", 403),
        ("/tare", None, PAGE, 409),
        ("/jump", None, PAGE, 404),
        ("/hand", '{"put": 450}', None, 204),
        ("/hand", '{"take_off": true}', None, 204),
        ("/hand", '{"on": false}', None, 204),
        ("/hand", '{"put": "x"}', None, 400),
        ("/hand", '{"put": 1e400}', None, 400),
        ("/hand", "[]", None, 400),
        ("/hand", "{", None, 400),
    ],
)
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


# --- trouble ---


@pytest.mark.parametrize(
    ("fault", "state"), [("wobble", State.MOVING), ("drift", State.STEADY), ("none", State.STEADY)]
)
def test_a_wobble_never_settles_and_a_drift_looks_steady(fault, state):
    clock = Clock()
    clock.scale.put(2 * POUND)
    clock.wait(2)
    clock.scale.fault(fault)
    reading = clock.wait(20)
    assert reading.state is state
    if fault != "wobble":  # only the daily check finds a drift
        assert (abs(reading.weight - 2) > Decimal("0.02")) == (fault == "drift")


def test_a_knock_moves_the_display_and_it_comes_back():
    clock = Clock()
    clock.scale.put(2 * POUND)
    clock.wait(2)
    clock.scale.fault("jump")
    assert clock.wait(0.2).state is State.MOVING
    assert abs(clock.wait(2).weight - 2) <= Decimal("0.01")


def test_a_frozen_display_is_sent_as_stale_and_without_a_weight():
    clock, line = Clock(), Line("block", "key")
    clock.scale.put(2 * POUND)
    clock.wait(2)
    clock.scale.fault("freeze")
    clock.wait(0.1)
    clock.scale.put(5 * POUND)
    soon, late = (line.message(clock.wait(s), 1, clock.now) for s in (0.5, 1.0))
    assert (soon["state"], abs(Decimal(soon["weight"]) - 2) <= Decimal("0.01")) == ("steady", True)
    assert (late["state"], late["weight"]) == ("stale", None)
    clock.scale.fault("none")
    assert abs(clock.wait(2).weight - 7) <= Decimal("0.01")


@given(st.sampled_from(FIELDS), st.text(max_size=12))
def test_a_signature_holds_for_its_own_reading_only(name, other):
    message = Line("block", "key").message(Clock().wait(0.5), 7, 0.5)
    assert is_signed("key", message)
    assert not is_signed("other", message)
    assert not is_signed("", message)
    assert is_signed("key", message | {name: other}) == (other == str(message[name]))
    assert not is_signed("key", message | {"signature": "é" + other})


def test_the_signature_is_hmac_sha256_as_published():
    """RFC 4231, test case 2, through the same library call; value from memory."""
    assert hmac.new(b"Jefe", b"what do ya want for nothing?", "sha256").hexdigest() == (
        "5bdcc146bf60754e6a042426089575c75a003f089d2739839dec58b964ec3843"
    )


def test_a_script_plays_in_order_and_a_wrong_one_plays_nothing():
    async def story(client, scale):
        wrong = {"script": [[0, {"put": 450}], [0, {"put": "x"}]]}
        refused = (await client.post("/hand", json=wrong)).status
        load = scale._load
        right = {"script": [[0, {"put": 450}], [0.01, {"fault": "wobble"}], [0.01, {"put": 50}]]}
        done = (await client.post("/hand", json=right)).status
        await asyncio.sleep(0.2)
        return refused, load, done, scale._load, scale._fault

    assert run(story) == (400, 0.0, 204, 500.0, "wobble")


def test_a_cut_line_ends_the_stream_and_refuses_until_it_is_back():
    async def story(client, scale):
        async with client.get("/readings", headers={"Origin": PAGE}) as listening:
            await next_message(listening)
            await client.post("/hand", json={"line": False})
            while await listening.content.readline():
                pass
        cut = [(await client.get("/readings")).status, (await client.post("/zero")).status]
        await client.post("/hand", json={"line": True})
        async with client.get("/readings") as again:
            return cut, again.status

    assert run(story) == ([503, 503], 200)


@pytest.mark.parametrize(
    ("body", "status", "tare"),
    some_often(
        [
            ('{"value": "1.10", "unit": "lb"}', 204, "1.10"),
            ('{"value": "8", "unit": "oz"}', 204, "0.50"),
            ('{"value": "20", "unit": "lb"}', 409, "0"),
            ('{"value": "x", "unit": "lb"}', 400, "0"),
            ('{"value": "NaN", "unit": "lb"}', 400, "0"),
            ("{}", 400, "0"),
            ('{"value": "1", "unit": "st"}', 400, "0"),
        ]
    ),
)
def test_a_named_tare_is_a_known_tub_in_the_scales_unit(body, status, tare):
    async def story(client, scale):
        async with client.get("/readings") as listening:
            await next_message(listening)
            answer = await client.post("/tare", data=body)
            for _ in range(3):
                message = await next_message(listening)
        return answer.status, message["tare"]

    assert run(story) == (status, tare)


@pytest.mark.parametrize("gap", [0.05, 0.1, 0.2, 0.4, 0.9])
def test_a_settled_load_stays_steady_however_seldom_it_is_read(gap):
    """A machine that is busy reads late; the load has not moved for that."""
    scale = SimulatedScale()
    scale.read(0.0)
    scale.put(200.0)
    states = [scale.read(3.0 + i * gap).state for i in range(40)]
    assert set(states[10:]) == {State.STEADY}
