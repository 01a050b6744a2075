"""Two to six ways to cut one piece, side by side: what each brings, and where the better one flips.

Common practice, no published source.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from decimal import Decimal

from cutting.costing.schools import Margin, costing
from cutting.errors import BadValue
from cutting.quantities import ONE, ZERO, Unit, UnitPrice, Weight, working
from cutting.sheet.cutting_test import (
    CuttingTest,
    Output,
    Piece,
    Role,
    Weighing,
    figures,
    same_name,
)
from cutting.sheet.time_spent import wages

FEWEST, MOST = 2, 6
FINE = Decimal("0.0001")
"""A division so small that nothing is rounded by it."""


@dataclass(frozen=True, slots=True)
class WayOutput:
    """One pile of a way: its share of the weight paid for, and its prices."""

    name: str
    role: Role
    share: Decimal
    retail: UnitPrice | None = None
    credit: UnitPrice | None = None
    in_case: bool = False

    def __post_init__(self) -> None:
        if not 0 <= self.share <= 1:
            raise BadValue(self.name, f"a share of {self.share}", "0 to 1 is right")

    @property
    def goes_to_case(self) -> bool:
        return self.role in (Role.MAIN, Role.SECONDARY) or (
            self.role is Role.CREDIT and self.in_case
        )


@dataclass(frozen=True, slots=True)
class Way:
    """One way to cut a piece. `minutes` of hands for the whole piece; None where nobody knows.

    `is_measured`: whether tests measured them; else they are assumed.
    """

    name: str
    outputs: tuple[WayOutput, ...]
    minutes: Decimal | None = None
    is_measured: bool = True

    def __post_init__(self) -> None:
        names = [same_name(one.name) for one in self.outputs]
        for name in names:
            if names.count(name) > 1:
                raise BadValue(self.name, f"“{name}” is there twice", "each output once is right")
        with working():
            total = sum((one.share for one in self.outputs), ZERO)
        if total > ONE:
            raise BadValue(self.name, f"shares of {total} in all", "at most 1 is right")


@dataclass(frozen=True, slots=True)
class WayFigures:
    """What one way brings. Shares are of the weight paid for; None where an input is missing."""

    way: Way
    main: Decimal
    saleable: Decimal
    true_cost: Decimal | None
    margin: Margin | None
    labour: Decimal
    has_rate: bool

    @property
    def gp(self) -> Decimal | None:
        return self.margin.gp if self.margin else None

    @property
    def gp_after_labour(self) -> Decimal | None:
        """None without a rate, or without a gross profit."""
        if self.margin is None or not self.has_rate:
            return None
        with working():
            return self.margin.gp - self.labour

    @property
    def money(self) -> Decimal | None:
        """What the ways are ranked by: gross profit with credits, less labour."""
        if self.margin is None or self.margin.gp_with_credits is None:
            return None
        with working():
            return self.margin.gp_with_credits - self.labour

    @property
    def products(self) -> int:
        """How many different products it gives."""
        return sum(one.goes_to_case and one.share > 0 for one in self.way.outputs)


@dataclass(frozen=True, slots=True)
class Flip:
    """The retail price of one output of one way at which the two best bring the same."""

    way: str
    output: str
    price: UnitPrice


@dataclass(frozen=True, slots=True)
class Best:
    """The names of the best ways by money, by percent and by the hour; None where none is known."""

    money: str | None
    percent: str | None
    hour: str | None


@dataclass(frozen=True, slots=True)
class Compared:
    piece: Piece
    ways: tuple[WayFigures, ...]
    best: Best
    flips: tuple[Flip, ...]

    @property
    def by_money(self) -> list[WayFigures]:
        """Those that can be ranked, the best first."""
        known = [one for one in self.ways if one.money is not None]
        return sorted(known, key=lambda one: -(one.money or ZERO))

    @property
    def has_mixed_minutes(self) -> bool:
        """Whether measured minutes stand beside assumed ones: then nothing is ranked by the hour."""
        return _has_mixed_minutes(self.ways)


def _has_mixed_minutes(found: Sequence[WayFigures]) -> bool:
    return len({one.way.is_measured for one in found if one.way.minutes}) > 1


def way_figures(piece: Piece, way: Way, rate: Decimal | None) -> WayFigures:
    """One way of one piece, by the sums of a cutting test."""
    test = as_test(piece, way, rate)
    found = figures(test)
    costs, margin = costing(test, found)
    return WayFigures(
        way=way,
        main=found.yields.main,
        saleable=found.yields.saleable,
        true_cost=costs.flat.true_cost,
        margin=margin,
        labour=wages(way.minutes or ZERO, rate or ZERO),
        has_rate=rate is not None,
    )


def as_test(piece: Piece, way: Way, rate: Decimal | None) -> CuttingTest:
    """The way as the test it would make."""
    outputs = []
    for number, one in enumerate(way.outputs):
        with working():
            weight = Weight(piece.weight.value * one.share, piece.weight.unit)
        outputs.append(
            Output(
                name=one.name,
                role=one.role,
                weighings=(Weighing(weight),) if one.share else (),
                retail=one.retail,
                credit=one.credit,
                in_case=one.in_case,
                minutes=way.minutes if number == 0 else None,
            )
        )
    return CuttingTest(piece, Weight(FINE, Unit.G), tuple(outputs), labour_rate=rate or None)


def compare_ways(piece: Piece, ways: Sequence[Way], rate: Decimal | None = None) -> Compared:
    """The ways in their order. `rate`: money per hour of hands. Raises BadValue for too few, too
    many, or a name that is there twice."""
    if not FEWEST <= len(ways) <= MOST:
        raise BadValue("ways", f"{len(ways)}", f"{FEWEST} to {MOST} are right")
    names = [same_name(way.name) for way in ways]
    for number, name in enumerate(names):
        if name in names[:number]:
            wrong = f"“{ways[number].name}” is there twice"
            raise BadValue(f"ways[{number}].name", wrong, "each name once is right")
    found = tuple(way_figures(piece, way, rate) for way in ways)
    best = Best(
        money=_best(found, lambda one: one.money),
        percent=_best(found, lambda one: one.margin.gp_percent if one.margin else None),
        hour=None
        if _has_mixed_minutes(found)
        else _best(found, lambda one: one.margin.gp_per_labour_hour if one.margin else None),
    )
    return Compared(piece, found, best, _flips(piece, found))


def _best(
    found: Sequence[WayFigures], figure: Callable[[WayFigures], Decimal | None]
) -> str | None:
    """The name of the best; of equals the first."""
    known = [(value, one) for one in found if (value := figure(one)) is not None]
    return max(known, key=lambda pair: pair[0])[1].way.name if known else None


def _flips(piece: Piece, found: Sequence[WayFigures]) -> tuple[Flip, ...]:
    """Prices at which the two that bring most would bring the same, one price moved alone."""
    known = [one for one in found if one.money is not None]
    two = sorted(known, key=lambda one: -(one.money or ZERO))[:2]
    if len(two) < 2:
        return ()
    flips = []
    for own in sorted(two, key=found.index):
        other = two[1] if own is two[0] else two[0]
        for output in own.way.outputs:
            price = flip_price(piece, own, other, output)
            if price is not None:
                flips.append(Flip(own.way.name, output.name, price))
    return tuple(flips)


def flip_price(
    piece: Piece, own: WayFigures, other: WayFigures, output: WayOutput
) -> UnitPrice | None:
    """The price of one output at which both ways bring the same; None for a share of 0, for what
    is not sold, or where it would be below 0."""
    if not (output.goes_to_case and output.share and output.retail):
        return None
    if own.money is None or other.money is None:
        return None
    with working():
        weight = piece.weight.to(output.retail.per) * output.share
        price = output.retail.amount + (other.money - own.money) / weight
    return UnitPrice(price, output.retail.per) if price >= 0 else None


def flip_share(
    piece: Piece, own: WayFigures, other: WayFigures, output: WayOutput
) -> Decimal | None:
    """The yield of one output at which both ways bring the same, the rest left as it is; None for
    what is not sold, or where it would not lie between 0 and 1."""
    if not (output.goes_to_case and output.retail):
        return None
    if own.money is None or other.money is None:
        return None
    with working():
        whole = piece.weight.to(output.retail.per) * output.retail.amount
        share = output.share + (other.money - own.money) / whole
    return share if 0 <= share <= 1 else None


def flip_rate(own: WayFigures, other: WayFigures) -> Decimal | None:
    """The wages of an hour at which both ways bring the same; None where none does, where they take
    equally long, or where the minutes of one are measured and of the other assumed."""
    if _has_mixed_minutes((own, other)):
        return None
    if own.margin is None or other.margin is None:
        return None
    one, two = own.margin.gp_with_credits, other.margin.gp_with_credits
    if one is None or two is None:
        return None
    with working():
        more = (own.way.minutes or ZERO) - (other.way.minutes or ZERO)
        rate = (one - two) * 60 / more if more else ZERO
    return rate if rate > 0 else None


def ladder(way: Way) -> tuple[UnitPrice, UnitPrice] | None:
    """The lowest and the highest retail price of a way, by weight."""
    prices = [one.retail for one in way.outputs if one.goes_to_case and one.share and one.retail]
    if not prices:
        return None
    ordered = sorted(prices, key=lambda price: price.to(Unit.KG))
    return ordered[0], ordered[-1]
