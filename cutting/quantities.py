"""Weights, money and prices per weight: exact decimals, units, rounding, footing, price endings.

Money is a plain Decimal in the test's currency. Weights and prices that somebody recorded
carry their unit (`Weight`, `UnitPrice`) and are never rewritten: showing them in another
unit makes a new number and leaves the record alone.
"""

from __future__ import annotations

import re
import tomllib
from collections.abc import Iterable, Sequence
from contextlib import AbstractContextManager, nullcontext
from dataclasses import dataclass
from decimal import ROUND_FLOOR, ROUND_HALF_UP, Context, Decimal, getcontext, localcontext
from enum import StrEnum
from functools import lru_cache
from pathlib import Path
from typing import Any, TypeVar

from cutting.errors import BadValue

WORK = Context(prec=36)
"""Every computation runs in this context: 36 digits, well past the 28 that are promised."""
NOISE = Decimal("1e-20")
"""What a division leaves behind: 10.35 and 10.350000000000000000000000000000000001 are one price."""
_ALREADY: AbstractContextManager[None] = nullcontext()


def working() -> AbstractContextManager[object]:
    """`with working():` computes in the WORK context; free when one is already inside."""
    return _ALREADY if getcontext().prec == WORK.prec else localcontext(WORK)


ZERO = Decimal(0)
ONE = Decimal(1)
HUNDRED = Decimal(100)

CONSTANTS: dict[str, Any] = tomllib.loads(
    (Path(__file__).parent / "data" / "constants.toml").read_text(encoding="utf-8")
)

PLAIN_DECIMAL = re.compile(r"-?[0-9]+(\.[0-9]+)?", re.ASCII)
LONGEST_DECIMAL = 29
"""Sign, point and digits: more than any scale or invoice prints."""


class Unit(StrEnum):
    """A unit of weight; `grams` is what one of it weighs, exactly."""

    G = "g"
    KG = "kg"
    OZ = "oz"
    LB = "lb"

    grams: Decimal


Unit.G.grams = ONE
Unit.KG.grams = Decimal(CONSTANTS["exact"]["grams_per_kilogram"])
Unit.OZ.grams = Decimal(CONSTANTS["exact"]["grams_per_ounce"])
Unit.LB.grams = Decimal(CONSTANTS["exact"]["grams_per_pound"])


def parse_decimal(text: object, field: str = "value") -> Decimal:
    """A plain decimal such as "6.17", exactly as written: "6.10" keeps its zero.

    Raises BadValue for anything else: numbers that are not text, exponents, signs other than
    a leading minus, separators, spaces, digits of other scripts, more than 28 characters.
    """
    right = 'a plain decimal such as "6.17" is right'
    if not isinstance(text, str):
        raise BadValue(field, f"{_short(text)} is not text", right)
    if len(text) > LONGEST_DECIMAL or not PLAIN_DECIMAL.fullmatch(text):
        raise BadValue(field, f"{_short(text)} is not a plain decimal", right)
    return Decimal(text)


def _short(value: object, most: int = 40) -> str:
    text = ascii(value) if isinstance(value, str) else type(value).__name__
    return text if len(text) <= most else text[: most - 1] + "…"


@dataclass(frozen=True, slots=True)
class Weight:
    """A weight as recorded: the value with its digits, and the unit it was shown in."""

    value: Decimal
    unit: Unit

    def __post_init__(self) -> None:
        if not self.value.is_finite():
            raise BadValue("weight", f"{self.value} is not a number", "a number is right")

    @classmethod
    def of(cls, value: str, unit: str) -> Weight:
        """`Weight.of("6.17", "lb")`. Raises BadValue for a bad number or an unknown unit."""
        return cls(parse_decimal(value, "weight"), parse_unit(unit))

    def to(self, unit: Unit) -> Decimal:
        """The same weight as a number of `unit`; exact whenever it can be written down."""
        return self.value if unit is self.unit else convert(self.value, self.unit, unit)

    def __str__(self) -> str:
        return f"{self.value} {self.unit}"


@dataclass(frozen=True, slots=True)
class UnitPrice:
    """Money for one unit of weight, for example 7.49 per lb."""

    amount: Decimal
    per: Unit

    def __post_init__(self) -> None:
        if not self.amount.is_finite():
            raise BadValue("price", f"{self.amount} is not a number", "a number is right")

    @classmethod
    def of(cls, amount: str, per: str) -> UnitPrice:
        return cls(parse_decimal(amount, "price"), parse_unit(per))

    def to(self, unit: Unit) -> Decimal:
        """The same price as money per `unit`."""
        if unit is self.per:
            return self.amount
        with working():
            return self.amount * unit.grams / self.per.grams


