"""The solver's process beside the web workers: what is asked of it is answered as JSON.

    python -m mindful_tally.solver --port 8004

POST /choose takes a day (docs/formats/day.md) and answers with its plan. POST /worth takes the day, the
plan's gross profit and bags, and what is asked (`hour`, `sure`, `products` or `musts`). 422 says what cannot be. It listens
on this machine only, and keeps nothing.
"""

from __future__ import annotations

import argparse
import asyncio
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import replace
from decimal import Decimal
from typing import Any

from aiohttp import web

from cutting.documents.day import read_day, solve_plan, write_plan
from cutting.documents.result import plain
from cutting.errors import BadDocument
from cutting.plans.day import Day, day_figures
from cutting.plans.day_solver import (
    NoDay,
    OutOfTime,
    begin,
    cost_of_must,
    worth_of_hour,
    worth_of_product,
)
from cutting.plans.day_sure import how_sure

SECONDS = 20.0
LARGEST = 8 * 1024 * 1024


def choose(asked: dict[str, Any]) -> dict[str, Any]:
    """The plan of a day, without what things are worth. Raises BadDocument."""
    day = read_day(asked)
    return write_plan(day, solve_plan(day, SECONDS, by_the_hour=asked.get("aim") == "hour"))


def worth(asked: dict[str, Any]) -> dict[str, Any]:
    """One kind of worth, each solved by itself; null where the time did not do."""
    day = read_day(asked["day"])
    nothing = day_figures(day, (None,) * len(day.bags))
    found = replace(nothing, gross_profit=Decimal(asked["gross_profit"]))
    of = asked.get("of")
    if of == "sure":
        return sure(asked)
    if of == "hour":
        return {"hour": _or_none(lambda: worth_of_hour(day, found, SECONDS))}
    if of == "products":
        return {"products": _products(day, found)}
    return {
        "musts": {
            bag.id: _or_none(lambda n=number: cost_of_must(day, found, n, SECONDS))
            for number, bag in enumerate(day.bags)
            if bag.must
        }
    }


def sure(asked: dict[str, Any]) -> dict[str, Any]:
    """How sure a plan is: the range of its profit, and how often each least is met."""
    data = asked["day"]
    day = read_day(data)
    cut = {row["bag"]: day.by_id[row["way"]] for row in asked["cut"]}
    spreads = {
        (way["id"], output["product"]): float(output["spread"])
        for way in data["ways"]
        for output in way["outputs"]
        if "spread" in output
    }
    found = how_sure(day, tuple(cut.get(bag.id) for bag in day.bags), spreads)
    met = {name: round(share, 3) for name, share in found.met.items()}
    return {"sure": {"low": f"{found.low:.2f}", "high": f"{found.high:.2f}", "met": met}}


def _products(day: Day, found: Any) -> dict[str, str | None]:
    return {
        one.name: _or_none(lambda n=number: worth_of_product(day, found, n, SECONDS))
        for number, one in enumerate(day.products)
        if one.most is not None
    }


def _or_none(solve: Callable[[], Decimal | None]) -> str | None:
    try:
        value = solve()
    except (NoDay, OutOfTime):
        return None
    return None if value is None else plain(value)


def application() -> web.Application:
    plans, values = (ThreadPoolExecutor(max_workers=1) for _ in range(2))
    """A plan that is asked for does not wait behind what an older one is worth."""

    async def answer(
        request: web.Request, work: Callable[..., Any], pool: ThreadPoolExecutor
    ) -> web.Response:
        asked = await request.json()
        try:
            found = await asyncio.get_running_loop().run_in_executor(pool, work, asked)
        except BadDocument as bad:
            return web.json_response({"faults": [str(one) for one in bad.faults]}, status=422)
        return web.json_response(found)

    async def chosen(request: web.Request) -> web.Response:
        return await answer(request, choose, plans)

    async def valued(request: web.Request) -> web.Response:
        return await answer(request, worth, values)

    async def here(_: web.Request) -> web.Response:
        return web.json_response({"ready": True})

    found = web.Application(client_max_size=LARGEST)
    found.add_routes([web.post("/choose", chosen), web.post("/worth", valued), web.get("/", here)])
    return found


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--port", type=int, required=True)
    port = parser.parse_args().port
    begin()
    web.run_app(application(), host="127.0.0.1", port=port, print=None)


if __name__ == "__main__":
    main()
