"""The pencil view: how a figure was worked out, in the trade's own steps with the numbers in.

Each line is the step in words and the same step in numbers, as one would write it beside the
block. Money shows cents and weights show as recorded; the working itself is never rounded.
"""

from __future__ import annotations

from dataclasses import dataclass
from decimal import Decimal

from cutting.costing.schools import CostingSchool, credited, labour_cost, totals
from cutting.costing.sheet import Sheet
from cutting.quantities import HUNDRED, round_half_up
from cutting.sheet.cutting_test import KNIFE_ALLOWANCE, SAWN_ALLOWANCE, Balance, Role


@dataclass(frozen=True, slots=True)
class Step:
    words: str
    numbers: str


@dataclass(frozen=True, slots=True)
class Pencil:
    """One figure's working. `missing` says what would be needed when there is no figure."""

    meaning: str
    steps: tuple[Step, ...]
    missing: str = ""


MEANINGS = {
    CostingSchool.FLAT: "Every saleable pound carries the same cost.",
    CostingSchool.CREDIT: "By-products pay back what they are worth; the main product carries the rest.",
    CostingSchool.SALES_VALUE: "Cost is shared by what each cut sells for; every cut shows one margin.",
    CostingSchool.REPLACEMENT: "What the same cuts would cost bought ready-cut.",
}


SCHOOL_NAMES = {
    CostingSchool.FLAT: "Flat true cost",
    CostingSchool.CREDIT: "By-product credit",
    CostingSchool.SALES_VALUE: "Sales-value share",
    CostingSchool.REPLACEMENT: "Replacement",
}


def money(value: Decimal) -> str:
    """Half up to the cent, with a true minus sign: −1,204.50."""
    text = f"{round_half_up(abs(value)):,}"
    return f"−{text}" if round_half_up(value) < 0 else text


def profit_shown(retail: Decimal, cost: Decimal) -> Decimal:
    """Gross profit as printed beside retail and cost: the three foot to the cent."""
    return round_half_up(retail) - round_half_up(cost)


PLACES = {"lb": 2, "kg": 3, "oz": 2, "g": 0}
"""Decimals of a worked-out weight; a recorded one is printed as it was recorded."""


def pounds(value: Decimal, unit: str) -> str:
    """A worked-out weight in `unit`: 2.43125 lb shows as 2.43, with a true minus sign."""
    text = f"{round_half_up(abs(value), PLACES[unit]):f}"
    return f"−{text}" if value < 0 and text.strip("0.") else text


def percent(share: Decimal) -> str:
    """A share of 1 as a percentage with one decimal: 42.3 %."""
    return f"{signed(round_half_up(share * HUNDRED, 1))} %"


def signed(value: Decimal) -> str:
    return f"−{abs(value)}" if value < 0 else f"{abs(value)}"


def school_pencil(sheet: Sheet, school: CostingSchool) -> Pencil:
    """The working of one school on this sheet."""
    steps, missing = {
        CostingSchool.FLAT: _flat,
        CostingSchool.CREDIT: _credit,
        CostingSchool.SALES_VALUE: _sales_value,
        CostingSchool.REPLACEMENT: _replacement,
    }[school](sheet)
    return Pencil(MEANINGS[school], steps, missing)


def cost_step(sheet: Sheet) -> Step:
    piece = sheet.test.piece
    words, numbers = "cost = weight paid × price", f"{piece.weight} × {money(piece.price.amount)}"
    if piece.price.per is not piece.weight.unit:
        numbers += f" a {piece.price.per}"
    if piece.freight:
        words, numbers = words + " + freight", f"{numbers} + {money(piece.freight)}"
    if piece.discount:
        words, numbers = words + " − discount", f"{numbers} − {money(piece.discount)}"
    return Step(words, f"{numbers} = {money(sheet.figures.cost)}")


Working = tuple[tuple[Step, ...], str]


def _flat(sheet: Sheet) -> Working:
    found, cost = sheet.figures, sheet.costing.flat.true_cost
    if cost is None:
        return (cost_step(sheet),), "No output goes to the case yet."
    weights = [
        pounds(line.weight, found.unit)
        for output, line in zip(sheet.test.outputs, found.outputs, strict=True)
        if output.goes_to_case and line.weight
    ]
    return (
        cost_step(sheet),
        Step(
            "saleable weight = all that goes to the case",
            _total(weights, found.saleable, found.unit),
        ),
        Step(
            f"true cost = cost ÷ saleable {found.unit}",
            f"{money(found.cost)} ÷ {pounds(found.saleable, found.unit)} = {money(cost)}",
        ),
    ), ""


