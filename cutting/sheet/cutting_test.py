"""A cutting test: what was opened, what came out, whether it balances, what it yielded.

All figures are in the unit of the piece's weight. Shares are fractions of 1, of the weight
paid for unless a name says otherwise.
"""

from __future__ import annotations

import unicodedata
from collections.abc import Iterable
from dataclasses import dataclass, field
from decimal import Decimal
from enum import StrEnum

from cutting.errors import BadValue
from cutting.quantities import (
    CONSTANTS,
    ONE,
    ZERO,
    Unit,
    UnitPrice,
    Weight,
    class_iii_tolerance,
    convert,
    working,
)


class Role(StrEnum):
    MAIN = "main"
    SECONDARY = "secondary"
    CREDIT = "credit"
    DISCARD = "discard"
    PURGE = "purge"


KNIFE_ALLOWANCE = Decimal(CONSTANTS["common_practice"]["allowance"]["knife"])
SAWN_ALLOWANCE = Decimal(CONSTANTS["common_practice"]["allowance"]["sawn"])
PORTION_SHARE = Decimal(CONSTANTS["common_practice"]["portion"]["share"])
HALF_OUNCE = {
    unit: convert(Decimal(CONSTANTS["common_practice"]["portion"]["ounces"]), Unit.OZ, unit)
    for unit in Unit
}


@dataclass(frozen=True, slots=True)
class Weighing:
    """One weight taken; `division` where it differs from the test's own scale.

    `readings`: 2 when it is the difference of two readings, each rounded by itself.
    """

    weight: Weight
    division: Weight | None = None
    readings: int = 1

    def __post_init__(self) -> None:
        _positive("weighing", self.weight)
        if self.division is not None:
            _positive("division", self.division)
        if self.readings not in (1, 2):
            raise BadValue("readings", str(self.readings), "1 is right, or 2 for a difference")


@dataclass(frozen=True, slots=True)
class Output:
    """One pile of a test. Prices are per weight; `minutes` is the time spent on this pile."""

    name: str
    role: Role
    weighings: tuple[Weighing, ...] = ()
    count: int | None = None
    target: Weight | None = None
    retail: UnitPrice | None = None
    credit: UnitPrice | None = None
    replacement: UnitPrice | None = None
    in_case: bool = False
    minutes: Decimal | None = None
    goes_to_case: bool = field(init=False)
    """Main and secondary outputs are sold; a credit output only where it says so."""

    def __post_init__(self) -> None:
        if not self.name.strip():
            raise BadValue("name", "an output without a name", "a name is right")
        if self.count is not None and self.count < 1:
            raise BadValue("count", str(self.count), "a whole number of 1 or more is right")
        if self.target is not None:
            _positive("target", self.target)
        for name, price in (("retail", self.retail), ("replacement", self.replacement)):
            if price is not None and price.amount <= 0:
                raise BadValue(name, f"a price of {price.amount}", "more than 0 is right")
        if self.credit is not None and self.credit.amount < 0:
            raise BadValue("credit", f"a value of {self.credit.amount}", "0 or more is right")
        if self.minutes is not None and self.minutes < 0:
            raise BadValue("minutes", str(self.minutes), "0 or more is right")
        sold = self.role in (Role.MAIN, Role.SECONDARY)
        object.__setattr__(
            self, "goes_to_case", sold or (self.role is Role.CREDIT and self.in_case)
        )


@dataclass(frozen=True, slots=True)
class Piece:
    """The piece (or case) that was opened, as it was paid for."""

    weight: Weight
    price: UnitPrice
    name: str = ""
    species: str = ""
    item_number: str = ""
    opened_weight: Weight | None = None
    freight: Decimal = ZERO
    discount: Decimal = ZERO

    def __post_init__(self) -> None:
        _positive("weight", self.weight)
        if self.opened_weight is not None:
            _positive("opened_weight", self.opened_weight)
        if self.price.amount <= 0:
            raise BadValue("price", f"a price of {self.price.amount}", "more than 0 is right")
        for name, amount in (("freight", self.freight), ("discount", self.discount)):
            if amount < 0:
                raise BadValue(name, str(amount), "0 or more is right")
        if self.cost < 0:
            raise BadValue(
                "discount",
                f"{self.discount} is more than the piece costs",
                f"at most {self.discount + self.cost} is right",
            )

    @property
    def cost(self) -> Decimal:
        """C = W·p + freight − discount."""
        with working():
            paid = self.weight.to(self.price.per) * self.price.amount
            return paid + self.freight - self.discount


