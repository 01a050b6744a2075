"""The next order: what the cooler will not cover until the delivery after next, as the solver is asked."""

from dataclasses import dataclass, field
from datetime import date, timedelta
from decimal import Decimal
from typing import Any

from django.db.models import OuterRef, Subquery, UUIDField
from django.utils import timezone

from cutting.cooler.receiving import bag_cost
from cutting.errors import BadValue
from cutting.planning.ordering import delivery_after
from cutting.quantities import ZERO, Unit, UnitPrice, Weight, round_half_up, working
from rooms.bench.queries.invoice import invoice_now
from rooms.catalog.models import Piece, PlanOutput
from rooms.common.tables.files import csv_text
from rooms.cooler.models import Bag, Delivery
from rooms.demand.queries.wants import WantedOn, wants_of
from rooms.planner.models import BuyingTerms, NextOrder
from rooms.planner.queries.asking import WaysOf, wants_rows, ways_of
from rooms.planner.queries.at_hand import pounds_at_hand
from rooms.shop.queries.current import house
from wording.pencil import money

ENDLESS = "1000000"
"""Minutes: an order is not held back by hands."""
LATE = timedelta(days=7)
"""So late a ferry may be; what was sent before that does not come any more."""


@dataclass
class OrderAsked:
    """What the solver is asked, and what the page knows beside it."""

    arrives_on: date
    lasts_until: date
    document: dict[str, Any]
    left_out: list[str] = field(default_factory=list)


@dataclass(frozen=True)
class Buyable:
    """A piece that can be ordered: what one weighs, its price, and how long it still ages here."""

    piece: Piece
    weight: Weight
    price: UnitPrice
    lag: int
    """Days from its delivery until it is old enough."""


def asking_order(today: date) -> OrderAsked:
    """Twenty-one queries at any size. Raises BadValue without delivery days, or where nothing can
    be ordered."""
    weekdays = house().delivery_days
    arrives = delivery_after(today, weekdays)
    until = delivery_after(arrives, weekdays)
    offers = buyable()
    if not offers:
        raise BadValue("Pieces", "none has a price", "one that was delivered or tested is right")
    terms = {row.piece_id: row for row in BuyingTerms.objects.filter(piece__in=offers)}
    bags = _bags(today)
    ways = ways_of({bag.piece_id for bag in bags} | set(offers), today)
    ends = _ends(ways, offers, until)
    wanted = _wanted(today, ends)
    rows = [_bag(bag, ways, offers, until) for bag in bags]
    found = [row for row in rows if row is not None] + _coming(today, ways)
    products = wants_rows(ways, wanted, pounds_at_hand(today, ways.products))
    own = [_offer(one, ways, terms.get(one.piece.pk)) for one in offers.values()]
    return OrderAsked(
        arrives,
        until,
        {
            "day": {
                "format": "mindful-tally.day",
                "version": 1,
                "currency": house().currency,
                "minutes": ENDLESS,
                "ways": [_plain(row) for row in ways.rows],
                "bags": found,
                "products": [_only_wanted(row) for row in products],
            },
            "offers": [row for row in own if row is not None],
            "rate": f"{house().labour_rate or 0:f}",
        },
        ways.left_out,
    )


def buyable() -> dict[int, Buyable]:
    """Pieces with a price of now, by their id: six queries."""
    pieces = {piece.pk: piece for piece in Piece.objects.all()}
    prices = invoice_now(set(pieces))
    newest = Bag.objects.as_delivered().filter(piece=OuterRef("pk")).order_by("-came_at", "-pk")
    last = Piece.objects.filter(pk__in=prices).values_list(
        "pk", Subquery(newest.values("pk")[:1], output_field=UUIDField())
    )
    bags = Bag.objects.in_bulk([bag for _, bag in last if bag is not None])
    by_piece = {bag.piece_id: bag for bag in bags.values()}
    found = {}
    for pk, price in prices.items():
        piece, bag = pieces[pk], by_piece.get(pk)
        if piece.usual_weight:
            weight = Weight(piece.usual_weight, Unit(piece.usual_unit))
        elif bag is not None:
            weight = bag.weight
        else:
            continue
        found[pk] = Buyable(piece, weight, price, _lag(piece, bag))
    return found


def _lag(piece: Piece, bag: Bag | None) -> int:
    """As its newest bag came; without one its least age."""
    if bag is None or bag.old_enough_on is None:
        return piece.least_age_days or 0
    return max((bag.old_enough_on - timezone.localdate(bag.came_at)).days, 0)


def _bags(today: date) -> list[Bag]:
    found = Bag.objects.free().in_order(today).with_piece()
    found = found.filter(piece__isnull=False, price_amount__isnull=False)
    return list(found.exclude(ends_on__lt=today))


