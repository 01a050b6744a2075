"""From a cost to a price: labour, packaging, shrink, margin or mark-up, ending, floor.

Prices and costs are money per unit of weight. Margins and shares are fractions of 1.
"""

from __future__ import annotations

from dataclasses import dataclass
from decimal import Decimal
from enum import StrEnum

from cutting.errors import BadValue
from cutting.quantities import (
    HUNDRED,
    NOISE,
    ONE,
    ZERO,
    EndingRule,
    Unit,
    UnitPrice,
    round_half_up,
    working,
)
from cutting.sheet.time_spent import wages

MOST_PRICE = Decimal(10000)


def retail_price(amount: Decimal, name: str = "price") -> Decimal:
    """A price that a tag can show, as it is. Raises BadValue for any other.

    More than 0, at most MOST_PRICE, whole cents. Common practice, no published source.
    """
    if not 0 < amount <= MOST_PRICE:
        raise BadValue(name, f"{amount} is not a price", f"more than 0, at most {MOST_PRICE}")
    if amount != round_half_up(amount):
        raise BadValue(name, f"{amount} has parts of a cent", "whole cents are right")
    return amount


class Convention(StrEnum):
    MARGIN = "margin"
    """Profit as a share of the price: the retail convention."""
    MARKUP = "markup"
    """Profit as a share of the cost."""


@dataclass(frozen=True, slots=True)
class Loads:
    """What one unit of weight carries beside the meat; all default to nothing."""

    labour: Decimal = ZERO
    packaging: Decimal = ZERO
    shrink: Decimal = ZERO
    """Share of packed value lost to markdowns and throw-outs."""

    def __post_init__(self) -> None:
        if self.labour < 0 or self.packaging < 0:
            raise BadValue("labour, packaging", "less than 0", "0 or more is right")
        if not 0 <= self.shrink < 1:
            raise BadValue("shrink", str(self.shrink), "from 0 up to but not including 1 is right")

    @classmethod
    def of(
        cls,
        *,
        shrink: Decimal,
        minutes: Decimal | None = None,
        rate: Decimal = ZERO,
        packing: Decimal | None = None,
        tray: Decimal | None = None,
    ) -> Loads:
        """From minutes of hands a unit at a rate by the hour, and what packing a tray of this
        weight costs; None is not carried."""
        with working():
            return cls(
                wages(minutes, rate) if minutes else ZERO,
                packing / tray if packing is not None and tray else ZERO,
                shrink,
            )

    def on(self, cost: Decimal) -> Decimal:
        """(cost + labour + packaging) / (1 − shrink)."""
        with working():
            return (cost + self.labour + self.packaging) / (ONE - self.shrink)


def margin_of(price: Decimal, cost: Decimal) -> Decimal:
    """Profit as a share of the price. `price` must be above 0."""
    with working():
        return (price - cost) / price


def margin_at(
    price: Decimal, cost: Decimal, loads: Loads | None = None, tax: Decimal = ZERO
) -> Decimal:
    """The margin of a price as it stands on the tag, of sales: the one there is.

    Without the sales tax inside the price, and with what the product carries on its cost.
    """
    return margin_on(price, (loads or Loads()).on(cost), tax)


def margin_on(price: Decimal, loaded: Decimal, tax: Decimal = ZERO) -> Decimal:
    """As `margin_at`, on a cost that has its loads already."""
    return margin_of(without_tax(price, tax), loaded)


def markup_of(price: Decimal, cost: Decimal) -> Decimal | None:
    """Profit as a share of the cost; None when there is no cost above 0."""
    with working():
        return (price - cost) / cost if cost > 0 else None


def markup_as_margin(markup: Decimal) -> Decimal:
    """100 % of cost = 50 % of sales. Raises BadValue at −100 % of cost and below."""
    if markup <= -1:
        raise BadValue("mark-up", as_percent(markup), "more than -100 % of cost is right")
    with working():
        return markup / (ONE + markup)


