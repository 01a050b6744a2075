"""What the page looks up while one price is dragged: the core's figures at every allowed price."""

from typing import Any

from cutting.prices.ladder import Stop, crossings, stops
from cutting.quantities import tray_sticker
from drawings.rails import money_bar
from rooms.pricebook.models import Product
from rooms.pricing.queries.building import PriceView, cost_of, reach_of
from rooms.pricing.queries.lines import PriceRow, other_words
from wording.pencil import money, percent, profit_shown

EACH_WAY = 30


def drag_stops(view: PriceView, output_id: int) -> dict[str, Any] | None:
    """Every stop of one price with the texts and the bar that belong to it; None for no price.

    The page never computes: a stop's words are the core's, so the moved page and the saved one
    cannot differ.
    """
    at = next((i for i, row in enumerate(view.table) if row.id == output_id), None)
    if at is None or (price := view.table[at].price) is None:
        return None
    row, reach = view.table[at], reach_of(view.built, view.sheet)
    found = stops(view.built, at, EACH_WAY)
    prices = [stop.price for stop in found]
    return {
        "at": prices.index(price),
        "stops": [_stop(stop, view, at, row, reach) for stop in found],
    }


def _stop(stop: Stop, view: PriceView, at: int, row: PriceRow, reach: Any) -> dict[str, Any]:
    built, priced = stop.built, stop.built.lines[at]
    whole, cost = built.whole, cost_of(built, view.sheet)
    bar = money_bar([line.sales for line in built.lines], cost, reach)
    return {
        "price": f"{stop.price:f}",
        "shown": money(stop.price),
        "margin": "" if priced.margin is None else percent(priced.margin).removesuffix(" %"),
        "markup": "" if priced.markup is None else percent(priced.markup).removesuffix(" %"),
        "why": priced.why,
        "sticker": money(tray_sticker(stop.price, row.tray)) if row.tray else "",
        "other": other_words(row.product, stop.price),
        "over": _is_over(row.product, stop.price, row.tray),
        "sales": money(whole.retail) if whole else "–",
        "gp": money(profit_shown(whole.retail, cost)) if whole else "–",
        "whole": percent(whole.margin) if whole else "–",
        "of_cost": percent(whole.markup) if whole and whole.markup is not None else "–",
        "crossed": " ".join(crossings(built.lines)),
        "bar": bar.boxes,
        "post": bar.post,
    }


def _is_over(product: Product | None, price: Any, tray: Any) -> bool:
    """The sticker passes the family's comfort limit."""
    limit = product.family.comfort if product and product.family_id else None
    return bool(limit and tray and tray_sticker(price, tray) > limit)


def steps_below(view: PriceView) -> dict[int, tuple[int, int]]:
    """Where each price stands among its stops, and how many there are, for the slider."""
    places = {}
    for row in view.table:
        if row.price is not None:
            around = row.priced.line.endings.around(row.price, EACH_WAY)
            places[row.id] = (around.index(row.price), len(around) - 1)
    return places