def _ends(ways: WaysOf, offers: dict[int, Buyable], until: date) -> dict[int, date]:
    """Until when each product has to last, by its id: to the delivery after next, and as long again
    as what it is made of still ages."""
    lags: dict[int, int] = {}
    cuts = {product.cut_id: product.pk for product in ways.products}
    for pk, offer in offers.items():
        for way in ways.by_piece.get(pk, []):
            for row in way.outputs:
                product = cuts.get(row.cut_id)
                if product is not None:
                    lags[product] = min(lags.get(product, offer.lag), offer.lag)
    return {product: until + timedelta(days=lag) for product, lag in lags.items()}


def _wanted(today: date, ends: dict[int, date]) -> dict[int, WantedOn]:
    """Least and most of each product, summed over its days: three queries."""
    last = max(ends.values(), default=today + timedelta(days=1))
    days = [today + timedelta(days=ahead) for ahead in range((last - today).days)]
    found: dict[int, WantedOn] = {}
    with working():
        for day, rows in wants_of(days).items():
            for row in rows:
                if day >= ends.get(row.product.pk, day):
                    continue
                before = found.get(row.product.pk) or WantedOn(row.product, ZERO, ZERO)
                found[row.product.pk] = WantedOn(
                    row.product, before.least + row.least, before.most + row.most, row.why
                )
    return found


def _only_wanted(row: dict[str, Any]) -> dict[str, Any]:
    """An order is for what is wanted: beyond the most, and of what nobody has put on the list, nothing
    counts. Else meat would be bought to be valued as a by-product."""
    if not row["is_sold"]:
        return row
    unit = row["price"]["per"]
    none = {"most": {"value": "0", "unit": unit}, "over": {"amount": "0", "per": unit}}
    return none | row | {"over": none["over"]}


def _plain(row: dict[str, Any]) -> dict[str, Any]:
    return {name: value for name, value in row.items() if name not in ("machines", "waits")}


def _bag(bag: Bag, ways: WaysOf, offers: dict[int, Buyable], until: date) -> dict[str, Any] | None:
    """A bag that is old enough in time, with the ways that suit its age then."""
    offer = offers.get(bag.piece_id)
    end = until + timedelta(days=offer.lag if offer else 0)
    if bag.old_enough_on is not None and bag.old_enough_on >= end:
        return None
    age = bag.aged.on(end)
    own = [
        way.key
        for way in ways.by_piece.get(bag.piece_id, [])
        if all(_suits(row, age) for row in way.outputs)
    ]
    line = bag.line
    if not own or line is None:
        return None
    return {
        "id": str(bag.pk),
        "weight": {"value": f"{bag.weight_value:f}", "unit": bag.weight_unit},
        "cost": f"{max(bag_cost(line, bag.freight, bag.discount), ZERO):f}",
        "ways": own,
    }


def _suits(row: PlanOutput, age: int) -> bool:
    least = row.cut.least_age_days if row.cut else None
    return least is None or least <= age


def _coming(today: date, ways: WaysOf) -> list[dict[str, Any]]:
    """Pieces of orders that are sent and not here yet, as bags: two queries. One is here with the
    first delivery of its day or later; the ferry may be late."""
    found = []
    newest = Delivery.objects.order_by("-received_at").values_list("received_at", flat=True).first()
    since = today - LATE if newest is None else max(timezone.localdate(newest), today - LATE)
    orders = NextOrder.objects.filter(arrives_on__gt=since, taken_back_at=None)
    for order in orders.exclude(sent_at=None):
        offers = {row["id"]: row for row in order.document["offers"]}
        for buy in order.answer["buys"]:
            offer = offers[buy["offer"]]
            own = [way.key for way in ways.by_piece.get(int(offer["id"]), [])]
            if not own:
                continue
            with working():
                cost = round_half_up(Decimal(buy["cost"]) / buy["pieces"], 2)
            found += [
                {
                    "id": f"{order.key}-{offer['id']}-{number}",
                    "weight": offer["weight"],
                    "cost": f"{cost:f}",
                    "ways": own,
                }
                for number in range(buy["pieces"])
            ]
    return found


def _offer(one: Buyable, ways: WaysOf, terms: BuyingTerms | None) -> dict[str, Any] | None:
    own = [way.key for way in ways.by_piece.get(one.piece.pk, [])]
    if not own:
        return None
    in_case = terms.in_case if terms else 1
    with working():
        alone = one.price.amount + (terms.more if terms else ZERO)
    price = {"amount": f"{one.price.amount:f}", "per": one.price.per.value}
    return {
        "id": str(one.piece.pk),
        "name": one.piece.shown_name,
        "item": one.piece.item_number,
        "weight": {"value": f"{one.weight.value:f}", "unit": one.weight.unit.value},
        "price": price | {"amount": f"{alone:f}"},
        "case_price": price,
        "in_case": in_case,
        "ways": own,
        "lag": one.lag,
    }


@dataclass(frozen=True)
class BuyLine:
    """One piece of an order: how many, what it costs, and what it is for."""

    piece: str
    item: str
    many: str
    weight: str
    cost: str
    ways: str
    ages: str


