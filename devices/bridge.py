"""The scale bridge: its own process on loopback, streaming readings straight to the page.

    python -m devices.bridge --port 8001 --page http://127.0.0.1:8000

GET  /readings  server-sent events, ten a second, signed: see docs/formats/scale-bridge.md
POST /zero, /tare, /unit   orders to the scale; 409 with a plain reason when refused
GET  /panel and POST /hand   only for the simulated scale: the hand that loads it, and its faults

The key that signs comes from SCALE_KEY in the environment.
"""

from __future__ import annotations

import argparse
import asyncio
import json
import os
import secrets
import time
from collections.abc import Iterable
from dataclasses import dataclass, field, replace
from decimal import Decimal, InvalidOperation
from pathlib import Path

from aiohttp import web

from cutting.errors import BadValue
from cutting.quantities import Unit, convert, parse_unit
from devices.guard import Handler, add_hosts, only_known
from devices.hand import Hand
from devices.pages import page
from devices.scale import Reading, Refused, Scale, State
from devices.signing import sign
from devices.simulated_scale import SimulatedScale

READINGS_PER_SECOND = 10
STALE_SECONDS = 1.0
PANEL = Path(__file__).with_name("panel.html")
SCALE: web.AppKey[Scale] = web.AppKey("scale", Scale)
PAGES: web.AppKey[frozenset[str]] = web.AppKey("pages", frozenset)
LATEST: web.AppKey[dict[str, str]] = web.AppKey("latest", dict)
HAND: web.AppKey[Hand] = web.AppKey("hand", Hand)
FRESH: web.AppKey[asyncio.Condition] = web.AppKey("fresh", asyncio.Condition)
READER: web.AppKey[asyncio.Task[None]] = web.AppKey("reader", asyncio.Task)


@dataclass
class Line:
    """The name under which this bridge signs. `run` is new at each start, so that a sequence
    number is never used twice."""

    name: str = "block"
    key: str = ""
    run: str = field(default_factory=lambda: secrets.token_hex(6))
    is_cut: bool = False
    """The line to the pages is cut, by the simulated scale's hand."""

    def message(self, reading: Reading, sequence: int, now: float) -> dict[str, object]:
        """What is sent: a display that has stood still too long is stale and shows no weight."""
        if now - reading.shown_at > STALE_SECONDS:
            reading = replace(reading, weight=None, state=State.STALE)
        at = {"scale": self.name, "run": self.run, "at": f"{time.time():.3f}"}
        message = reading.as_message(sequence) | at
        return message | ({"signature": sign(self.key, message)} if self.key else {})


LINE: web.AppKey[Line] = web.AppKey("line", Line)
SPEED: web.AppKey[float] = web.AppKey("speed", float)
"""How fast the time of the simulated scale runs: 1, and more where tests wait for it."""


async def _read_for_ever(app: web.Application) -> None:
    """One reader however many pages listen: each gets the same message."""
    sequence = 0
    while True:
        sequence += 1
        now = time.monotonic() * app[SPEED]
        app[LATEST]["reading"] = json.dumps(app[LINE].message(app[SCALE].read(now), sequence, now))
        async with app[FRESH]:
            app[FRESH].notify_all()
        await asyncio.sleep(1 / READINGS_PER_SECOND)


async def _start(app: web.Application) -> None:
    app[FRESH] = asyncio.Condition()
    app[READER] = asyncio.create_task(_read_for_ever(app))


async def _stop(app: web.Application) -> None:
    app[READER].cancel()


async def readings(request: web.Request) -> web.StreamResponse:
    """Stream until the page goes away. `retry` tells the page to come back after half a second."""
    if request.app[LINE].is_cut:
        raise web.HTTPServiceUnavailable(text="The line to the scale is cut.")
    response = web.StreamResponse(
        headers={"Content-Type": "text/event-stream", "Cache-Control": "no-store", **_cors(request)}
    )
    await response.prepare(request)
    await response.write(b"retry: 500\n\n")
    app = request.app
    try:
        while not app[LINE].is_cut:
            async with app[FRESH]:
                await app[FRESH].wait()
            await response.write(f"data: {app[LATEST]['reading']}\n\n".encode())
    except (ConnectionResetError, asyncio.CancelledError):
        pass
    return response