@dataclass(frozen=True, slots=True)
class CuttingTest:
    piece: Piece
    scale_division: Weight
    outputs: tuple[Output, ...] = ()
    sawn: bool = False
    labour_rate: Decimal | None = None
    """Money per hour."""

    def __post_init__(self) -> None:
        _positive("scale_division", self.scale_division)
        if self.labour_rate is not None and self.labour_rate <= 0:
            raise BadValue("labour_rate", str(self.labour_rate), "more than 0 is right")
        seen: dict[str, str] = {}
        for output in self.outputs:
            same = same_name(output.name)
            if same in seen:
                raise BadValue(
                    "outputs", f'"{output.name}" is there twice', "each output once is right"
                )
            seen[same] = output.name


def same_name(name: str) -> str:
    """What two names share when a person would read them as one: case and spacing ignored."""
    if name.isascii():
        return " ".join(name.lower().split())
    return " ".join(unicodedata.normalize("NFKC", name).casefold().split())


# --- what follows from it ------------------------------------------------------------------


@dataclass(frozen=True, slots=True)
class Balance:
    """Does the piece come back to its weight? `purge` None: unknown, part of unaccounted."""

    unaccounted: Decimal
    purge: Decimal | None
    allowed_gain: Decimal
    allowed_loss: Decimal
    short_weight: Decimal | None
    """What is missing at opening beyond the purge and beyond what two scales can explain."""

    @property
    def in_balance(self) -> bool:
        return -self.allowed_gain <= self.unaccounted <= self.allowed_loss

    @property
    def beyond(self) -> Decimal:
        """How far outside: above 0 when too much is missing, below 0 when there is too much."""
        if self.unaccounted > self.allowed_loss:
            return self.unaccounted - self.allowed_loss
        if self.unaccounted < -self.allowed_gain:
            return self.unaccounted + self.allowed_gain
        return ZERO


@dataclass(frozen=True, slots=True)
class Yields:
    """Shares of the weight paid for. saleable + other credits = usable; usable + waste − gain = 1.

    Of waste and gain at most one is above 0: more may come off than was paid for, and then nothing of it
    is waste.
    """

    main: Decimal
    saleable: Decimal
    usable: Decimal
    waste: Decimal
    gain: Decimal = ZERO


@dataclass(frozen=True, slots=True)
class OutputFigures:
    """One output's figures. The spread is None when portions were weighed together."""

    name: str
    weight: Decimal
    share: Decimal
    count: int | None
    mean: Decimal | None = None
    smallest: Decimal | None = None
    largest: Decimal | None = None
    deviation: Decimal | None = None
    within_tolerance: Decimal | None = None
    give_away: Decimal | None = None


@dataclass(frozen=True, slots=True)
class Figures:
    """Balance, yields and the outputs' own figures, in `unit`."""

    unit: Unit
    paid: Decimal
    cost: Decimal
    balance: Balance
    yields: Yields
    outputs: tuple[OutputFigures, ...]
    saleable: Decimal
    """Weight that goes to the case."""
    main: Decimal
    """Weight of the main outputs."""


def figures(test: CuttingTest) -> Figures:
    """Weights, balance, yields and portions of a test. Common practice, no published source."""
    with working():
        unit = test.piece.weight.unit
        paid = test.piece.weight.value
        main = saleable = usable = discard = drip = ZERO
        lines = []
        for output in test.outputs:
            portions = [
                w.weight.value if w.weight.unit is unit else w.weight.to(unit)
                for w in output.weighings
            ]
            weight = sum(portions, ZERO)
            role = output.role
            if role is Role.PURGE:
                drip += weight
            elif role is Role.DISCARD:
                discard += weight
            else:
                usable += weight
                if role is Role.MAIN:
                    main += weight
                if output.goes_to_case:
                    saleable += weight
            lines.append(_output_figures(output, portions, weight, paid, unit))
        balance = _balance(test, unit, paid, usable + discard, drip)
        purge = balance.purge if balance.purge is not None else ZERO
        waste = discard + purge + balance.unaccounted
        return Figures(
            unit=unit,
            paid=paid,
            cost=test.piece.cost,
            balance=balance,
            yields=Yields(
                main / paid,
                saleable / paid,
                usable / paid,
                max(waste, ZERO) / paid,
                max(-waste, ZERO) / paid,
            ),
            outputs=tuple(lines),
            saleable=saleable,
            main=main,
        )