def _credit(sheet: Sheet) -> Working:
    found, school = sheet.figures, sheet.costing.credit
    rows = credited(sheet.test, found)
    if school is None or rows is None:
        bare = [
            o.name
            for o in sheet.test.outputs
            if o.role in (Role.CREDIT, Role.SECONDARY) and o.credit is None
        ]
        return (cost_step(sheet),), f"A credit value is needed for {_names(bare)}."
    taken = [
        f"{pounds(r.weight, found.unit)} × {money(r.value_per_unit)}" for r in rows if r.weight
    ]
    steps = [
        cost_step(sheet),
        Step(
            "credits = by-products at the value we would pay",
            f"{' + '.join(taken)} = {money(school.credits)}" if taken else "none = 0.00",
        ),
        Step(
            "net cost = cost − credits",
            f"{money(found.cost)} − {money(school.credits)} = {money(school.net_cost)}",
        ),
    ]
    if school.cost_per_unit is None or school.factor_per_unit is None:
        return tuple(steps), "No main product was weighed, so nothing carries the net cost."
    unit, price = found.unit, money(sheet.test.piece.price.to(found.unit))
    steps.append(
        Step(
            f"cost per {unit} = net cost ÷ main weight",
            f"{money(school.net_cost)} ÷ {pounds(found.main, unit)}"
            f" = {money(school.cost_per_unit)}",
        )
    )
    if school.cost_per_portion is not None:
        count = sum(o.count or 0 for o in sheet.test.outputs if o.role is Role.MAIN)
        steps.append(
            Step(
                "cost per portion = net cost ÷ portions",
                f"{money(school.net_cost)} ÷ {count} = {money(school.cost_per_portion)}",
            )
        )
    steps.append(
        Step(
            f"cost factor = cost per {found.unit} ÷ price paid",
            f"{money(school.cost_per_unit)} ÷ {price} = {factor(school.factor_per_unit)}",
        )
    )
    return tuple(steps), ""


def factor(value: Decimal) -> str:
    return signed(round_half_up(value, 3))


def _sales_value(sheet: Sheet) -> Working:
    found, school, whole = sheet.figures, sheet.costing.sales_value, sheet.margin
    if school is None or whole is None:
        bare = [o.name for o in sheet.test.outputs if o.goes_to_case and o.retail is None]
        if not bare:
            return (cost_step(sheet),), "No output goes to the case yet."
        return (cost_step(sheet),), f"A retail price is needed for {_names(bare)}."
    steps = [
        cost_step(sheet),
        Step("sales value = each cut × its price, added up", money(whole.retail)),
        Step(
            "margin = (sales value − cost) ÷ sales value",
            f"({money(whole.retail)} − {money(found.cost)}) ÷ {money(whole.retail)}"
            f" = {percent(school.gp_percent / HUNDRED)}",
        ),
    ]
    prices = {o.name: o.retail.to(found.unit) for o in sheet.test.outputs if o.retail}
    steps += [
        Step(
            f"{row.name}: cost × price ÷ sales value",
            f"{money(found.cost)} × {money(prices[row.name])} ÷ {money(whole.retail)}"
            f" = {money(row.cost_per_unit)}",
        )
        for row in school.outputs
        if row.cost and row.cost_per_unit is not None
    ]
    return tuple(steps), ""


def _replacement(sheet: Sheet) -> Working:
    found, school = sheet.figures, sheet.costing.replacement
    if school is None:
        bare = [o.name for o in sheet.test.outputs if o.goes_to_case and o.replacement is None]
        if not bare:
            return (cost_step(sheet),), "No output goes to the case yet."
        return (cost_step(sheet),), f"A ready-cut price is needed for {_names(bare)}."
    terms = [
        f"{pounds(line.weight, found.unit)} × {money(output.replacement.to(found.unit))}"
        for output, line in zip(sheet.test.outputs, found.outputs, strict=True)
        if output.goes_to_case and output.replacement and line.weight
    ]
    minutes = totals(sheet.test, found).minutes
    labour = labour_cost(sheet.test, minutes)
    steps = [
        cost_step(sheet),
        Step(
            "ready-cut value = each cut at its ready-cut price",
            f"{' + '.join(terms)} = {money(school.value)}",
        ),
    ]
    if labour is None or school.gain is None:
        return tuple(steps), "Minutes were noted; a labour rate is needed for the gain."
    rate = sheet.test.labour_rate
    if rate is not None and labour:
        steps.append(
            Step(
                "labour = minutes × rate ÷ 60",
                f"{minutes:f} × {money(rate)} ÷ 60 = {money(labour)}",
            )
        )
    steps.append(
        Step(
            "gain of cutting it here = value − cost − labour",
            f"{money(school.value)} − {money(found.cost)} − {money(labour)} = {money(school.gain)}",
        )
    )
    return tuple(steps), ""


