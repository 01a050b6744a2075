"""What planning the day is worth: half a year of the invented shop, the oldest bag first against the plan.

DJANGO_SETTINGS_MODULE=mindful_tally.settings.demo python tools/planner_backtest.py [weeks]
prints the table of docs/planner.md from the demo's own ways, tests, prices and list.

Every school gets the same deliveries, the same demand and the same luck with yields. Nobody knows the
demand beforehand: least and most are proposed from eight weeks of sales before, as the page proposes them.
"""

# ruff: noqa: E402 (the settings come first)
import os
import random
import sys
from collections import defaultdict
from dataclasses import dataclass, field, replace
from datetime import timedelta
from decimal import Decimal
from pathlib import Path

sys.path.insert(0, str(Path(__file__).parents[1]))
os.environ.setdefault("DJANGO_SETTINGS_MODULE", "mindful_tally.settings.demo")

import django

django.setup()

from django.utils import timezone

from cutting.planning.day import Day, day_figures
from cutting.planning.day_solver import NoDay, best_so_far
from cutting.planning.integer_program import OutOfTime, begin
from cutting.planning.selling import propose
from cutting.quantities import Unit
from formats.day import read_day
from rooms.bench.queries.invoice import invoice_now
from rooms.catalog.models import Piece
from rooms.demand.models import Wanted
from rooms.demand.queries.selling import balance_of
from rooms.planner.queries.asking import sold_as, ways_of
from rooms.pricebook.queries.book import prices_on

SEED, WEEKS, BEFORE = 12, 26, 4
"""Weeks that count, and those before in which cooler and case fill."""
FERRY = (1, 4)
DELIVERED = {
    "beef-tenderloin": 4,
    "beef-ribeye": 6,
    "beef-strip-loin": 5,
    "beef-knuckle": 6,
    "beef-shoulder-clod": 4,
    "beef-chuck-roll": 3,
    "beef-top-sirloin": 6,
    "beef-top-round": 3,
    "pork-loin": 8,
    "lamb-leg": 4,
}
"""Pieces by each ferry."""
FULL = {
    "The ferry brings less than sells": 1.0,
    "It brings about what can be cut": 1.3,
    "It brings too much": 1.6,
}
WINDOW = {"beef": (10, 28), "pork": (0, 9), "lamb": (2, 14)}
"""Days after it came: old enough, and its end."""
MINUTES = Decimal(360)
FRESH = 2
"""Days in the case before a pack is marked down."""
SECONDS = 2.0


@dataclass
class Bag:
    id: str
    piece: int
    weight: float
    cost: float
    ready: int
    end: int


@dataclass
class Shop:
    """One school's shop: its cooler, its case, and what it has earned."""

    name: str
    bags: list[Bag] = field(default_factory=list)
    case: dict[str, list[list[float]]] = field(default_factory=lambda: defaultdict(list))
    """By product: [day it was made, pounds], the oldest first."""
    sales: float = 0.0
    marked: float = 0.0
    marked_down: float = 0.0
    thrown: float = 0.0
    spent: float = 0.0
    minutes: float = 0.0
    missed: int = 0
    lost: float = 0.0

    def begin(self) -> None:
        """Count from here."""
        self.sales = self.marked = self.marked_down = self.thrown = self.spent = 0.0
        self.minutes = self.lost = 0.0
        self.missed = 0

    def have(self, product: str) -> float:
        return sum(pounds for _, pounds in self.case[product])


def main() -> None:
    weeks = int(sys.argv[1]) if len(sys.argv) > 1 else WEEKS
    begin()
    for words, times in FULL.items():
        print(f"\n{words}\n")
        _half_a_year(weeks, times)


