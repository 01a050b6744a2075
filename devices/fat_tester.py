"""The simulated fat tester, a process of its own: a cup of meat goes in, a reading comes out.

    python -m devices.fat_tester --port 8005

GET  /reading  the last sample: {"reading": "3f2a-7", "fat": "15.4", "at": "2026-11-25T08:00:00+00:00"}; 409 with a
               plain reason where there is none
GET  /panel    the hand at it: what lies in the cup, and its faults
A real tester needs only to answer the same. See docs/formats/fat-tester.md.
"""

from __future__ import annotations

import argparse
import random
import secrets
from collections.abc import Iterable
from dataclasses import dataclass, field
from datetime import UTC, datetime
from pathlib import Path

from aiohttp import web

from devices.guard import add_hosts, only_known
from devices.pages import page

SCATTER, BIAS = 0.8, 0.3
"""Points of fat: one standard deviation of a single sample, and how far it lies off in the mean. Value from memory
for a tester of the counter."""
DIRTY = 2.5
"""Points that a dirty cup adds."""
STEP = 0.1
FULL = 100.0


@dataclass
class FatTester:
    """`test` measures what lies in the cup: true fat with scatter and bias, in tenths of a point."""

    seed: int | None = None
    bias: float = BIAS
    scatter: float = SCATTER
    is_dirty: bool = False
    is_open: bool = False
    run: str = field(default_factory=lambda: secrets.token_hex(4))
    count: int = 0
    last: dict[str, str] | None = None

    def __post_init__(self) -> None:
        self._chance = random.Random(self.seed)  # noqa: S311 (a simulation)

    def test(self, true_fat: float) -> dict[str, str]:
        """A sample with so much fat, in percent. Raises ValueError for one that no meat has, or with the
        lid open."""
        if self.is_open:
            raise ValueError("the lid is open; shut it")
        if not 0 <= true_fat <= FULL:
            raise ValueError(f"{true_fat:g} % fat; 0 to 100 is right")
        shown = self._chance.gauss(true_fat + self.bias + DIRTY * self.is_dirty, self.scatter)
        shown = min(max(round(shown / STEP) * STEP, 0.0), FULL)
        self.count += 1
        now = datetime.now(UTC).isoformat(timespec="seconds")
        self.last = {"reading": f"{self.run}-{self.count}", "fat": f"{shown:.1f}", "at": now}
        return self.last


TESTER: web.AppKey[FatTester] = web.AppKey("tester", FatTester)
PANEL = Path(__file__).with_name("fat_tester_panel.html")


async def reading(request: web.Request) -> web.Response:
    tester = request.app[TESTER]
    if tester.is_open:
        raise web.HTTPConflict(text="the lid is open; shut it and test again")
    if tester.last is None:
        raise web.HTTPConflict(text="nothing was tested yet; put a sample in")
    return web.json_response(tester.last)


async def panel(request: web.Request) -> web.Response:
    tester = request.app[TESTER]
    shown = (
        "lid open" if tester.is_open else f"{tester.last['fat']} %" if tester.last else "no sample"
    )
    cup = "dirty" if tester.is_dirty else "clean"
    return page(PANEL, shown=shown, cup=cup)


async def hand(request: web.Request) -> web.Response:
    """What the panel's buttons do."""
    tester, posted = request.app[TESTER], await request.post()
    what = str(posted.get("what", ""))
    try:
        if what == "test":
            tester.test(float(str(posted.get("fat", ""))))
        elif what in ("dirty", "clean"):
            tester.is_dirty = what == "dirty"
        elif what in ("open", "shut"):
            tester.is_open = what == "open"
        else:
            raise ValueError("test, dirty, clean, open or shut is right")
    except ValueError as wrong:
        raise web.HTTPBadRequest(text=f"Tester: {wrong}.") from None
    raise web.HTTPSeeOther("/panel")


def make_app(tester: FatTester, hosts: Iterable[str] = ()) -> web.Application:
    """One tester with its panel. `hosts`: names it is reached by beside this machine's own."""
    app = web.Application(middlewares=[only_known(hosts)])
    app[TESTER] = tester
    app.router.add_get("/reading", reading)
    app.router.add_get("/panel", panel)
    app.router.add_post("/hand", hand)
    return app


def main() -> None:
    options = argparse.ArgumentParser(prog="devices.fat_tester", description=__doc__)
    options.add_argument("--port", type=int, default=8005)
    options.add_argument("--seed", type=int, default=None)
    add_hosts(options)
    wanted = options.parse_args()
    app = make_app(FatTester(wanted.seed), wanted.host)
    web.run_app(app, host="127.0.0.1", port=wanted.port, print=None, shutdown_timeout=0.2)


if __name__ == "__main__":
    main()
