"""What the solver's process reads and answers of an order: the cooler's bags, what is wanted until the
delivery after next, and what can be ordered. No file of the command line."""

from __future__ import annotations

from dataclasses import replace
from decimal import Decimal
from typing import Any

from cutting.errors import BadDocument, Fault
from cutting.planning.day import Day, DayWay
from cutting.planning.integer_program import OutOfTime
from cutting.planning.order_solver import best_order
from cutting.planning.ordering import Offer, Order, OrderFigures, net_costs
from cutting.quantities import ZERO, working
from formats.day import DayReader, look_for_plan, read_day
from formats.result import plain


def solve_order(asked: Any, seconds: float) -> dict[str, Any]:
    """What the cooler covers, then what is ordered beside it. Raises BadDocument.

    `asked`: {"day": as docs/formats/day.md, with every bag that can be cut until then,
    "offers": […], "ways": […] of what can be ordered, "rate": money an hour}.
    """
    day = read_day(asked["day"])
    covered = look_for_plan(day, seconds).figures
    with working():
        have = [line.product.have + line.made for line in covered.products]
    products = tuple(
        replace(one, have=there) for one, there in zip(day.products, have, strict=True)
    )
    order = Order(*_offers(asked, day), products, Decimal(asked.get("rate", "0")))
    try:
        found = best_order(order, seconds=seconds)
    except OutOfTime as slow:
        wrong, right = f"not proven in time: {slow}", "fewer pieces are right"
        raise BadDocument((Fault("$.offers", wrong, right),)) from None
    return _written(order, found)


def _offers(asked: dict[str, Any], day: Day) -> tuple[tuple[Offer, ...], tuple[DayWay, ...]]:
    read, found = DayReader(), []
    ways = {one.id: one for one in day.ways}
    for path, row in read.rows(asked, "offers"):
        weight, price = read.weight(row, "weight", path), read.price(row, "price", path)
        case = read.price(row, "case_price", path) if "case_price" in row else None
        own = tuple(one for one in read.list(row.get("ways"), f"{path}.ways") if one in ways)
        name, key = read.text(row, "name", path), read.text(row, "id", path)
        in_case = row.get("in_case", 1)
        if weight and price and own and isinstance(in_case, int):
            found.append(Offer(key, name, weight, price, own, in_case, case))
    if read.faults:
        raise BadDocument(tuple(read.faults))
    return tuple(found), day.ways


def _written(order: Order, found: OrderFigures) -> dict[str, Any]:
    rows = []
    with working():
        for offer, buy in zip(order.offers, found.buys, strict=True):
            if not buy.cut:
                continue
            cost = buy.singles * offer.single + buy.cases * (offer.case or ZERO)
            pieces = buy.singles + buy.cases * offer.in_case
            rows.append(
                {
                    "offer": offer.id,
                    "cases": buy.cases,
                    "singles": buy.singles,
                    "pieces": pieces,
                    "weight": {
                        "value": plain(offer.weight.value * pieces),
                        "unit": offer.weight.unit.value,
                    },
                    "cost": plain(cost),
                    "cut": [{"way": way, "pieces": many} for way, many in buy.cut],
                }
            )
    lines = zip(order.products, found.made, found.short, strict=True)
    made = [one for one, own in zip(order.products, found.made, strict=True) if own]
    return {
        "costs": [
            {
                "product": one.name,
                "from": [
                    {"offer": cost.offer.id, "way": cost.way.id, "amount": plain(cost.amount)}
                    for cost in net_costs(order, one)[:4]
                ],
            }
            for one in made
        ],
        "buys": rows,
        "cost": plain(found.cost),
        "labour": plain(found.labour),
        "gain": plain(found.gain),
        "shortfall": plain(found.shortfall),
        "products": [
            {
                "name": one.name,
                "covered": plain(one.have),
                "made": plain(made),
                "short": plain(short),
                "per": one.unit.value,
            }
            for one, made, short in lines
        ],
    }
