"""The solver's process beside the web workers: what is asked of it is answered as JSON.

    python -m mindful_tally.solver --port 8004

POST /choose takes a day (docs/formats/day.md) and answers with its plan. POST /worth takes the day, the
plan's gross profit, shortfall and bags, and what is asked (`hour`, `sure`, `next`,
`products` or `musts`). POST /order takes what is
wanted until the delivery after next and answers with what to order, POST /blend a blend. 422 says what cannot be. It listens
on this machine only, and keeps nothing.
"""

from __future__ import annotations

import argparse
import asyncio
import threading
from collections import Counter
from collections.abc import Callable, Iterable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import replace
from decimal import Decimal
from typing import Any

from aiohttp import web

from cutting.errors import BadDocument
from cutting.planning.day import Choice, Day, DayFigures, day_figures
from cutting.planning.day_solver import NoDay, cost_of_must, hour_more, next_best, worth_of_product
from cutting.planning.day_sure import how_sure
from cutting.planning.integer_program import OutOfTime, begin, until
from cutting.quantities import working
from devices.guard import add_hosts, only_known, read_object
from formats.blend import read_blend, write_blend
from formats.blend_solving import solve_blend
from formats.day import look_for_plan, read_day, solve_plan, write_plan
from formats.order import solve_order
from formats.result import plain

QUICK, SECONDS = 3.0, 20.0
"""How long a plan is looked for at once, and when somebody asks to look longer."""
ALL_TOGETHER = 60.0
"""Seconds for one kind of worth: what is not known then stays unsaid."""
LARGEST = 8 * 1024 * 1024


def choose(asked: dict[str, Any]) -> dict[str, Any]:
    """The plan of a day, without what things are worth. Raises BadDocument.

    `seconds`: how long it may look; what is not proven then is told with its gap.
    """
    day = read_day(asked)
    if asked.get("aim") == "hour":
        return write_plan(day, solve_plan(day, SECONDS, by_the_hour=True))
    found = look_for_plan(day, min(float(asked.get("seconds", QUICK)), SECONDS))
    plan = write_plan(day, found.figures)
    if found.is_proven:
        return plan
    gaps = {"gap": found.gap, "short_gap": found.short_gap}
    return plan | {"open": {k: None if v is None else plain(v) for k, v in gaps.items()}}


def order(asked: dict[str, Any]) -> dict[str, Any]:
    """The next order, see `formats.order`. Raises BadDocument."""
    return solve_order(asked, QUICK)


def blend(asked: dict[str, Any]) -> dict[str, Any]:
    """The cheapest blend, as docs/formats/blend.md has it. Raises BadDocument."""
    wanted = read_blend(asked)
    return write_blend(wanted, solve_blend(wanted))


def worth(asked: dict[str, Any]) -> dict[str, Any]:
    """One kind of worth, each solved by itself; null where the time did not do."""
    day = read_day(asked["day"])
    nothing = day_figures(day, (None,) * len(day.bags))
    gained, short = Decimal(asked["gross_profit"]), Decimal(asked["shortfall"])
    found = replace(nothing, gross_profit=gained, shortfall=short)
    of = asked.get("of")
    if of == "sure":
        return sure(asked)
    if of == "hour":
        return {"hour": _hours(day, found)}
    if of == "next":
        return {"next": _next(day, asked)}
    if of == "products":
        return {"products": _products(day, found)}
    musts = [n for n, bag in enumerate(day.bags) if bag.must]
    seconds = min(SECONDS, ALL_TOGETHER / max(len(musts), 1))
    return {
        "musts": {
            day.bags[n].id: _or_none(lambda n=n: cost_of_must(day, found, n, seconds))
            for n in musts
        }
    }


def sure(asked: dict[str, Any]) -> dict[str, Any]:
    """How sure a plan is: the range of its profit, and how often each least is met."""
    data = asked["day"]
    day = read_day(data)
    spreads = {
        (way["id"], output["product"]): float(output["spread"])
        for way in data["ways"]
        for output in way["outputs"]
        if "spread" in output
    }
    paces = {way["id"]: float(way["pace_spread"]) for way in data["ways"] if "pace_spread" in way}
    found = how_sure(day, _choice(day, asked), spreads, paces)
    met = {name: round(share, 3) for name, share in found.met.items()}
    money = {"low": f"{found.low:.2f}", "high": f"{found.high:.2f}"}
    return {"sure": {**money, "met": met, "in_time": round(found.in_time, 3)}}