def exact_price(cost: Decimal, target: Decimal, by: Convention = Convention.MARGIN) -> Decimal:
    """Price before its ending: cost / (1 − margin), or cost × (1 + mark-up).

    Raises BadValue for a margin of 100 % or more, or a mark-up of −100 % or less.
    """
    if by is Convention.MARKUP:
        target = markup_as_margin(target)
    if target >= 1:
        raise BadValue("target", as_percent(target), "less than 100 % of sales is right")
    with working():
        return cost / (ONE - target)


@dataclass(frozen=True, slots=True)
class Policy:
    """How one product is priced."""

    target: Decimal
    endings: EndingRule
    floor: Decimal | None = None
    """Least margin of sales; a price rounded under it is not proposed."""
    by: Convention = Convention.MARGIN


@dataclass(frozen=True, slots=True)
class Proposal:
    """A price and what follows from it. `why` says in words when the floor had to step in."""

    price: Decimal
    exact: Decimal
    loaded_cost: Decimal
    margin: Decimal
    markup: Decimal | None
    why: str = ""


def propose(
    cost: Decimal, policy: Policy, loads: Loads | None = None, tax: Decimal = ZERO
) -> Proposal:
    """The price for one product: cost, loads, target, tax, ending, floor, in that order.

    `tax` is the rate inside the price; margins are on the price without it.

    When the ending would round the price under the floor margin, the next ending that keeps
    the floor is proposed and `why` says so. Raises BadValue for a target that cannot be met.
    """
    loaded = (loads or Loads()).on(cost)
    with working():
        gross = ONE + tax
        exact = exact_price(loaded, policy.target, policy.by) * gross
        price = policy.endings.apply(max(exact, ZERO))
        why = ""
        if policy.floor is not None:
            least = exact_price(loaded, policy.floor) * gross
            if price < least - NOISE:
                refused, price = price, policy.endings.up(least)
                why = under_floor(refused, margin_at(refused, cost, loads, tax), policy.floor)
        margin, markup = margin_at(price, cost, loads, tax), markup_of(price / gross, loaded)
        return Proposal(price, exact, loaded, margin, markup, why)


def under_floor(price: Decimal, margin: Decimal, floor: Decimal) -> str:
    """Why a price that rounding gave is not proposed."""
    left = f"{round_half_up(price)} would leave {as_percent(margin)}"
    return f"{left}, under the floor of {as_percent(floor)}"


@dataclass(frozen=True, slots=True)
class Whole:
    """The whole piece at a set of prices. Margin of sales, mark-up of cost, as fractions."""

    retail: Decimal
    gp: Decimal
    margin: Decimal
    markup: Decimal | None


def without_tax(price: Decimal, rate: Decimal) -> Decimal:
    """A price without the sales tax it includes; margins are on this. `rate` as a fraction."""
    if rate < 0:
        raise BadValue("tax", as_percent(rate), "0 % or more is right")
    with working():
        return price / (ONE + rate)


@dataclass(frozen=True, slots=True)
class TraySet:
    """What one packed tray costs beside the meat."""

    tray: Decimal = ZERO
    pad: Decimal = ZERO
    film: Decimal = ZERO
    label: Decimal = ZERO

    def __post_init__(self) -> None:
        for name in ("tray", "pad", "film", "label"):
            if getattr(self, name) < 0:
                raise BadValue(name, str(getattr(self, name)), "0 or more is right")

    @property
    def cost(self) -> Decimal:
        with working():
            return self.tray + self.pad + self.film + self.label


OTHER = {Unit.LB: Unit.KG, Unit.KG: Unit.LB}


def in_other_unit(price: UnitPrice) -> UnitPrice | None:
    """A price a pound as a tag shows it a kilo, and back, half up to the cent."""
    unit = OTHER.get(price.per)
    return None if unit is None else UnitPrice(round_half_up(price.to(unit)), unit)


def as_percent(share: Decimal) -> str:
    """A share of 1 in words for a message: 42.3 %."""
    with working():
        return f"{round_half_up(share * HUNDRED, 1)} %"