@dataclass(frozen=True)
class CoverLine:
    """One product: what is wanted until then, what the cooler gives, what the order gives."""

    name: str
    wanted: str
    covered: str
    ordered: str
    short: str
    cheapest: str


@dataclass(frozen=True)
class OrderView:
    order: NextOrder
    buys: list[BuyLine]
    covers: list[CoverLine]
    cost: str
    gain: str
    shortfall: str


def newest_order() -> NextOrder | None:
    """One query."""
    return NextOrder.objects.select_related("made_by").first()


def order_view(order: NextOrder) -> OrderView:
    """No query."""
    answer = order.answer
    offers = {row["id"]: row for row in order.document["offers"]}
    ways = {row["id"]: row["name"] for row in order.document["day"]["ways"]}
    short = Decimal(answer["shortfall"])
    return OrderView(
        order,
        [_buy_line(buy, offers[buy["offer"]], ways) for buy in answer["buys"]],
        _covers(order, offers, ways),
        money(Decimal(answer["cost"])),
        money(Decimal(answer["gain"])),
        money(short) if short else "",
    )


def _buy_line(buy: dict[str, Any], offer: dict[str, Any], ways: dict[str, str]) -> BuyLine:
    many = []
    if buy["cases"]:
        many.append(f"{buy['cases']} case{'s' if buy['cases'] > 1 else ''} of {offer['in_case']}")
    if buy["singles"]:
        many.append(f"{buy['singles']}")
    cut = [f"{row['pieces']} × {ways[row['way']].partition(': ')[2]}" for row in buy["cut"]]
    days = offer["lag"]
    return BuyLine(
        offer["name"],
        offer["item"],
        " and ".join(many),
        f"{Decimal(buy['weight']['value']):.1f} {buy['weight']['unit']}",
        money(Decimal(buy["cost"])),
        "; ".join(cut),
        f"ages {days} day{'s' if days > 1 else ''} here first" if days else "",
    )


def _covers(
    order: NextOrder, offers: dict[str, dict[str, Any]], ways: dict[str, str]
) -> list[CoverLine]:
    asked = {row["name"]: row for row in order.document["day"]["products"]}
    costs = {row["product"]: row["from"] for row in order.answer["costs"]}
    found = []
    for line in order.answer["products"]:
        row = asked[line["name"]]
        if "least" not in row:
            continue
        unit = line["per"]
        own = Unit(row["least"]["unit"])
        with working():
            least, most = (
                Weight(Decimal(row[name]["value"]), own).to(Unit(unit))
                for name in ("least", "most")
            )
        short = Decimal(line["short"])
        found.append(
            CoverLine(
                row["shown"],
                f"{least:.1f} to {most:.1f} {unit}",
                f"{Decimal(line['covered']):.1f}",
                f"{Decimal(line['made']):.1f}",
                f"{short:.1f} {unit} short: {_why_short(order, line['name'])}" if short else "",
                _cheapest(costs.get(line["name"], []), offers, ways, unit),
            )
        )
    return sorted(found, key=lambda one: not one.short)


def _why_short(order: NextOrder, product: str) -> str:
    """Why nothing is bought for it."""
    offered = {way for row in order.document["offers"] for way in row["ways"]}
    given = any(
        output["product"] == product
        for way in order.document["day"]["ways"]
        if way["id"] in offered
        for output in way["outputs"]
    )
    return "a piece more would not pay" if given else "no piece with a price gives it"


def _cheapest(
    rows: list[dict[str, str]],
    offers: dict[str, dict[str, Any]],
    ways: dict[str, str],
    unit: str,
) -> str:
    """“14.20 a lb from Tenderloin, full; 15.10 from peeled”: each piece once, by its best way."""
    seen, words = set(), []
    for row in rows:
        if row["offer"] in seen or Decimal(row["amount"]) <= 0:
            continue  # what falls beside something dearer has no cost of its own
        seen.add(row["offer"])
        words.append(f"{money(Decimal(row['amount']))} from {offers[row['offer']]['name']}")
    return f"a {unit} {'; '.join(words[:3])}" if words else ""


COLUMNS = [
    "item",
    "piece",
    "cases",
    "in a case",
    "alone",
    "weight",
    "unit",
    "price",
    "per",
    "cost",
    "for",
]


def order_csv(order: NextOrder) -> str:
    """For the supplier: a row for each piece."""
    offers = {row["id"]: row for row in order.document["offers"]}
    rows = []
    for buy in order.answer["buys"]:
        offer = offers[buy["offer"]]
        price = offer["price"] if buy["singles"] and not buy["cases"] else offer["case_price"]
        rows.append(
            [
                offer["item"],
                offer["name"],
                buy["cases"],
                offer["in_case"] if buy["cases"] else "",
                buy["singles"],
                Decimal(buy["weight"]["value"]),
                buy["weight"]["unit"],
                Decimal(price["amount"]),
                price["per"],
                round_half_up(Decimal(buy["cost"]), 2),
                order.arrives_on,
            ]
        )
    return csv_text(COLUMNS, rows)
