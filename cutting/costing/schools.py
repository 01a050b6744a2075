"""The schools of costing, side by side on one test.

Practitioners disagree, so all four are computed from the same figures. Costs per unit are
money per unit of the piece's weight. See docs/decisions/0004-four-schools.md.
"""

from __future__ import annotations

from dataclasses import dataclass
from decimal import Decimal
from enum import StrEnum

from cutting.errors import NothingSaleable
from cutting.quantities import HUNDRED, ZERO, working
from cutting.sheet.cutting_test import CuttingTest, Figures, Role
from cutting.sheet.time_spent import wages

MINUTES_PER_HOUR = Decimal(60)


class CostingSchool(StrEnum):
    FLAT = "flat"
    CREDIT = "credit"
    SALES_VALUE = "sales_value"
    REPLACEMENT = "replacement"


@dataclass(frozen=True, slots=True)
class Flat:
    true_cost: Decimal | None


@dataclass(frozen=True, slots=True)
class ByProductCredit:
    credits: Decimal
    net_cost: Decimal
    cost_per_unit: Decimal | None
    cost_per_portion: Decimal | None
    factor_per_unit: Decimal | None
    factor_per_portion: Decimal | None


@dataclass(frozen=True, slots=True)
class OutputCost:
    """What one output carries in one school."""

    name: str
    cost: Decimal
    cost_per_unit: Decimal | None


@dataclass(frozen=True, slots=True)
class SalesValue:
    gp_percent: Decimal
    outputs: tuple[OutputCost, ...]


@dataclass(frozen=True, slots=True)
class Replacement:
    value: Decimal
    gain: Decimal | None


@dataclass(frozen=True, slots=True)
class Costing:
    """All four schools; None where an input is missing."""

    flat: Flat
    credit: ByProductCredit | None
    sales_value: SalesValue | None
    replacement: Replacement | None


@dataclass(frozen=True, slots=True)
class Margin:
    """Gross profit of the whole piece. Percent of sales; mark-up percent of cost."""

    retail: Decimal
    gp: Decimal
    gp_percent: Decimal
    markup_percent: Decimal | None
    gp_with_credits: Decimal | None
    gp_per_unit_purchased: Decimal
    gp_per_labour_hour: Decimal | None


@dataclass(frozen=True, slots=True)
class Credited:
    """The by-product that carries itself: its name, weight, value per unit and value."""

    name: str
    weight: Decimal
    value_per_unit: Decimal
    value: Decimal


@dataclass(frozen=True, slots=True)
class Totals:
    """What the outputs add up to, in one pass. None where an input is missing."""

    retail: Decimal | None
    """Σ price·weight over what goes to the case; None also when nothing goes."""
    ready_cut: Decimal | None
    credits: Decimal | None
    """By-products and secondary outputs at the value the shop would pay."""
    beside: Decimal | None
    """Value of by-products that are not sold in the case."""
    minutes: Decimal


def totals(test: CuttingTest, found: Figures) -> Totals:
    with working():
        unit = found.unit
        retail = ready_cut = credits = beside = minutes = ZERO
        priced = replaced = credited_all = valued = True
        for output, line in zip(test.outputs, found.outputs, strict=True):
            weight, role = line.weight, output.role
            if output.goes_to_case:
                if output.retail is None:
                    priced = False
                else:
                    retail += output.retail.to(unit) * weight
                if output.replacement is None:
                    replaced = False
                else:
                    ready_cut += output.replacement.to(unit) * weight
            if role is Role.CREDIT or role is Role.SECONDARY:
                aside = role is Role.CREDIT and not output.in_case
                if output.credit is None:
                    credited_all = False
                    valued = valued and not aside
                else:
                    value = output.credit.to(unit) * weight
                    credits += value
                    if aside:
                        beside += value
            if output.minutes is not None:
                minutes += output.minutes
        return Totals(
            retail if priced and retail > 0 else None,
            ready_cut if replaced and ready_cut > 0 else None,
            credits if credited_all else None,
            beside if valued else None,
            minutes,
        )


def costing(test: CuttingTest, found: Figures) -> tuple[Costing, Margin | None]:
    """All four schools and the margin of the piece."""
    sums = totals(test, found)
    costs = Costing(
        Flat(true_cost(found.cost, found.saleable) if found.saleable > 0 else None),
        by_product_credit(test, found, sums),
        None if sums.retail is None else sales_value(test, found, sums.retail),
        replacement(test, found, sums),
    )
    return costs, None if sums.retail is None else margin(found, sums, sums.retail)


def true_cost(cost: Decimal, saleable: Decimal) -> Decimal:
    """Cost of one unit of weight when every saleable pound carries the same cost.

    Equals the price paid divided by the saleable yield when the cost is weight times price.
    Raises NothingSaleable when no output goes to the case.
    """
    if saleable <= 0:
        raise NothingSaleable("true cost: no output goes to the case; weigh one that is sold")
    with working():
        return cost / saleable


