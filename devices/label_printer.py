"""The simulated label printer, a process of its own: labels come out as PNG and PDF in an outbox.

    python -m devices.label_printer --port 8006 --outbox var/outbox

PUT /labels/<name>  {"title": "…", "png": "base64", "pdf": "base64"}: printed once, however often it is sent; 200 with
                    {"printed": true, "again": false}, 409 with a plain reason
GET /panel          the hand at it: the roll, a jam, a slow head, off line
A real printer needs a process that answers the same; see docs/formats/label-printer.md.
"""

from __future__ import annotations

import argparse
import asyncio
import base64
import binascii
import re
from collections.abc import Iterable
from dataclasses import dataclass
from pathlib import Path

from aiohttp import web

from devices.guard import add_hosts, only_known, read_object
from devices.pages import page

ROLL = 500
"""Labels on a new roll."""
SLOW_SECONDS = 2.0
NAME = re.compile(r"^[0-9a-f-]{8,40}$")
LARGEST = 4 * 1024 * 1024
PANEL = Path(__file__).with_name("label_printer_panel.html")
FAULTS = ("roll", "almost", "jam", "clear", "slow", "fast", "off", "on")


class Stopped(Exception):
    """The printer does not print now; the message says why, in plain words."""


@dataclass
class LabelPrinter:
    """What came out lies in `outbox`: the number of the label, then its name. A label that is half
    printed when the power fails is printed again, whole."""

    outbox: Path
    left: int = ROLL
    is_jammed: bool = False
    is_slow: bool = False
    is_off: bool = False

    def __post_init__(self) -> None:
        self.outbox.mkdir(parents=True, exist_ok=True)

    def printed(self, name: str) -> Path | None:
        """The picture of a label that came out; None for one that did not."""
        return next(iter(self.outbox.glob(f"*-{name}.png")), None)

    def count(self) -> int:
        return len(list(self.outbox.glob("*.png")))

    def why_not(self) -> str:
        if self.is_off:
            return "it is off line; press its button"
        if self.is_jammed:
            return "a label is jammed; open the lid and take it out"
        return "the roll is empty; put a new one in" if self.left <= 0 else ""

    def print(self, name: str, png: bytes, pdf: bytes) -> bool:
        """False where it came out before. Raises Stopped."""
        if self.printed(name) is not None:
            return False
        why = self.why_not()
        if why:
            raise Stopped(why)
        number = self.count() + 1
        stem = f"{number:06d}-{name}"
        (self.outbox / f"{stem}.pdf").write_bytes(pdf)
        making = self.outbox / f".{stem}.making"
        making.write_bytes(png)
        making.rename(self.outbox / f"{stem}.png")  # now it is out
        self.left -= 1
        return True

    def touch(self, what: str) -> None:
        """The hand at it: one of FAULTS."""
        if what in ("roll", "almost"):
            self.left = ROLL if what == "roll" else 2
        elif what in ("jam", "clear"):
            self.is_jammed = what == "jam"
        elif what in ("slow", "fast"):
            self.is_slow = what == "slow"
        else:
            self.is_off = what == "off"


PRINTER: web.AppKey[LabelPrinter] = web.AppKey("printer", LabelPrinter)
TURN: web.AppKey[asyncio.Lock] = web.AppKey("turn", asyncio.Lock)


async def put_label(request: web.Request) -> web.Response:
    name = request.match_info["name"]
    if not NAME.match(name):
        raise web.HTTPBadRequest(text="Name: 8 to 40 signs of a UUID are right.")
    said = await read_object(request)
    try:
        png, pdf = (base64.b64decode(said[kind], validate=True) for kind in ("png", "pdf"))
    except (ValueError, KeyError, TypeError, binascii.Error):
        raise web.HTTPBadRequest(text='Say {"png": …, "pdf": …} in base64.') from None
    printer = request.app[PRINTER]
    async with request.app[TURN]:
        if printer.is_slow and printer.printed(name) is None:
            await asyncio.sleep(SLOW_SECONDS)
        try:
            is_new = printer.print(name, png, pdf)
        except Stopped as why:
            raise web.HTTPConflict(text=str(why)) from None
    return web.json_response({"printed": True, "again": not is_new})


async def last_label(request: web.Request) -> web.Response:
    """The last that came out, as a picture."""
    found = sorted(request.app[PRINTER].outbox.glob("*.png"))
    if not found:
        raise web.HTTPNotFound(text="Nothing was printed yet.")
    return web.Response(body=found[-1].read_bytes(), content_type="image/png")


async def panel(request: web.Request) -> web.Response:
    printer = request.app[PRINTER]
    shown = printer.why_not() or ("slow" if printer.is_slow else "ready")
    return page(PANEL, shown=shown, left=str(printer.left), out=str(printer.count()))


async def hand(request: web.Request) -> web.Response:
    """What the panel's buttons do."""
    what = str((await request.post()).get("what", ""))
    if what not in FAULTS:
        raise web.HTTPBadRequest(text=f"Say what: {', '.join(FAULTS)}.")
    request.app[PRINTER].touch(what)
    raise web.HTTPSeeOther("/panel")


def make_app(printer: LabelPrinter, hosts: Iterable[str] = ()) -> web.Application:
    """One printer with its panel. `hosts`: names it is reached by beside this machine's own."""
    app = web.Application(client_max_size=LARGEST, middlewares=[only_known(hosts)])
    app[PRINTER], app[TURN] = printer, asyncio.Lock()
    app.router.add_put("/labels/{name}", put_label)
    app.router.add_get("/last.png", last_label)
    app.router.add_get("/panel", panel)
    app.router.add_post("/hand", hand)
    return app


def main() -> None:
    options = argparse.ArgumentParser(prog="devices.label_printer", description=__doc__)
    options.add_argument("--port", type=int, default=8006)
    options.add_argument("--outbox", type=Path, default=Path("var/outbox"))
    add_hosts(options)
    wanted = options.parse_args()
    app = make_app(LabelPrinter(wanted.outbox), wanted.host)
    web.run_app(app, host="127.0.0.1", port=wanted.port, print=None, shutdown_timeout=0.2)


if __name__ == "__main__":
    main()
