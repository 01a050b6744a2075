"""Who may speak to the five processes beside the web server, and what garbage is answered with."""

import asyncio
import threading

import pytest
from aiohttp.test_utils import TestClient, TestServer

from cutting.planning.integer_program import OutOfTime, Programme
from devices import bridge, fat_tester, label_printer, probe
from devices.fat_tester import FatTester
from devices.label_printer import LabelPrinter
from devices.probe import Sender, SimulatedProbe
from devices.simulated_scale import SimulatedScale
from mindful_tally import solver
from tests.run_async import run_async

HOST = {"Host": "tally.example:8221"}


def apps(folder):
    sender = Sender(SimulatedProbe(), "http://127.0.0.1:9/", "key")
    return {
        "bridge": (bridge.make_app(SimulatedScale(), frozenset()), "POST", "/zero"),
        "probe": (probe.make_app(sender), "POST", "/fault"),
        "fat tester": (fat_tester.make_app(FatTester(1)), "POST", "/hand"),
        "label printer": (
            label_printer.make_app(LabelPrinter(folder)),
            "PUT",
            "/labels/0f8a1c52-1111",
        ),
        "solver": (solver.application(), "POST", "/choose"),
    }


def asked(app, *requests):
    """The status of each request to a running application."""

    async def run():
        async with TestClient(TestServer(app)) as client:
            found = []
            for method, path, headers, data in requests:
                async with client.request(method, path, headers=headers, data=data) as answer:
                    found.append(answer.status)
            return found

    return run_async(run())


@pytest.mark.parametrize("name", ["bridge", "probe", "fat tester", "label printer", "solver"])
def test_a_name_it_does_not_go_by_and_a_foreign_page_are_refused(name, tmp_path):
    """Also where the page's own origin is the foreign name: a browser led astray (DNS rebinding)."""
    app, method, path = apps(tmp_path)[name]
    page = {"Origin": "http://tally.example:8221"}
    found = asked(
        app,
        (method, path, HOST, b""),
        (method, path, HOST | page, b""),
        ("GET", "/panel", HOST, None),
        (method, path, page, b""),
        (method, path, {"Origin": "null"}, b""),
    )
    assert found == [421, 421, 421, 403, 403]


def test_a_name_that_is_given_is_let_in():
    app = fat_tester.make_app(FatTester(1), ["tally.example"])
    assert asked(app, ("GET", "/panel", HOST, None), ("GET", "/panel", None, None)) == [200, 200]


@pytest.mark.parametrize(
    ("kind", "body", "status"),
    [
        ("text/plain", b"{}", 415),
        ("application/json", b"{", 400),
        ("application/json", b"[1]", 400),
        ("application/json", b"\xff\xfe", 400),
    ],
)
@pytest.mark.parametrize("name", ["solver", "label printer"])
def test_garbage_is_refused_in_words(name, kind, body, status, tmp_path):
    app, method, path = apps(tmp_path)[name]
    assert asked(app, (method, path, {"Content-Type": kind}, body)) == [status]


@pytest.mark.parametrize("path", ["/choose", "/worth", "/order", "/blend"])
def test_a_solver_asked_for_half_a_day_says_so(path):
    sent = ("POST", path, {"Content-Type": "application/json"}, b'{"day": {}}')
    assert asked(solver.application(), sent)[0] in (400, 422)


@pytest.fixture
def desk(monkeypatch):
    """A solver whose plans take until nobody wants them; `begun` says that one is being made."""
    begun = threading.Event()

    def never_done(_):
        begun.set()
        try:
            while True:
                Programme(1.0).aim({})
        except OutOfTime:
            begun.clear()
            raise

    monkeypatch.setattr(solver, "choose", never_done)
    return begun


def test_nobody_waits_behind_a_plan_that_nobody_waits_for(desk):
    """Two plans are asked for, and both askers go: the one on the way stops, the other is never begun.
    A blend is answered meanwhile, an order afterwards."""
    own = solver.Desk()

    async def ask(client):
        async with client.post("/choose", json={}):
            pass

    async def run():
        server = TestServer(own.application(), handler_cancellation=True)
        async with TestClient(server) as client:
            plans = [asyncio.ensure_future(ask(client)) for _ in range(2)]
            await asyncio.to_thread(desk.wait)
            async with client.post("/blend", json={}) as blend:
                while_it_runs = blend.status
            for plan in plans:
                plan.cancel()
            await asyncio.gather(*plans, return_exceptions=True)
            async with client.post("/order", json={}) as order:
                return while_it_runs, order.status

    assert run_async(run()) == (422, 400)
    assert not desk.is_set()


def test_a_programme_stops_when_nobody_waits():
    """Inside the solver's own search too, not only between two."""
    from cutting.planning.day_solver import best_so_far
    from cutting.planning.integer_program import until
    from tests.cutting.planning.days import large

    asked_often = iter([False] * 3)
    with until(lambda: next(asked_often, True)):
        try:
            is_proven = best_so_far(large(bags=60, ways=12, products=30), 600.0).is_proven
        except OutOfTime:
            is_proven = False
    assert not is_proven
    assert next(asked_often, None) is None