def balance_pencil(sheet: Sheet) -> Pencil:
    """Why the sheet is, or is not, in balance."""
    found, test = sheet.figures, sheet.test
    balance, unit = found.balance, found.unit
    weighed = (
        found.paid
        - balance.unaccounted
        - (balance.purge if balance.purge and not _purge_weighed(sheet) else Decimal(0))
    )
    steps = []
    if balance.purge is not None and not _purge_weighed(sheet) and test.piece.opened_weight:
        opened = pounds(test.piece.opened_weight.to(unit), unit)
        numbers = f"{pounds(found.paid, unit)} − {opened} = {pounds(balance.purge, unit)}"
        steps.append(Step("purge and short weight = paid for − opened", numbers))
        numbers = (
            f"{pounds(found.paid, unit)} − {pounds(balance.purge, unit)} − {pounds(weighed, unit)}"
        )
        words = "unaccounted = paid for − purge − all piles"
    else:
        numbers = f"{pounds(found.paid, unit)} − {pounds(weighed, unit)}"
        words = "unaccounted = paid for − all piles"
    steps.append(Step(words, f"{numbers} = {pounds(balance.unaccounted, unit)} {unit}"))
    allowance = SAWN_ALLOWANCE if test.sawn else KNIFE_ALLOWANCE
    scales = "rounding" if test.piece.opened_weight else "rounding and two scales"
    steps.append(Step(f"{scales} explain up to", f"{pounds(balance.allowed_gain, unit)} {unit}"))
    steps.append(
        Step(
            f"a loss of that and {'kerf and drying' if test.sawn else 'drying'},"
            f" {percent(allowance)} of the weight",
            f"{pounds(balance.allowed_gain, unit)} + {pounds(allowance * found.paid, unit)}"
            f" = {pounds(balance.allowed_loss, unit)} {unit}",
        )
    )
    return Pencil("The piece must come back to its weight.", tuple(steps))


def balance_words(balance: Balance, unit: str) -> str:
    """The balance of a finished sheet in one sentence, with what to look for when it is out."""
    off = pounds(abs(balance.unaccounted), unit)
    if balance.in_balance:
        if round_half_up(balance.unaccounted) == 0:
            return "In balance: nothing unaccounted."
        way = "short" if balance.unaccounted > 0 else "over"
        allowed = balance.allowed_loss if balance.unaccounted > 0 else balance.allowed_gain
        return f"In balance: {off} {unit} {way}, {pounds(allowed, unit)} allowed."
    if balance.beyond > 0:
        return (
            f"Out of balance: {off} {unit} missing, {pounds(balance.allowed_loss, unit)} allowed. "
            "Look for a pile not weighed, or a tub taken off twice."
        )
    return (
        f"Out of balance: {off} {unit} too much, {pounds(balance.allowed_gain, unit)} allowed. "
        "Look for a tub not tared, or a weighing captured twice."
    )


def block_words(left: Decimal, balance: Balance, unit: str) -> str:
    """The balance while the piece is still being weighed out."""
    if balance.in_balance:
        return balance_words(balance, unit)
    if left > 0:
        return f"{pounds(left, unit)} {unit} still on the block."
    return (
        f"{pounds(abs(left), unit)} {unit} more came off than went on. "
        "Look for a tub not tared, or a weighing captured twice."
    )


def _purge_weighed(sheet: Sheet) -> bool:
    return any(o.role is Role.PURGE and o.weighings for o in sheet.test.outputs)


def _total(terms: list[str], total: Decimal, unit: str) -> str:
    return terms[0] if len(terms) == 1 else f"{' + '.join(terms)} = {pounds(total, unit)}"


def _names(names: list[str]) -> str:
    return names[0] if len(names) == 1 else f"{', '.join(names[:-1])} and {names[-1]}"
