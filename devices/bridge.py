"""The scale bridge: its own process on loopback, streaming readings straight to the page.

    python -m devices.bridge --port 8001 --page http://127.0.0.1:8000

GET  /readings  server-sent events, ten a second: see docs/formats/scale-bridge.md
POST /zero, /tare, /unit   orders to the scale; 409 with a plain reason when refused
GET  /panel and POST /hand   only for the simulated scale: the hand that loads it
"""

from __future__ import annotations

import argparse
import asyncio
import json
import math
import time
from collections.abc import Awaitable, Callable
from pathlib import Path

from aiohttp import web

from devices.scale import Refused, Scale
from devices.simulated_scale import SimulatedScale

READINGS_PER_SECOND = 10
PANEL = Path(__file__).with_name("panel.html")
SCALE: web.AppKey[Scale] = web.AppKey("scale", Scale)
PAGES: web.AppKey[frozenset[str]] = web.AppKey("pages", frozenset)
LATEST: web.AppKey[dict[str, str]] = web.AppKey("latest", dict)
FRESH: web.AppKey[asyncio.Condition] = web.AppKey("fresh", asyncio.Condition)
READER: web.AppKey[asyncio.Task[None]] = web.AppKey("reader", asyncio.Task)
Handler = Callable[[web.Request], Awaitable[web.StreamResponse]]


async def _read_for_ever(app: web.Application) -> None:
    """One reader however many pages listen: each gets the same message."""
    sequence = 0
    while True:
        sequence += 1
        reading = app[SCALE].read(time.monotonic())
        message = reading.as_message(sequence) | {"at": round(time.time(), 3)}
        app[LATEST]["reading"] = json.dumps(message)
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
    response = web.StreamResponse(
        headers={"Content-Type": "text/event-stream", "Cache-Control": "no-store", **_cors(request)}
    )
    await response.prepare(request)
    await response.write(b"retry: 500\n\n")
    app = request.app
    try:
        while True:
            async with app[FRESH]:
                await app[FRESH].wait()
            await response.write(f"data: {app[LATEST]['reading']}\n\n".encode())
    except (ConnectionResetError, asyncio.CancelledError):
        return response


async def order(request: web.Request) -> web.StreamResponse:
    """zero, tare or unit."""
    scale = request.app[SCALE]
    orders = {"zero": scale.zero, "tare": scale.tare, "unit": scale.next_unit}
    orders[request.match_info["order"]]()
    return web.Response(status=204)


async def panel(request: web.Request) -> web.StreamResponse:
    return web.FileResponse(PANEL)


async def hand(request: web.Request) -> web.StreamResponse:
    """Load the simulated scale: {"put": grams} or {"take_off": true} or {"on": true|false}."""
    scale = request.app[SCALE]
    if not isinstance(scale, SimulatedScale):
        raise web.HTTPNotFound(text="This scale is real: load it by hand.")
    try:
        wanted = await request.json()
        if "put" in wanted:
            grams = float(wanted["put"])
            if not math.isfinite(grams) or abs(grams) > 100_000:
                raise ValueError(grams)
            scale.put(grams)
        elif wanted.get("take_off") is True:
            scale.take_off()
        elif isinstance(wanted.get("on"), bool):
            scale.switch(wanted["on"])
        else:
            raise ValueError(wanted)
    except (ValueError, TypeError, AttributeError):
        raise web.HTTPBadRequest(text='Say {"put": grams}, {"take_off": true} or {"on": true}.') \
            from None  # fmt: skip
    return web.Response(status=204)


def _cors(request: web.Request) -> dict[str, str]:
    origin = request.headers.get("Origin", "")
    return {"Access-Control-Allow-Origin": origin} if origin in request.app[PAGES] else {}


@web.middleware
async def _guard(request: web.Request, handler: Handler) -> web.StreamResponse:
    """Only our own pages may give orders; a refusal is a plain 409."""
    origin = request.headers.get("Origin")
    own = f"{request.scheme}://{request.host}"
    if request.method == "POST" and origin and origin not in (own, *request.app[PAGES]):
        raise web.HTTPForbidden(text="This page may not give orders to the scale.")
    try:
        response = await handler(request)
    except Refused as refused:
        response = web.Response(status=409, text=str(refused))
    if not response.prepared:
        response.headers.update(_cors(request))
    return response


def make_app(scale: Scale, pages: frozenset[str]) -> web.Application:
    """The bridge for one scale. `pages`: the origins whose pages may listen and give orders."""
    app = web.Application(middlewares=[_guard])
    app[SCALE], app[PAGES], app[LATEST] = scale, pages, {}
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
    wanted = parser.parse_args()
    app = make_app(SimulatedScale(), frozenset(wanted.page))
    web.run_app(app, host="127.0.0.1", port=wanted.port, print=None, shutdown_timeout=0.2)


if __name__ == "__main__":
    main()