async def order(request: web.Request) -> web.StreamResponse:
    """zero, tare or unit. A tare may name a known tub: {"value": "1.10", "unit": "lb"}."""
    scale, wanted = request.app[SCALE], request.match_info["order"]
    if request.app[LINE].is_cut:
        raise web.HTTPServiceUnavailable(text=f"{wanted}: the line to the scale is cut")
    if wanted == "zero":
        scale.zero()
    elif wanted == "unit":
        scale.next_unit()
    else:
        scale.tare(_known_tub(await request.text(), request.app))
    return web.Response(status=204)


def _known_tub(body: str, app: web.Application) -> Decimal | None:
    """A named tare in the scale's unit of the moment; None when none is named."""
    if not body:
        return None
    try:
        wanted = json.loads(body)
        value, unit = Decimal(wanted["value"]), parse_unit(wanted["unit"])
        if not value.is_finite():
            raise ValueError(value)
    except (ValueError, TypeError, KeyError, InvalidOperation, BadValue):
        raise web.HTTPBadRequest(text='Say {"value": "1.10", "unit": "lb"}.') from None
    shown = json.loads(app[LATEST]["reading"])["unit"] if app[LATEST] else unit
    return convert(value, unit, Unit(shown))


async def panel(request: web.Request) -> web.StreamResponse:
    return page(PANEL)


async def hand(request: web.Request) -> web.StreamResponse:
    """Load or disturb the simulated scale; see devices/hand.py for what may be said."""
    if not isinstance(request.app[SCALE], SimulatedScale):
        raise web.HTTPNotFound(text="This scale is real: load it by hand.")
    try:
        await request.app[HAND].do(await request.json())
    except (ValueError, TypeError, AttributeError, KeyError):
        raise web.HTTPBadRequest(text=Hand.__doc__) from None
    return web.Response(status=204)


def _cors(request: web.Request) -> dict[str, str]:
    origin = request.headers.get("Origin", "")
    return {"Access-Control-Allow-Origin": origin} if origin in request.app[PAGES] else {}


@web.middleware
async def _answers(request: web.Request, handler: Handler) -> web.StreamResponse:
    """A refusal of the scale is a plain 409; the shop's pages may read every answer."""
    try:
        response = await handler(request)
    except Refused as refused:
        response = web.Response(status=409, text=str(refused))
    if not response.prepared:
        response.headers.update(_cors(request))
    return response


def make_app(
    scale: Scale,
    pages: frozenset[str],
    line: Line | None = None,
    speed: float = 1.0,
    hosts: Iterable[str] = (),
) -> web.Application:
    """The bridge for one scale. `pages`: the origins whose pages may listen and give orders; `hosts`: names
    it is reached by beside this machine's own."""
    app = web.Application(middlewares=[only_known(hosts, pages), _answers])
    app[SCALE], app[PAGES], app[LATEST], app[LINE] = scale, pages, {}, line or Line()
    app[SPEED] = speed
    if isinstance(scale, SimulatedScale):
        app[HAND] = Hand(scale, app[LINE])
    app.router.add_get("/readings", readings)
    app.router.add_post("/{order:zero|tare|unit}", order)
    app.router.add_get("/panel", panel)
    app.router.add_post("/hand", hand)
    app.on_startup.append(_start)
    app.on_cleanup.append(_stop)
    return app


def main() -> None:
    parser = argparse.ArgumentParser(prog="devices.bridge", description=__doc__)
    parser.add_argument("--port", type=int, default=8001)
    parser.add_argument("--page", action="append", default=[], help="origin of a page, repeatable")
    parser.add_argument("--name", default="block", help="the scale's name, part of what is signed")
    parser.add_argument("--speed", type=float, default=1.0, help="time of the simulated scale")
    add_hosts(parser)
    wanted = parser.parse_args()
    line = Line(wanted.name, os.environ.get("SCALE_KEY", ""))
    pages = frozenset(wanted.page)
    app = make_app(SimulatedScale(), pages, line, wanted.speed, wanted.host)
    web.run_app(app, host="127.0.0.1", port=wanted.port, print=None, shutdown_timeout=0.2)


if __name__ == "__main__":
    main()
