"""The cooler's simulated probe, a process of its own: it sends a reading a minute to the shop.

    python -m devices.probe --to http://127.0.0.1:8000/cooler/readings/ --key KEY --port 8002

GET /panel on its port is a page to open the door and to lose the sensor. What the shop does not
take is kept and sent again, in order. A real probe needs only to send the same message.
"""

from __future__ import annotations

import argparse
import asyncio
import hashlib
import json
import math
import time
import urllib.error
import urllib.request
from collections.abc import Iterable
from dataclasses import dataclass, field
from datetime import UTC, datetime
from pathlib import Path

from aiohttp import web

from devices.guard import add_hosts, only_known
from devices.pages import page

MINUTE = 60.0
COMPRESSOR = 25 * MINUTE
SET_POINT = 1600
DOOR_GAIN, DOOR_TIME = 9000, 14 * MINUTE
FALL_TIME = 16 * MINUTE


@dataclass
class SimulatedProbe:
    """A believable cooler: the compressor's saw, people going in and out, the odd fault.

    `read` gives the same value for the same moment, so that a history can be made afterwards.
    Temperatures in thousandths of a °C; None while the sensor is lost.
    """

    seed: int = 7
    doors: list[tuple[float, float]] = field(default_factory=list)
    """Long openings, from and to, in seconds since 1970."""
    lost: list[tuple[float, float]] = field(default_factory=list)

    def read(self, at: float) -> int | None:
        if any(start <= at < end for start, end in self.lost):
            return None
        saw = 380 * math.sin(2 * math.pi * at / COMPRESSOR)
        day = 150 * math.sin(2 * math.pi * (at / 86400 - 0.3))
        value = SET_POINT + saw + day + 60 * self._noise(int(at // MINUTE))
        value += sum(self._opening(at, start, end) for start, end in self.doors)
        value += self._visits(at)
        return round(value / 10) * 10

    def _noise(self, what: int) -> float:
        """Between -1 and 1, the same for the same minute."""
        digest = hashlib.blake2b(f"{self.seed}:{what}".encode(), digest_size=4).digest()
        return int.from_bytes(digest, "big") / 2**31 - 1

    def _visits(self, at: float) -> float:
        """Short openings in working hours: one in three quarters of an hour, a little warmth."""
        total = 0.0
        slot = int(at // 2700)
        for one in (slot - 1, slot):
            start = one * 2700 + 900 * (1 + self._noise(one * 13))
            hour = (start / 3600) % 24
            if 11 <= hour <= 22 and self._noise(one * 7) > 0:
                total += self._opening(at, start, start + 120) * 0.9
        return total

    @staticmethod
    def _opening(at: float, start: float, end: float) -> float:
        """Warmth of an open door: it rises while it is open and falls after."""
        if at < start:
            return 0.0
        risen = DOOR_GAIN * (1 - math.exp(-(min(at, end) - start) / DOOR_TIME))
        return risen * math.exp(-max(at - end, 0.0) / FALL_TIME)


def send(to: str, key: str, at: float, value: int | None) -> bool:
    """One reading to the shop. False when the shop did not take it: it is sent again."""
    body = {
        "at": datetime.fromtimestamp(at, UTC).isoformat(),
        "celsius": None if value is None else f"{value / 1000:.2f}",
    }
    headers = {"Content-Type": "application/json", "Probe-Key": key}
    request = urllib.request.Request(to, json.dumps(body).encode(), headers)  # noqa: S310
    try:
        with urllib.request.urlopen(request, timeout=5):  # noqa: S310 (the shop's own address)
            return True
    except urllib.error.HTTPError as answer:
        return answer.code in (409, 422)  # it was heard and refused: sending again helps nothing
    except OSError:
        return False


FAULTS = ("door", "shut", "lose", "find")
PANEL = Path(__file__).with_name("probe_panel.html")


@dataclass
class Sender:
    """The probe and what the shop has not taken yet."""

    probe: SimulatedProbe
    to: str
    key: str
    waiting: list[tuple[float, int | None]] = field(default_factory=list)

    def turn(self, at: float) -> None:
        """One reading more, then everything that waits, in order, until one is not taken."""
        self.waiting.append((at, self.probe.read(at)))
        while self.waiting and send(self.to, self.key, *self.waiting[0]):
            self.waiting.pop(0)

    def fault(self, what: str, now: float) -> None:
        """door, shut, lose or find."""
        if what == "door":
            self.probe.doors.append((now, now + 20 * MINUTE))
        elif what == "shut":
            self.probe.doors = [(one, min(end, now)) for one, end in self.probe.doors]
        elif what == "lose":
            self.probe.lost.append((now, math.inf))
        else:
            self.probe.lost = [(one, min(end, now)) for one, end in self.probe.lost]


SENDER: web.AppKey[Sender] = web.AppKey("sender", Sender)
TASK: web.AppKey[asyncio.Task[None]] = web.AppKey("task", asyncio.Task)


async def panel(request: web.Request) -> web.Response:
    sender = request.app[SENDER]
    value = sender.probe.read(time.time())
    now = "sensor lost" if value is None else f"{value / 1000:.2f} °C"
    return page(PANEL, now=now, waiting=str(len(sender.waiting)))


async def fault(request: web.Request) -> web.Response:
    """What the panel's buttons do."""
    what = str((await request.post()).get("what", ""))
    if what not in FAULTS:
        raise web.HTTPBadRequest(text=f"Say what: {', '.join(FAULTS)}.")
    request.app[SENDER].fault(what, time.time())
    raise web.HTTPSeeOther("/panel")


def make_app(sender: Sender, hosts: Iterable[str] = ()) -> web.Application:
    """The panel of one probe. `hosts`: names it is reached by beside this machine's own."""
    app = web.Application(middlewares=[only_known(hosts)])
    app[SENDER] = sender
    app.router.add_get("/panel", panel)
    app.router.add_post("/fault", fault)
    return app


async def _for_ever(sender: Sender, every: float) -> None:
    while True:
        at = math.floor(time.time() / every) * every
        await asyncio.to_thread(sender.turn, at)
        await asyncio.sleep(max(at + every - time.time(), 0.05))


def main() -> None:
    options = argparse.ArgumentParser(prog="devices.probe", description=__doc__)
    options.add_argument("--to", required=True)
    options.add_argument("--key", required=True)
    options.add_argument("--port", type=int, default=8002)
    options.add_argument("--every", type=float, default=MINUTE)
    add_hosts(options)
    wanted = options.parse_args()
    sender = Sender(SimulatedProbe(), wanted.to, wanted.key)
    app = make_app(sender, wanted.host)

    async def started(app: web.Application) -> None:
        app[TASK] = asyncio.create_task(_for_ever(sender, wanted.every))

    app.on_startup.append(started)
    web.run_app(app, host="127.0.0.1", port=wanted.port, print=None, shutdown_timeout=0.2)


if __name__ == "__main__":
    main()
