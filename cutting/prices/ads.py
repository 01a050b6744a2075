"""Ad planning: what a low price brings, what it gives away, and what wins that back.

Money and pounds are in one unit of sale throughout. Common practice, no published source.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from decimal import Decimal

from cutting.errors import BadValue
from cutting.prices.margins import margin_of
from cutting.quantities import ZERO, Unit, UnitPrice, Weight, round_half_up, working


@dataclass(frozen=True, slots=True)
class Sold:
    """A product in the ad week: its price and cost, expected pounds, and those of a usual week.

    `usual_price` None: it keeps its price.
    """

    name: str
    price: Decimal
    cost: Decimal
    pounds: Decimal
    usual_pounds: Decimal = ZERO
    usual_price: Decimal | None = None

    def __post_init__(self) -> None:
        if self.price <= 0:
            raise BadValue(f"{self.name}, price", f"{self.price}", "more than 0 is right")
        if self.usual_price is not None and self.usual_price <= 0:
            raise BadValue(f"{self.name}, usual price", f"{self.usual_price}", "more than 0")
        for name in ("pounds", "usual_pounds"):
            if getattr(self, name) < 0:
                raise BadValue(f"{self.name}, {name}", str(getattr(self, name)), "0 or more")

    @property
    def gain(self) -> Decimal:
        """Gross profit of one pound at the ad week's price."""
        with working():
            return self.price - self.cost


@dataclass(frozen=True, slots=True)
class Week:
    """Sales and gross profit of a week; `margin` None when nothing sells."""

    sales: Decimal
    gp: Decimal
    margin: Decimal | None


@dataclass(frozen=True, slots=True)
class WinBack:
    """Pounds of one cut that win the ad back; None when it earns nothing itself."""

    name: str
    gain: Decimal
    pounds: Decimal | None


@dataclass(frozen=True, slots=True)
class Ad:
    week: Week
    """The ad week, all products together."""
    usual: Week
    given_away: Decimal
    """(usual price − ad price) × pounds sold at the ad price."""
    win_back: tuple[WinBack, ...]

    @property
    def change(self) -> Decimal:
        with working():
            return self.week.gp - self.usual.gp


def plan_ad(item: Sold, around: Sequence[Sold]) -> Ad:
    """Blended profit of the ad week beside a usual one, and what wins the ad back.

    Raises BadValue for an ad item without its usual price.
    """
    if item.usual_price is None:
        raise BadValue(f"{item.name}, usual price", "is missing", "the price outside the ad")
    with working():
        everything = (item, *around)
        given = (item.usual_price - item.price) * item.pounds
        return Ad(
            _week([(one.price, one.cost, one.pounds) for one in everything]),
            _week(
                [(one.usual_price or one.price, one.cost, one.usual_pounds) for one in everything]
            ),
            given,
            tuple(
                WinBack(one.name, one.gain, max(given, ZERO) / one.gain if one.gain > 0 else None)
                for one in around
            ),
        )


def _week(sold: Sequence[tuple[Decimal, Decimal, Decimal]]) -> Week:
    sales = sum((price * pounds for price, _, pounds in sold), ZERO)
    costs = sum((cost * pounds for _, cost, pounds in sold), ZERO)
    return Week(sales, sales - costs, margin_of(sales, costs) if sales > 0 else None)


@dataclass(frozen=True, slots=True)
class Way:
    """One way to cut the ad pieces: what one unit bought sells for and costs."""

    name: str
    sales: Decimal
    cost: Decimal

    @property
    def gp(self) -> Decimal:
        with working():
            return self.sales - self.cost


def sells_for(parts: Sequence[tuple[Decimal, UnitPrice]], unit: Unit) -> Decimal:
    """What one `unit` bought sells for: Σ share of the weight paid for × price."""
    with working():
        return sum((share * price.to(unit) for share, price in parts), ZERO)


def brings(share: Decimal, price: UnitPrice, bought: Weight) -> Decimal:
    """Money of one output, by its share of what was bought, at a price."""
    with working():
        return share * bought.to(price.per) * price.amount


EXAMPLE_OFF = Decimal("0.2")
EXAMPLE_MORE = Decimal("2")
EXAMPLE_AROUND = Decimal("1.2")


def example_price(price: Decimal) -> Decimal:
    """An ad's price to begin with: a fifth off, to the cent."""
    with working():
        return round_half_up(price * (1 - EXAMPLE_OFF))


def example_weeks(
    pounds: Decimal, days: int, unit: Unit, *, is_item: bool
) -> tuple[Decimal, Decimal]:
    """A usual week and the ad week in `unit`, from pounds cut in so many days, to begin with:
    the ad sells twice as much, what stands around it a fifth more."""
    with working():
        week = Weight(pounds, Unit.LB).to(unit) / days * 7
        more = week * (EXAMPLE_MORE if is_item else EXAMPLE_AROUND)
        return round_half_up(week, 1), round_half_up(more, 1)


@dataclass(frozen=True, slots=True)
class Blend:
    """The pieces with `share` of them cut the merchandised way, per pound bought."""

    share: Decimal
    sales: Decimal
    gp: Decimal

    @property
    def margin(self) -> Decimal:
        return margin_of(self.sales, self.sales - self.gp)


def blend(plain: Way, merchandised: Way, share: Decimal) -> Blend:
    """`share` from 0 (all the ad's way) to 1."""
    if not 0 <= share <= 1:
        raise BadValue("share", f"{share}", "from 0 to 1 is right")
    with working():
        keep = 1 - share
        sales = plain.sales * keep + merchandised.sales * share
        return Blend(share, sales, plain.gp * keep + merchandised.gp * share)


def share_for_margin(plain: Way, merchandised: Way, goal: Decimal) -> Decimal | None:
    """The least share cut the merchandised way at which the blend makes `goal` of sales.

    gp(x) = goal · sales(x) is linear in x. 0 when the ad makes it alone; None when even all of
    them do not make it.
    """
    if goal >= 1:
        raise BadValue("goal", f"{goal}", "less than 1 is right")
    with working():
        short = plain.gp - goal * plain.sales
        best = merchandised.gp - goal * merchandised.sales
        if short >= 0:
            return ZERO
        if best < 0:
            return None
        return -short / (best - short)


@dataclass(frozen=True, slots=True)
class WeekBar:
    """A week's sales as a bar in pixels: cost first, then gross profit. At a loss the cost runs
    past the sales, which end at `sales`."""

    cost: float
    sales: float

    @property
    def profit(self) -> float:
        return round(max(self.sales - self.cost, 0.0), 1)

    @property
    def loss(self) -> float:
        return round(max(self.cost - self.sales, 0.0), 1)


def week_bars(ad: Ad, width: float = 640.0) -> tuple[WeekBar, ...]:
    """A usual week and the ad week on one scale; nothing is sold: no bars."""
    weeks = (ad.usual, ad.week)
    widest = max(max(week.sales, week.sales - week.gp) for week in weeks)
    if widest <= 0:
        return ()
    scale = width / float(widest)
    return tuple(
        WeekBar(round(float(week.sales - week.gp) * scale, 1), round(float(week.sales) * scale, 1))
        for week in weeks
    )
