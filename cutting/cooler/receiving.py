"""A delivery's sums: freight over bags by weight, totals against the invoice, short weight.

Common practice, no published source.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from decimal import Decimal

from cutting.errors import BadValue
from cutting.quantities import (
    ZERO,
    Unit,
    UnitPrice,
    Weight,
    class_iii_tolerance,
    foot,
    round_half_up,
    storable_money,
    working,
)


@dataclass(frozen=True, slots=True)
class InvoiceLine:
    """One bag as billed: its catch weight and price."""

    weight: Weight
    price: UnitPrice

    @property
    def amount(self) -> Decimal:
        """Money, half up to the cent, as an invoice prints it."""
        with working():
            return round_half_up(self.weight.to(self.price.per) * self.price.amount)


def bag_cost(line: InvoiceLine, freight: Decimal, discount: Decimal) -> Decimal:
    """What a bag costs the shop: as billed, with its share of freight and discount."""
    with working():
        return line.amount + freight - discount


def part_of(amount: Decimal, weight: Decimal, whole: Decimal) -> Decimal:
    """The share of freight or discount that goes with a part of a piece, by weight, in cents."""
    with working():
        return round_half_up(amount * weight / whole)


@dataclass(frozen=True, slots=True)
class Stock:
    """What lies in the cooler: pounds and money, and how many bags have no price."""

    count: int
    weight: Decimal
    worth: Decimal
    unpriced: int


def stock(bags: Iterable[tuple[Weight, UnitPrice | None, Decimal, Decimal]], unit: Unit) -> Stock:
    """Of each bag its weight, price, freight and discount; the sum is in `unit`."""
    count = unpriced = 0
    total = worth = ZERO
    with working():
        for weight, price, freight, discount in bags:
            count += 1
            total += weight.to(unit)
            if price is None:
                unpriced += 1
            else:
                worth += bag_cost(InvoiceLine(weight, price), freight, discount)
    return Stock(count, total, worth, unpriced)


def mean_price(lines: Sequence[InvoiceLine]) -> UnitPrice:
    """What a piece was billed at in one delivery: its price, or the mean by weight of several.

    Per the unit of the first line. Raises BadValue without a line.
    """
    if not lines:
        raise BadValue("lines", "none", "at least one bag with a price is right")
    first = lines[0].price
    if all(line.price == first for line in lines):
        return first
    with working():
        weight = sum((line.weight.to(first.per) for line in lines), ZERO)
        money = sum((line.weight.to(first.per) * line.price.to(first.per) for line in lines), ZERO)
        return UnitPrice(storable_money(money / weight), first.per)


@dataclass(frozen=True, slots=True)
class Totals:
    """Bags, weight in `unit` and money; what an invoice says, or what was received."""

    bags: int
    weight: Decimal
    amount: Decimal


@dataclass(frozen=True, slots=True)
class Difference:
    """One thing in which the invoice and the bags disagree."""

    what: str
    received: Decimal
    billed: Decimal

    @property
    def over(self) -> Decimal:
        """Positive: billed more than was received."""
        return self.billed - self.received


def totals(lines: Sequence[InvoiceLine], unit: Unit) -> Totals:
    """What was received, the weight in `unit`."""
    with working():
        weight = sum((line.weight.to(unit) for line in lines), ZERO)
    return Totals(len(lines), weight, sum((line.amount for line in lines), ZERO))


def differences(
    received: Totals, bags: int | None, weight: Decimal | None, amount: Decimal | None
) -> list[Difference]:
    """Where an invoice disagrees with the bags; what it does not say is not compared.

    Weight may differ by half a hundredth a bag, money by half a cent a bag: catch weights are
    rounded one by one.
    """
    found = []
    slack = Decimal("0.005") * received.bags
    if bags is not None and bags != received.bags:
        found.append(Difference("bags", Decimal(received.bags), Decimal(bags)))
    if weight is not None and abs(weight - received.weight) > slack:
        found.append(Difference("weight", received.weight, weight))
    if amount is not None and abs(amount - received.amount) > slack:
        found.append(Difference("amount", received.amount, amount))
    return found


def spread(amount: Decimal, weights: Sequence[Decimal]) -> tuple[Decimal, ...]:
    """Freight or a discount over bags by weight, in cents that sum to the amount.

    Raises BadValue when there is nothing to spread it over.
    """
    if any(weight <= 0 for weight in weights):
        raise BadValue("weights", "one is 0 or less", "above 0 is right")
    if not weights:
        if amount:
            raise BadValue("bags", "none", "one or more to carry the amount")
        return ()
    with working():
        whole = sum(weights, ZERO)
        return foot([amount * weight / whole for weight in weights], total=amount).parts


@dataclass(frozen=True, slots=True)
class Short:
    """A bag lighter than billed by more than two scales explain."""

    billed: Weight
    found: Weight
    missing: Decimal
    allowed: Decimal
    worth: Decimal


def short_weight(line: InvoiceLine, own: Weight, division: Weight) -> Short | None:
    """The claim for a bag weighed again on the shop's own scale, None when there is none.

    Two scales may differ by the Class III tolerance at that load (NIST Handbook 44, 2.20).
    """
    unit = line.weight.unit
    with working():
        missing = line.weight.value - own.to(unit)
        allowed = class_iii_tolerance(line.weight.value, division.to(unit))
        if missing <= allowed:
            return None
        worth = Weight(missing, unit).to(line.price.per) * line.price.amount
    return Short(line.weight, own, missing, allowed, round_half_up(worth))