def _half_a_year(weeks: int, times: float) -> None:
    today = timezone.localdate()
    keys = Piece.objects.in_bulk(list(DELIVERED), field_name="key")
    ways = ways_of({piece.pk for piece in keys.values()}, today)
    paid = invoice_now({piece.pk for piece in keys.values()})
    prices = {pk: float(price.to(Unit.LB)) for pk, price in paid.items()}
    usual = {(row.product_id, row.weekday): _usual(row) for row in Wanted.objects.all()}
    rows = {
        sold_as(one): (one, float(ways.prices[sold_as(one)].amount))
        for one in ways.products
        if sold_as(one) in ways.used
    }
    shops = [
        Shop("the oldest first, the plain way"),
        Shop("the oldest first, by turns"),
        Shop("the plan"),
        Shop("the plan, the full case left out"),
    ]
    luck = random.Random(SEED)
    listed = _proposed(usual, {product.pk: product for product, _ in rows.values()}, today, luck)
    start = today - timedelta(days=today.weekday())
    for day in range((BEFORE + weeks) * 7):
        if day == BEFORE * 7:
            for shop in shops:
                shop.begin()
        weekday = (start + timedelta(days=day)).weekday()
        if weekday in FERRY:
            for one in _delivery(day, times, keys, prices, luck):
                for shop in shops:
                    shop.bags.append(one)
        wants = {name: listed.get((product.pk, weekday)) for name, (product, _) in rows.items()}
        document = _document(ways, wants)
        demand = {
            name: _sells(usual.get((product.pk, weekday), 0.0), luck)
            for name, (product, _) in rows.items()
        }
        yields = {
            (way["id"], output["product"]): max(luck.gauss(1.0, 0.05), 0.0)
            for way in ways.rows
            for output in way["outputs"]
        }
        for number, shop in enumerate(shops):
            _day(shop, number, day, document, demand, yields, ways, wants)
        if weekday == 6:
            print(f"week {day // 7 + 1}", file=sys.stderr, flush=True)
    _table(shops, weeks)


def _usual(row: Wanted) -> float:
    return float(row.least + row.most) / 2


def _sells(usual: float, luck: random.Random) -> float:
    """What somebody would buy on a day, as the demo's till has it."""
    return max(luck.gauss(usual * 0.9, usual * 0.2), 0.0)


def _proposed(usual, products, today, luck) -> dict:
    """Least and most by product and day of the week, from eight weeks of sales."""
    prices = prices_on(today, list(products))
    found = {}
    for (pk, weekday), own in usual.items():
        if pk not in products:
            continue
        share, _ = balance_of(products[pk], prices.get(pk))
        sold = [Decimal(repr(round(_sells(own, luck), 2))) for _ in range(8)]
        found[pk, weekday] = propose(sold, share)
    return found


def _delivery(
    day: int, times: float, keys: dict[str, Piece], prices: dict[int, float], luck: random.Random
) -> list[Bag]:
    found = []
    for key, many in DELIVERED.items():
        piece = keys[key]
        for number in range(round(many * times)):
            weight = float(piece.usual_weight) * luck.uniform(0.9, 1.1)
            ready, end = WINDOW[piece.species]
            aged = luck.randrange(0, 8) if piece.species == "beef" else 0
            cost = weight * prices[piece.pk]
            bag = Bag(
                f"{day}-{key}-{number}",
                piece.pk,
                weight,
                cost,
                day + max(ready - aged, 0),
                day + end - aged,
            )
            found.append(bag)
    return found


def _document(ways, wants) -> dict:
    products = []
    for product in ways.products:
        for name in (sold_as(product), f"v{product.pk}"):
            if name not in ways.used:
                continue
            price = ways.prices[name]
            row = {"name": name, "price": {"amount": f"{price.amount:f}", "per": price.per.value}}
            if name == sold_as(product):
                wanted = wants.get(name)
                least, most = (wanted.least, wanted.most) if wanted else (Decimal(0), Decimal(0))
                over = min(product.transfer or Decimal(0), price.amount) / 2
                row |= {
                    "least": {"value": f"{least:f}", "unit": product.per},
                    "most": {"value": f"{most:f}", "unit": product.per},
                    "over": {"amount": f"{over:f}", "per": price.per.value},
                }
            products.append(row)
    return {
        "format": "mindful-tally.day",
        "version": 1,
        "currency": "USD",
        "minutes": f"{MINUTES:f}",
        "ways": ways.rows,
        "products": products,
    }


