"""The next order: what is missing until the delivery after next, in pieces and cases, and what it brings.

The search itself is `cutting.planning.order_solver`; what it finds is worked out again here. Common practice,
no published source.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from datetime import date, timedelta
from decimal import Decimal

from cutting.errors import BadValue
from cutting.planning.day import DayProduct, DayWay, made_of
from cutting.quantities import ZERO, Unit, UnitPrice, Weight, working
from cutting.sheet.time_spent import wages

LOOKS_AHEAD = 14
"""Days in which a delivery day must come again."""


def delivery_after(day: date, weekdays: Sequence[int]) -> date:
    """The next delivery after a day; 0 is Monday. Raises BadValue where no day is one."""
    for ahead in range(1, LOOKS_AHEAD + 1):
        then = day + timedelta(days=ahead)
        if then.weekday() in weekdays:
            return then
    raise BadValue("Delivery days", "none", "at least one day of the week is right")


@dataclass(frozen=True, slots=True)
class Offer:
    """A piece that can be ordered: what one weighs as a rule, its price alone and in a case.

    `ways`: the ids of those it may be cut by.
    """

    id: str
    name: str
    weight: Weight
    price: UnitPrice
    ways: tuple[str, ...]
    in_case: int = 1
    case_price: UnitPrice | None = None

    def __post_init__(self) -> None:
        if self.in_case < 1:
            raise BadValue(self.name, f"{self.in_case} in a case", "1 or more is right")

    @property
    def single(self) -> Decimal:
        """What one costs that is bought alone."""
        with working():
            return self.weight.to(self.price.per) * self.price.amount

    @property
    def case(self) -> Decimal | None:
        """What a case costs; None where there are none."""
        if self.in_case == 1:
            return None
        price = self.case_price or self.price
        with working():
            return self.weight.to(price.per) * price.amount * self.in_case


@dataclass(frozen=True)
class Order:
    """`products`: what is wanted until then, with what the cooler covers as `have`. `rate`: money for
    an hour of hands; `most`: so many pieces of one kind at most."""

    offers: tuple[Offer, ...]
    ways: tuple[DayWay, ...]
    products: tuple[DayProduct, ...]
    rate: Decimal = ZERO
    most: int = 60
    by_id: dict[str, DayWay] = field(init=False, repr=False, compare=False)

    def __post_init__(self) -> None:
        object.__setattr__(self, "by_id", {way.id: way for way in self.ways})

    def labour(self, offer: Offer, way: DayWay) -> Decimal:
        """Wages to cut one piece."""
        with working():
            minutes = way.minutes + way.minutes_per_lb * offer.weight.to(Unit.LB)
        return wages(minutes, self.rate)

    def made(self, offer: Offer, way: DayWay) -> dict[str, Decimal]:
        """What one piece gives of each product, in the unit of the product's price."""
        return made_of(self.products, offer.weight, way)


@dataclass(frozen=True, slots=True)
class Buy:
    """So many cases and single pieces of an offer, and how many are cut by each way."""

    cases: int
    singles: int
    cut: tuple[tuple[str, int], ...]


@dataclass(frozen=True, slots=True)
class OrderFigures:
    """What an order costs and brings. `short`: of each product, in the unit of its price; `shortfall`
    that at the products' prices. `gain`: what more sells, less meat and hands."""

    buys: tuple[Buy, ...]
    cost: Decimal
    labour: Decimal
    gain: Decimal
    shortfall: Decimal
    short: tuple[Decimal, ...]
    made: tuple[Decimal, ...]

    def order(self) -> tuple[Decimal, int]:
        """The smaller the better: what is short less the gain, then pieces. A pound that is short
        weighs its price, so that nobody buys forty legs for a handful of kebab."""
        with working():
            against = self.shortfall - self.gain
        return against, sum(one for buy in self.buys for _, one in buy.cut)


def order_figures(order: Order, buys: Sequence[Buy]) -> OrderFigures:
    """An order worked out, exactly. Raises BadValue where more is cut than bought, or less."""
    made = {one.name: ZERO for one in order.products}
    cost = labour = ZERO
    with working():
        for offer, buy in zip(order.offers, buys, strict=True):
            pieces = buy.cases * offer.in_case + buy.singles
            if pieces != sum(many for _, many in buy.cut):
                raise BadValue(offer.name, f"{pieces} bought", "as many as are cut is right")
            cost += buy.singles * offer.single + buy.cases * (offer.case or ZERO)
            for way_id, many in buy.cut:
                way = order.by_id[way_id]
                labour += many * order.labour(offer, way)
                for name, weight in order.made(offer, way).items():
                    made[name] += many * weight
        sold = shortfall = ZERO
        short = []
        for one in order.products:
            there = one.have + made[one.name]
            missing = max(one.least - there, ZERO)
            sold += one.sales(there) - one.sales(one.have)
            shortfall += missing * one.price.amount
            short.append(missing)
        return OrderFigures(
            tuple(buys),
            cost,
            labour,
            sold - cost - labour,
            shortfall,
            tuple(short),
            tuple(made.values()),
        )


@dataclass(frozen=True, slots=True)
class NetCost:
    """What a unit of one product costs out of an offer by a way: meat and hands, less what else it
    brings."""

    offer: Offer
    way: DayWay
    amount: Decimal


def net_costs(order: Order, product: DayProduct) -> list[NetCost]:
    """Every way to have a product, the cheapest first; in the unit of its price."""
    prices = {one.name: one.price.amount for one in order.products}
    found = []
    with working():
        for offer in order.offers:
            for key in offer.ways:
                way = order.by_id[key]
                made = order.made(offer, way)
                own = made.get(product.name, ZERO)
                if not own:
                    continue
                beside = sum(
                    (made[name] * prices[name] for name in made if name != product.name), ZERO
                )
                spent = offer.single + order.labour(offer, way)
                found.append(NetCost(offer, way, (spent - beside) / own))
    return sorted(found, key=lambda one: one.amount)