def parse_unit(text: object, field: str = "unit") -> Unit:
    try:
        return Unit(text)  # type: ignore[arg-type]
    except ValueError:
        raise BadValue(
            field, f"{_short(text)} is not a unit of weight", "g, kg, oz or lb is right"
        ) from None


def convert(value: Decimal, unit: Unit, to: Unit) -> Decimal:
    """`value` of `unit` as a number of `to`. Same unit: the very same number, digits and all."""
    if unit is to:
        return value
    return WORK.divide(WORK.multiply(value, unit.grams), to.grams)


PLACES_KEPT = {Unit.G: 2, Unit.KG: 5, Unit.OZ: 4, Unit.LB: 5}
"""Decimals of a converted weight: 10 mg in grams and kilos, about 3 and 5 mg in ounces, pounds."""
PRICE_PLACES = 4
"""Decimals of a worked-out price or cost: a hundredth of a cent."""
Measured = TypeVar("Measured", Weight, UnitPrice)


def storable(measured: Measured, unit: Unit) -> Measured:
    """A weight or a price as it can be recorded in `unit`: the one way into a column.

    In its own unit it is returned as it is, digits and all. A converted weight is rounded half
    up to PLACES_KEPT, a converted price to PRICE_PLACES. Raises BadValue for a number that is
    too long to be recorded. Common practice, no published source.
    """
    own = measured.unit if isinstance(measured, Weight) else measured.per
    value = measured.to(unit)
    if unit is not own:
        value = round_half_up(
            value, PLACES_KEPT[unit] if isinstance(measured, Weight) else PRICE_PLACES
        )
    return type(measured)(_recordable(value), unit)


MOST_PLACES = 12
"""Decimals of a unit price that follows from a total."""


def price_of_total(total: Decimal, weight: Weight) -> UnitPrice:
    """The unit price at which a weight costs a total that was paid, as it can be recorded.

    It has four decimals, or as many more as it takes for price × weight to be that total again to the
    cent. Raises BadValue for a weight of 0 or a total that is not above 0.
    """
    if total <= 0:
        raise BadValue("total", f"{total:f}", "more than 0 is right")
    if weight.value <= 0:
        raise BadValue("weight", f"{weight.value:f}", "more than 0 is right")
    exact = WORK.divide(total, weight.value)
    for places in range(PRICE_PLACES, MOST_PLACES + 1):
        amount = round_half_up(exact, places)
        if round_half_up(WORK.multiply(amount, weight.value)) == round_half_up(total):
            break
    return UnitPrice(_recordable(amount), weight.unit)


def storable_money(value: Decimal) -> Decimal:
    """Money that was worked out (a cost, a share of freight) as it can be recorded."""
    return _recordable(round_half_up(value, PRICE_PLACES))


def _recordable(value: Decimal) -> Decimal:
    if len(f"{value:f}") > LONGEST_DECIMAL:
        raise BadValue("number", f"{value:.6g} is too long", f"{LONGEST_DECIMAL - 1} digits fit")
    return value


def round_half_up(value: Decimal, places: int = 2) -> Decimal:
    """To `places` decimals, halves away from zero, as money is shown: 0.125 → 0.13."""
    return value.quantize(Decimal(1).scaleb(-places), rounding=ROUND_HALF_UP, context=WORK)


def tray_sticker(price: Decimal, weight: Decimal) -> Decimal:
    """What a tray of this weight costs at the register: half up to the cent."""
    with working():
        return round_half_up(price * weight)


@dataclass(frozen=True, slots=True)
class Footed:
    """Rounded parts that add up to the rounded total; `moved` are the rows that had to give."""

    parts: tuple[Decimal, ...]
    total: Decimal
    moved: tuple[int, ...]


def foot(parts: Sequence[Decimal], places: int = 2, total: Decimal | None = None) -> Footed:
    """Round a printed column so that it foots, by the largest-remainder rule.

    `total` is the unrounded total when it is known apart from the parts. Every part stays
    within one step of its exact value. Common practice, no published source.
    """
    with working():
        step = Decimal(1).scaleb(-places)
        whole = sum(parts, ZERO) if total is None else total
        goal = round_half_up(whole, places)
        floors = [part.quantize(step, rounding=ROUND_FLOOR) for part in parts]
        missing = int(((goal - sum(floors, ZERO)) / step).to_integral_value())
        by_remainder = sorted(
            range(len(parts)), key=lambda i: (floors[i] - parts[i], i)
        )  # largest remainder first
        for i in by_remainder[: max(missing, 0)]:
            floors[i] += step
        moved = tuple(i for i, part in enumerate(parts) if floors[i] != round_half_up(part, places))
        return Footed(tuple(floors), goal, moved)