def _day(shop, number, day, document, demand, yields, ways, wants) -> None:
    gone = [bag for bag in shop.bags if bag.end < day]
    shop.thrown += sum(bag.cost for bag in gone)
    shop.bags = [bag for bag in shop.bags if bag.end >= day]
    ready = sorted(
        (bag for bag in shop.bags if bag.ready <= day), key=lambda bag: (bag.end, bag.id)
    )[:60]
    asked = _asked(shop, day, document, ready, ways)
    core = read_day(asked)
    if number < 2:
        choice = _oldest_first(core, number)
    else:
        least = [replace(one, least=Decimal(0)) for one in core.products]
        choice = _plan(core if number == 2 else replace(core, products=tuple(least)))
    figures = day_figures(core, choice)
    shop.minutes += float(figures.minutes)
    by_id = {bag.id: bag for bag in ready}
    for bag, way_number in zip(core.bags, choice, strict=True):
        if way_number is None:
            continue
        way, own = core.ways[way_number], by_id[bag.id]
        shop.bags.remove(own)
        shop.spent += own.cost
        for name, share in way.outputs:
            pounds = own.weight * float(share) * yields[way.id, name]
            shop.case[name].append([day, pounds])
    _sell(shop, day, core, demand, wants)


def _asked(shop, day, document, ready, ways) -> dict:
    products = [
        row
        | (
            {"have": {"value": f"{shop.have(row['name']):.3f}", "unit": row["price"]["per"]}}
            if row["name"].startswith("p")
            else {}
        )
        for row in document["products"]
    ]
    bags = [
        {
            "id": bag.id,
            "weight": {"value": f"{bag.weight:.2f}", "unit": "lb"},
            "cost": f"{bag.cost:.2f}",
            "must": bag.end == day,
            "ways": [way.key for way in ways.by_piece[bag.piece]],
        }
        for bag in ready
    ]
    return document | {"products": products, "bags": bags}


def _plan(core: Day):
    try:
        return best_so_far(core, SECONDS).figures.choice
    except (NoDay, OutOfTime):  # more falls due than there are hours: as it comes
        return _oldest_first(core, 0)


def _oldest_first(core: Day, number: int):
    """Bag after bag while there are minutes, as long as the case still takes something of it; by the
    first way of its piece, or by its ways in turn."""
    choice: list[int | None] = [None] * len(core.bags)
    turns: dict[tuple[str, ...], int] = defaultdict(int)
    room = {one.name: float((one.most or Decimal(10**6)) - one.have) for one in core.products}
    left = float(core.minutes)
    for b, bag in enumerate(core.bags):
        ways = [core.by_id[key] for key in bag.ways]
        way = core.ways[ways[turns[bag.ways] % len(ways)] if number == 1 else ways[0]]
        minutes = float(core.minutes_of(bag, way))
        largest = max(way.outputs, key=lambda pair: pair[1])[0]
        if minutes > left or (room[largest] <= 0 and not bag.must):
            continue
        turns[bag.ways] += 1
        choice[b] = core.by_id[way.id]
        left -= minutes
        for name, weight in core.made_of(bag, way).items():
            room[name] -= float(weight)
    return tuple(choice)


def _sell(shop, day, core, demand, wants) -> None:
    for one in core.products:
        price, over = float(one.price.amount), float(one.over)
        if one.name.startswith("v"):
            shop.sales += shop.have(one.name) * price
            shop.case[one.name] = []
            continue
        wanted = wants.get(one.name)
        if wanted is not None and shop.have(one.name) < float(wanted.least) - 1e-6:
            shop.missed += 1
        left = demand[one.name]
        for pack in shop.case[one.name]:
            sold = min(pack[1], left)
            pack[1] -= sold
            left -= sold
            shop.sales += sold * price
        shop.lost += left * price
        kept = []
        for made, pounds in shop.case[one.name]:
            if day - made >= FRESH:
                shop.marked_down += pounds
                shop.marked += pounds * over
            elif pounds > 1e-9:
                kept.append([made, pounds])
        shop.case[one.name] = kept


def _table(shops, weeks: int) -> None:
    print(
        f"| {weeks} weeks | gross profit | marked down, lb | thrown away | least missed | lost sales | hours |"
    )
    print("|---|---:|---:|---:|---:|---:|---:|")
    for shop in shops:
        profit = shop.sales + shop.marked - shop.spent - shop.thrown
        print(
            f"| {shop.name} | {profit:,.0f} | {shop.marked_down:,.0f} | {shop.thrown:,.0f}"
            f" | {shop.missed:,} | {shop.lost:,.0f} | {shop.minutes / 60:,.0f} |"
        )


if __name__ == "__main__":
    main()