def _balance(
    test: CuttingTest, unit: Unit, paid: Decimal, total: Decimal, drip: Decimal
) -> Balance:
    """U = W − Σ outputs; a purge that was weighed (`drip`) wins over W − W_open."""
    start = test.scale_division.to(unit)
    own: list[Decimal] = []
    plain = 1
    for output in test.outputs:
        for one in output.weighings:
            if one.division is None:
                plain += one.readings
            elif one.readings == 1:
                own.append(one.division.to(unit))
            else:
                own += [one.division.to(unit)] * one.readings
    divisions, squares = plain * start, plain * start * start
    if own:
        divisions += sum(own)
        squares += sum([each * each for each in own])
    gain = min(divisions / 2, (squares * 3 / 4).sqrt())  # Σd/2, 3·√(Σd²/12)
    two_scales = class_iii_tolerance(paid, start)
    purge = drip if drip else None
    short: Decimal | None = None
    if test.piece.opened_weight is None:
        gain += two_scales
    else:
        missing = paid - test.piece.opened_weight.to(unit)
        if purge is None:
            purge = missing
        elif missing - purge > two_scales + start:
            short = missing - purge
    unaccounted = paid - total - (ZERO if purge is None else purge)
    allowance = (SAWN_ALLOWANCE if test.sawn else KNIFE_ALLOWANCE) * paid
    return Balance(unaccounted, purge, gain, gain + allowance, short)


def portion_tolerance(target: Decimal, unit: Unit) -> Decimal:
    """How far a portion may be from its target: 5 % or half an ounce, the larger."""
    return max(target * PORTION_SHARE, HALF_OUNCE[unit])


def _output_figures(
    output: Output, portions: list[Decimal], weight: Decimal, paid: Decimal, unit: Unit
) -> OutputFigures:
    """The spread only where there is a count and every portion was weighed by itself."""
    share = weight / paid
    if output.count is None:
        return OutputFigures(output.name, weight, share, None)
    mean = weight / output.count
    if output.count != len(portions):
        return OutputFigures(output.name, weight, share, output.count, mean)
    deviation = None
    if len(portions) > 1:
        squares = sum([p * p for p in portions], ZERO) - mean * weight  # Σ(p − mean)²
        deviation = (max(squares, ZERO) / (len(portions) - 1)).sqrt()
    within = give_away = None
    if output.target is not None:
        target = output.target.to(unit)
        tolerance = portion_tolerance(target, unit)
        low, high = target - tolerance, target + tolerance
        within = ONE * sum([low <= p <= high for p in portions]) / len(portions)
        give_away = sum([p - target for p in portions if p > target], ZERO)
    return OutputFigures(
        output.name,
        weight,
        share,
        output.count,
        mean,
        min(portions),
        max(portions),
        deviation,
        within,
        give_away,
    )


def _positive(name: str, weight: Weight) -> None:
    if weight.value <= 0:
        raise BadValue(name, f"a weight of {weight}", "more than 0 is right")


def shares_of_opened(test: CuttingTest, found: Figures) -> tuple[Decimal, ...] | None:
    """Each output's share of the opened weight instead; None when that is not known."""
    if test.piece.opened_weight is None:
        return None
    with working():
        opened = test.piece.opened_weight.to(found.unit)
        return tuple(line.weight / opened for line in found.outputs)


def still_on_block(test: CuttingTest, found: Figures | None = None) -> Decimal:
    """What is left of the piece, in its unit; below 0 when more came off than went on.

    With the test's figures, the weights of its outputs are not added up again.
    """
    weights = _weights(test) if found is None else [line.weight for line in found.outputs]
    with working():
        came_off = [
            weight
            for output, weight in zip(test.outputs, weights, strict=True)
            if was_on_block(output.role, test.piece)
        ]
        return _start(test.piece) - sum(came_off, ZERO)


def _weights(test: CuttingTest) -> list[Decimal]:
    unit = test.piece.weight.unit
    with working():
        return [sum([w.weight.to(unit) for w in o.weighings], ZERO) for o in test.outputs]


def _start(piece: Piece) -> Decimal:
    return (piece.weight if piece.opened_weight is None else piece.opened_weight).to(
        piece.weight.unit
    )


def was_on_block(role: Role, piece: Piece) -> bool:
    """A weighed purge counts only against the weight paid for: when the piece was weighed after
    opening, the purge was no longer with it.
    """
    return role is not Role.PURGE or piece.opened_weight is None


def left_of(piece: Piece, taken: Iterable[Weight]) -> Decimal:
    """The opened weight where known, else the weight paid for, less what was taken."""
    unit = piece.weight.unit
    with working():
        return _start(piece) - sum([weight.to(unit) for weight in taken], ZERO)
