"""When the invoice moves: the cost of a product by its factor and worked out in full.

Costs are money per unit of sale. Nothing changes on its own; these are proposals.
"""

from __future__ import annotations

from dataclasses import dataclass
from decimal import Decimal
from enum import StrEnum

from cutting.costing.schools import CostingSchool, unit_costs
from cutting.costing.sheet import compute
from cutting.errors import BadValue
from cutting.prices.margins import Loads, Policy, Proposal, margin_at, propose
from cutting.quantities import Unit, UnitPrice, working
from cutting.sheet.cutting_test import CuttingTest, same_name
from cutting.sheet.yields import at_invoice

MOVED = Decimal("0.03")
"""A margin this much under its target no longer holds. Common practice, no published source."""


def no_longer_holds(margin: Decimal, target: Decimal) -> bool:
    """Whether a price has left its target by more than an invoice moves from week to week."""
    return margin < target - MOVED


class Method(StrEnum):
    FULL = "full"
    FACTOR = "factor"


def by_factor(cost: Decimal, paid: UnitPrice, now: UnitPrice) -> Decimal:
    """cost × p' / p: exact only if credits, freight and discount move along."""
    if paid.amount <= 0:
        raise BadValue("price paid", f"{paid.amount}", "more than 0 is right")
    with working():
        return cost * now.to(Unit.LB) / paid.to(Unit.LB)


def in_full(rest: CuttingTest, school: CostingSchool, now: UnitPrice) -> dict[str, UnitPrice]:
    """Cost of every output at the new price, credits, freight and discount held; by its name.

    Empty for an output the school has no answer for.
    """
    sheet = compute(at_invoice(rest, now))
    unit = sheet.figures.unit
    costs = unit_costs(sheet.test, sheet.figures, sheet.costing, school)
    return {
        same_name(output.name): UnitPrice(cost, unit)
        for output, cost in zip(sheet.test.outputs, costs, strict=True)
        if cost is not None
    }


@dataclass(frozen=True, slots=True)
class PricedProduct:
    """A product as it is priced now."""

    price: Decimal
    cost: Decimal
    policy: Policy
    loads: Loads
    tax: Decimal = Decimal(0)


@dataclass(frozen=True, slots=True)
class MovedCost:
    """What a new cost does to a product: its margin left as is, and the price proposed."""

    margin_before: Decimal
    margin_now: Decimal
    proposal: Proposal

    @property
    def price(self) -> Decimal:
        return self.proposal.price


def reprice(standing: PricedProduct, cost: Decimal) -> MovedCost:
    """Old margin, margin if nothing changes, and the proposal at the target, ending and floor."""
    before = margin_at(standing.price, standing.cost, standing.loads, standing.tax)
    now = margin_at(standing.price, cost, standing.loads, standing.tax)
    return MovedCost(before, now, propose(cost, standing.policy, standing.loads, standing.tax))