# --- price endings -----------------------------------------------------------------------


@dataclass(frozen=True, slots=True)
class Band:
    """Endings that hold for prices under `under` (None: no upper end), above the band before.

    An ending is what is left of the price after taking out whole multiples of `every`:
    every 1 with endings .49 and .99, or every 10 with ending 9.00.
    """

    under: Decimal | None
    endings: tuple[Decimal, ...]
    every: Decimal = ONE

    def __post_init__(self) -> None:
        if self.every <= 0:
            raise BadValue("ending", f"every {self.every}", "a step above 0 is right")
        if not self.endings or not all(0 <= e < self.every for e in self.endings):
            raise BadValue(
                "ending",
                f"{', '.join(map(str, self.endings)) or 'no ending'}",
                f"endings from 0 up to but not including {self.every} are right",
            )


class Direction(StrEnum):
    UP = "up"
    DOWN = "down"
    NEAREST = "nearest"


@dataclass(frozen=True, slots=True)
class EndingRule:
    """A shop's price endings: bands from low to high, and which way to round."""

    bands: tuple[Band, ...]
    direction: Direction = Direction.UP

    def __post_init__(self) -> None:
        tops = [band.under for band in self.bands]
        if not tops or tops[-1] is not None or None in tops[:-1]:
            raise BadValue("bands", "no open last band", "only the last band has no upper end")
        known = [top for top in tops if top is not None]
        if any(top <= 0 for top in known) or known != sorted(set(known)):
            raise BadValue("bands", "upper ends out of order", "they rise from above 0")

    def up(self, price: Decimal) -> Decimal:
        """The lowest allowed price that is at least `price`."""
        with working():
            return min(p for p in self._around(price) if p >= price - NOISE)

    def down(self, price: Decimal) -> Decimal | None:
        """The highest allowed price that is at most `price`; None when there is none above 0."""
        with working():
            return max((p for p in self._around(price) if p <= price + NOISE), default=None)

    def nearest(self, price: Decimal) -> Decimal:
        """The allowed price closest to `price`; half way goes up."""
        above, below = self.up(price), self.down(price)
        return above if below is None or above - price <= price - below else below

    def apply(self, price: Decimal) -> Decimal:
        """`price` with the rule's own direction. Never 0: the lowest allowed price at least."""
        if self.direction is Direction.UP:
            return self.up(price)
        if self.direction is Direction.DOWN:
            below = self.down(price)
            return self.up(price) if below is None else below
        return self.nearest(price)

    def around(self, price: Decimal, each_way: int) -> tuple[Decimal, ...]:
        """Allowed prices from `each_way` below `price` to as many above; `price` itself too."""
        least = Decimal("1e-6")
        low: list[Decimal] = []
        high: list[Decimal] = []
        at: Decimal | None = price
        while at is not None and len(low) < each_way:
            at = self.down(at - least)
            if at is not None:
                low.append(at)
        at = price
        while len(high) < each_way:
            at = self.up(at + least)
            high.append(at)
        return (*reversed(low), price, *high)

    def _around(self, price: Decimal) -> Iterable[Decimal]:
        """Allowed prices on both sides of `price` in each band, its edges included."""
        with working():
            low = ZERO
            for band in self.bands:
                edges = {min(max(price, low), band.under) if band.under else max(price, low), low}
                if band.under is not None:
                    edges.add(band.under)
                for edge in edges:
                    base = (edge / band.every).to_integral_value(rounding=ROUND_FLOOR)
                    for ending in band.endings:
                        for turn in (base - 1, base, base + 1):
                            found = turn * band.every + ending
                            if (
                                found > 0
                                and low <= found
                                and (not band.under or found < band.under)
                            ):
                                yield found
                low = band.under or low


@lru_cache(maxsize=8)
def class_iii_tolerance_divisions(divisions: int) -> int:
    """How many divisions a Class III scale may be off at a load of so many divisions.

    NIST Handbook 44, section 2.20, Table 6, maintenance tolerance.
    """
    table = CONSTANTS["published"]["class_iii"]
    for most, off in table["steps"]:
        if divisions <= most:
            return int(off)
    return int(table["beyond"])


def class_iii_tolerance(load: Decimal, division: Decimal) -> Decimal:
    """Tolerance at `load`, in the unit both are in. A part of a division counts as a whole one."""
    with working():
        count = load / division
        whole = int(count.to_integral_value(rounding="ROUND_CEILING"))
        return class_iii_tolerance_divisions(whole) * division