def _hours(day: Day, found: DayFigures) -> dict[str, dict[str, str] | None]:
    """An hour more of all hands, or of each cutter by name; None where it was not found in time."""
    if day.block is None:
        return {"hands": _hour(day, found, None)}
    return {
        cutter.name: _hour(day, found, number) for number, cutter in enumerate(day.block.cutters)
    }


def _hour(day: Day, found: DayFigures, cutter: int | None) -> dict[str, str] | None:
    try:
        more = hour_more(day, found, SECONDS, cutter)
    except (NoDay, OutOfTime):
        return None
    return {"profit": plain(more.profit), "less_short": plain(more.less_short)}


def _next(day: Day, asked: dict[str, Any]) -> dict[str, Any] | None:
    """The next best plan: how much less it brings, and by which ways it cuts more bags or fewer."""
    found = day_figures(day, _choice(day, asked))
    try:
        other = next_best(day, found, SECONDS)
    except OutOfTime:
        return None
    if other is None:
        return {"less": None, "ways": {}}
    more = Counter(way for way in other.choice if way is not None)
    more.subtract(way for way in found.choice if way is not None)
    with working():
        less = plain(found.gross_profit - other.gross_profit)
    return {"less": less, "ways": {day.ways[way].id: n for way, n in more.items() if n}}


def _choice(day: Day, asked: dict[str, Any]) -> Choice:
    cut = {row["bag"]: day.by_id[row["way"]] for row in asked["cut"]}
    return tuple(cut.get(bag.id) for bag in day.bags)


def _products(day: Day, found: Any) -> dict[str, str | None]:
    asked = [n for n, one in enumerate(day.products) if one.most is not None]
    seconds = min(SECONDS, ALL_TOGETHER / max(len(asked), 1))
    return {
        day.products[n].name: _or_none(lambda n=n: worth_of_product(day, found, n, seconds))
        for n in asked
    }


def _or_none(solve: Callable[[], Decimal | None]) -> str | None:
    try:
        value = solve()
    except (NoDay, OutOfTime):
        return None
    return None if value is None else plain(value)


def _worker() -> ThreadPoolExecutor:
    return ThreadPoolExecutor(max_workers=1)


class Desk:
    """Takes requests and answers them, each kind in its turn: a blend does not wait behind a plan, nor a
    plan behind what an older one is worth, and nobody behind somebody who has gone."""

    def __init__(self, hosts: Iterable[str] = ()) -> None:
        self.hosts = hosts
        self.plans, self.values, self.blends = _worker(), _worker(), _worker()

    def application(self) -> web.Application:
        found = web.Application(client_max_size=LARGEST, middlewares=[only_known(self.hosts)])
        for path, work, pool in (
            ("/choose", choose, self.plans),
            ("/order", order, self.plans),
            ("/worth", worth, self.values),
            ("/blend", blend, self.blends),
        ):
            found.add_routes([web.post(path, self._view(work, pool))])
        found.add_routes([web.get("/", self._here)])
        return found

    def _view(self, work: Work, pool: ThreadPoolExecutor) -> Callable[[web.Request], Any]:
        async def view(request: web.Request) -> web.Response:
            asked = await read_object(request)
            is_gone = threading.Event()
            running = asyncio.get_running_loop().run_in_executor(
                pool, _solved, work, asked, is_gone
            )
            try:
                found = await running
            except asyncio.CancelledError:
                is_gone.set()  # whoever asked has gone: it stops, or is not begun at all
                raise
            except BadDocument as bad:
                return web.json_response({"faults": [str(one) for one in bad.faults]}, status=422)
            except OutOfTime:
                return web.json_response({"faults": ["$: it was not found in time"]}, status=422)
            except (LookupError, TypeError, ValueError, ArithmeticError):
                raise web.HTTPBadRequest(text="What is asked is not whole.") from None
            return web.json_response(found)

        return view

    async def _here(self, _: web.Request) -> web.Response:
        return web.json_response({"ready": True})


Work = Callable[[dict[str, Any]], dict[str, Any]]


def _solved(work: Work, asked: dict[str, Any], is_gone: threading.Event) -> dict[str, Any]:
    """Raises BadDocument, and OutOfTime where nobody waits any more."""
    with until(is_gone.is_set):
        return work(asked)


def application(hosts: Iterable[str] = ()) -> web.Application:
    """`hosts`: names it is reached by beside this machine's own."""
    return Desk(hosts).application()


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--port", type=int, required=True)
    add_hosts(parser)
    wanted = parser.parse_args()
    begin()
    web.run_app(
        application(wanted.host),
        host="127.0.0.1",
        port=wanted.port,
        print=None,
        handler_cancellation=True,
    )


if __name__ == "__main__":
    main()