def credited(test: CuttingTest, found: Figures) -> tuple[Credited, ...] | None:
    """Credit and secondary outputs at the value the shop would pay; None if one has none."""
    rows = []
    with working():
        for output, line in zip(test.outputs, found.outputs, strict=True):
            if output.role in (Role.CREDIT, Role.SECONDARY):
                if output.credit is None:
                    return None
                value = output.credit.to(found.unit)
                rows.append(Credited(output.name, line.weight, value, line.weight * value))
    return tuple(rows)


def by_product_credit(test: CuttingTest, found: Figures, sums: Totals) -> ByProductCredit | None:
    """Credits come off; the main product carries the rest. A negative net cost is a result.

    Factors divide by the piece's price alone, without freight and discount.
    """
    if sums.credits is None:
        return None
    with working():
        price = test.piece.price.to(found.unit)
        net = found.cost - sums.credits
        per_unit = net / found.main if found.main > 0 else None
        counts = [o.count for o in test.outputs if o.role is Role.MAIN]
        portions = sum([count for count in counts if count])
        per_portion = net / portions if counts and None not in counts else None
        return ByProductCredit(
            sums.credits,
            net,
            per_unit,
            per_portion,
            None if per_unit is None else per_unit / price,
            None if per_portion is None else per_portion / price,
        )


def sales_value(test: CuttingTest, found: Figures, retail: Decimal) -> SalesValue:
    """cost_i = C · r_i·w_i / Σ r_j·w_j: every cut shows the same gross margin percent.

    `retail` is Σ r_j·w_j of what goes to the case. Relative sales value at split-off, as in
    cost accounting (Horngren, joint costs).
    """
    with working():
        unit, share = found.unit, found.cost / retail
        rows = []
        for output, line in zip(test.outputs, found.outputs, strict=True):
            if output.goes_to_case and output.retail is not None:
                per_unit = output.retail.to(unit) * share
                rows.append(OutputCost(output.name, per_unit * line.weight, per_unit))
        return SalesValue((retail - found.cost) / retail * HUNDRED, tuple(rows))


def labour_cost(test: CuttingTest, minutes: Decimal) -> Decimal | None:
    """Minutes × rate / 60. 0 when no minutes were noted, None when minutes have no rate."""
    if minutes == 0:
        return ZERO
    if test.labour_rate is None:
        return None
    return wages(minutes, test.labour_rate)


def replacement(test: CuttingTest, found: Figures, sums: Totals) -> Replacement | None:
    """What buying it ready-cut would have cost, and what cutting it here gained."""
    if sums.ready_cut is None:
        return None
    labour = labour_cost(test, sums.minutes)
    with working():
        gain = None if labour is None else sums.ready_cut - found.cost - labour
        return Replacement(sums.ready_cut, gain)


def margin(found: Figures, sums: Totals, retail: Decimal) -> Margin:
    """Gross profit of what goes to the case, sold for `retail`. A loss is a result."""
    with working():
        gp = retail - found.cost
        hours = sums.minutes / MINUTES_PER_HOUR
        return Margin(
            retail,
            gp,
            gp / retail * HUNDRED,
            gp / found.cost * HUNDRED if found.cost else None,
            None if sums.beside is None else gp + sums.beside,
            gp / found.paid,
            gp / hours if hours else None,
        )


def unit_costs(
    test: CuttingTest, found: Figures, costs: Costing, school: CostingSchool
) -> tuple[Decimal | None, ...]:
    """Cost per unit of every output in one school, in the order of the outputs.

    None where the school has no answer: a discard, or an input is missing. In the credit
    school a by-product costs its credit value and the main products share the rest, so the
    parts foot to the cost.
    """
    shares = (
        {row.name: row.cost_per_unit for row in costs.sales_value.outputs}
        if (school is CostingSchool.SALES_VALUE and costs.sales_value)
        else {}
    )
    answers: list[Decimal | None] = []
    for output in test.outputs:
        answer: Decimal | None = None
        if school is CostingSchool.FLAT and output.goes_to_case:
            answer = costs.flat.true_cost
        elif school is CostingSchool.CREDIT and costs.credit is not None:
            if output.role is Role.MAIN:
                answer = costs.credit.cost_per_unit
            elif output.role in (Role.SECONDARY, Role.CREDIT) and output.credit is not None:
                answer = output.credit.to(found.unit)
        elif school is CostingSchool.SALES_VALUE:
            answer = shares.get(output.name)
        elif school is CostingSchool.REPLACEMENT and output.goes_to_case and output.replacement:
            answer = output.replacement.to(found.unit)
        answers.append(answer)
    return tuple(answers)
