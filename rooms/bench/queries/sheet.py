"""The finished test on one page."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from decimal import Decimal
from typing import Any

from cutting.costing.schools import CostingSchool, unit_costs
from cutting.costing.sheet import (
    Sheet,
    at_cost,
    compute,
    costs_of,
    percents_of_paid,
    sales_of,
)
from cutting.prices.margins import margin_at
from cutting.quantities import HUNDRED, Footed, Unit, Weight, foot
from cutting.sheet.cutting_test import OutputFigures, Role, shares_of_opened
from cutting.sheet.trays import Tray
from drawings import rails
from drawings.bar import BarPart
from rooms.bench.models import Output
from rooms.bench.queries.portions import trays_of
from rooms.bench.queries.rows import TestRows
from rooms.catalog.queries.looks import looks
from rooms.shop.queries.current import house
from wording import pencil
from wording.block import no_dollars, profit_words
from wording.pencil import SCHOOL_NAMES
from wording.yields import shares_words


@dataclass(frozen=True)
class Row:
    """One line of the table. Money columns are already footed."""

    name: str
    look: str
    figures: OutputFigures | None
    weight: Decimal
    share: Decimal
    mean: str = ""
    of_opened: Decimal | None = None
    cost_per_unit: Decimal | None = None
    cost: Decimal | None = None
    price: Decimal | None = None
    sales: Decimal | None = None
    margin: Decimal | None = None


@dataclass(frozen=True)
class Portions:
    """Portions of one output, in the unit of their target."""

    name: str
    look: str
    unit: str
    count: int
    mean: Decimal | None
    smallest: Decimal | None
    largest: Decimal | None
    deviation: Decimal | None
    within: Decimal | None
    target: str
    give_away: Decimal | None
    give_away_cost: Decimal | None


@dataclass(frozen=True)
class SchoolView:
    """One school's card: its figure, what the figure is of, and the working."""

    school: CostingSchool
    name: str
    figure: str
    of: str
    extra: str
    pencil: pencil.Pencil
    is_chosen: bool


@dataclass(frozen=True)
class SheetView:
    rows: TestRows
    sheet: Sheet
    unit: str
    school: CostingSchool
    school_name: str
    table: list[Row]
    share_total: Decimal
    cost_total: Decimal | None
    sales_total: Decimal | None
    moved: str
    portions: list[Portions]
    trays: list[tuple[str, list[Tray]]]
    schools: list[SchoolView]
    rails: list[tuple[str, rails.TwoRails]]
    no_dollars: str
    words: str
    balance: pencil.Pencil

    @property
    def shares(self) -> str:
        """Every share of the weight paid for, in words."""
        return shares_words(self.sheet.figures.yields)

    @property
    def came_off_more(self) -> bool:
        return self.sheet.figures.balance.unaccounted < 0

    @property
    def gp_shown(self) -> Decimal | None:
        margin = self.sheet.margin
        return pencil.profit_shown(margin.retail, self.sheet.figures.cost) if margin else None


@dataclass(frozen=True)
class Columns:
    """The printed columns, footed once, so that rail and table show the same figures."""

    weights: Footed
    """The outputs, then the rest, adding up to the weight paid for."""
    shares: Footed
    """Percent of the weight paid for: the outputs, then the rest."""
    sales: Footed | None
    """Money of the outputs at their prices; None when nothing has a price."""


def columns(sheet: Sheet) -> Columns:
    found = sheet.figures
    sizes = [line.weight for line in found.outputs] + [size for _, size, _ in _rest(sheet)]
    weights = foot(sizes, pencil.PLACES[found.unit], found.paid)
    shares = foot(percents_of_paid(sizes, found.paid), 1, HUNDRED)
    return Columns(weights, shares, _footed(sales_of(sheet.test, found), None))


def parts(rows: TestRows, sheet: Sheet, kept: list[Output] | None = None) -> list[BarPart]:
    """The rail's segments: weighed piles, purge when it is only known, unaccounted.

    Money only when every cut that goes to the case has a price. `kept`: the outputs of `sheet`
    where they are not the weighed piles of the test.
    """
    kept = weighed(rows) if kept is None else kept
    look = looks([*rows.outputs, *(o for o in kept if o.test_id != rows.test.pk)])
    found, printed = sheet.figures, columns(sheet)
    unit, sales = found.unit, sales_of(sheet.test, found)
    result = []
    for i, (output, core, line) in enumerate(
        zip(kept, sheet.test.outputs, found.outputs, strict=True)
    ):
        part = _part(output.name, line.weight, i, printed, look[output.pk])
        price = core.retail.to(unit) if core.retail else None
        if sheet.margin is not None and core.goes_to_case and price is not None and printed.sales:
            part = replace(
                part,
                money=sales[i],
                money_text=pencil.money(printed.sales.parts[i]),
                money_note=f"{pencil.money(price)} / {unit}",
            )
        result.append(part)
    rest = enumerate(_rest(sheet), start=len(result))
    return result + [
        _part(name, size, i, printed, mark) for i, (name, size, mark) in rest if size > 0
    ]


def _part(name: str, size: Decimal, i: int, printed: Columns, look: str) -> BarPart:
    weight, share = f"{printed.weights.parts[i]}", printed.shares.parts[i]
    return BarPart(name, size, f"{weight} · {pencil.signed(share)} %", look, short=weight)


def _rest(sheet: Sheet) -> list[tuple[str, Decimal, str]]:
    """Purge that was not weighed, and what is unaccounted (below 0 when there is too much)."""
    balance = sheet.figures.balance
    rest = []
    if balance.purge is not None and not any(o.role == "purge" for o in sheet.test.outputs):
        rest.append(("purge and short weight", balance.purge, "purge"))
    rest.append(("unaccounted", balance.unaccounted, "unaccounted"))
    return rest


def weighed(rows: TestRows) -> list[Output]:
    """Outputs with weighings, in the order of the rail: the same as the core test's outputs."""
    with_weight = {weighing.output_id for weighing in rows.standing}
    return [output for output in rows.outputs if output.pk in with_weight]


def opening_school(sheet: Sheet) -> CostingSchool:
    """The school that a sheet opens on: the house's; the by-product credit where the by-products have
    values and none is sold at a price of its own."""
    by_products = [
        one
        for one in sheet.test.outputs
        if one.role in (Role.SECONDARY, Role.CREDIT) and one.weighings
    ]
    if (
        by_products
        and all(one.credit is not None and one.retail is None for one in by_products)
        and sheet.costing.credit is not None
    ):
        return CostingSchool.CREDIT
    return CostingSchool(house().school)


def sheet_view(rows: TestRows, chosen: CostingSchool | None = None) -> SheetView:
    """`chosen`: the school that was asked for; else the one that this sheet opens on."""
    sheet = compute(rows.weighed)
    school = chosen or opening_school(sheet)
    table, printed, costs = _table(rows, sheet, school)
    moved = _moved(table, printed.weights, printed.shares, costs, printed.sales)
    return SheetView(
        rows=rows,
        sheet=sheet,
        unit=sheet.figures.unit.value,
        school=school,
        school_name=SCHOOL_NAMES[school],
        table=table,
        share_total=printed.shares.total,
        cost_total=costs.total if costs else None,
        sales_total=printed.sales.total if printed.sales else None,
        moved=moved,
        portions=_portions(rows, sheet),
        trays=[
            (output.name, made)
            for output in weighed(rows)
            if (made := trays_of(output, rows.of(output), sheet.figures.unit))
        ],
        schools=[_school(sheet, each, school) for each in CostingSchool],
        rails=both_rails(rows, sheet),
        no_dollars=no_dollars(sheet),
        words=pencil.balance_words(sheet.figures.balance, sheet.figures.unit.value),
        balance=pencil.balance_pencil(sheet),
    )


def both_rails(
    rows: TestRows, sheet: Sheet, kept: list[Output] | None = None
) -> list[tuple[str, rails.TwoRails]]:
    """Pounds over dollars, for a wide page and for a phone."""
    segments, words, found = parts(rows, sheet, kept), profit_words(sheet), sheet.figures
    return [
        (glass, rails.two_rails(segments, found.paid, found.cost, words, frame))
        for glass, frame in (("wide", rails.WIDE), ("narrow", rails.NARROW))
    ]


def _table(rows: TestRows, sheet: Sheet, school: CostingSchool) -> Any:
    """The table's rows with every printed column footed to its total."""
    found, look = sheet.figures, looks(rows.outputs)
    per_unit = unit_costs(sheet.test, found, sheet.costing, school)
    rest = _rest(sheet)
    printed = columns(sheet)
    weights, shares, sales = printed.weights, printed.shares, printed.sales
    costs = _footed(
        costs_of(per_unit, found),
        found.cost if school is not CostingSchool.REPLACEMENT else None,
    )
    of_opened = shares_of_opened(sheet.test, found)
    table = []
    for i, (output, core, line) in enumerate(
        zip(weighed(rows), sheet.test.outputs, found.outputs, strict=True)
    ):
        price = core.retail.to(found.unit) if core.retail and core.goes_to_case else None
        cost = per_unit[i]
        table.append(
            Row(
                output.name,
                look[output.pk],
                line,
                weights.parts[i],
                shares.parts[i],
                mean=_mean(output, line, found.unit),
                of_opened=of_opened[i] if of_opened else None,
                cost_per_unit=cost,
                cost=costs.parts[i] if costs and cost is not None else None,
                price=price,
                sales=sales.parts[i] if sales and price is not None else None,
                margin=margin_at(price, cost) if price and cost is not None else None,
            )
        )
    for i, (name, _, mark) in enumerate(rest, start=len(found.outputs)):
        table.append(Row(name, mark, None, weights.parts[i], shares.parts[i]))
    return table, printed, costs


def _footed(amounts: Sequence[Decimal | None], total: Decimal | None) -> Footed | None:
    """A money column; None when nothing in it is known. The given total only if all foot to it."""
    known = [amount or Decimal(0) for amount in amounts]
    if all(amount is None for amount in amounts):
        return None
    if total is not None and abs(sum(known, Decimal(0)) - total) > Decimal("1e-12"):
        total = None
    return foot(known, 2, total)


def _moved(table: list[Row], *columns: Footed | None) -> str:
    names = {table[i].name for column in columns if column for i in column.moved}
    if not names:
        return ""
    return f"Rounded so that the columns foot: {', '.join(sorted(names))}."


def _unit_of(output: Output) -> Unit:
    return Unit(output.target_unit) if output.target_unit else Unit.OZ


def _mean(output: Output, line: OutputFigures, unit: Unit) -> str:
    if line.mean is None:
        return ""
    shown = _unit_of(output)
    places = 0 if shown is Unit.G else 2
    return f"{Weight(line.mean, unit).to(shown):.{places}f} {shown}"


def _portions(rows: TestRows, sheet: Sheet) -> list[Portions]:
    look, unit = looks(rows.outputs), sheet.figures.unit
    result = []
    for output, line in zip(weighed(rows), sheet.figures.outputs, strict=True):
        if line.count is None or line.mean is None:
            continue
        shown = _unit_of(output)

        def to(value: Decimal | None, shown: Unit = shown) -> Decimal | None:
            return None if value is None else Weight(value, unit).to(shown)

        result.append(
            Portions(
                output.name,
                look[output.pk],
                shown.value,
                line.count,
                to(line.mean),
                to(line.smallest),
                to(line.largest),
                to(line.deviation),
                line.within_tolerance,
                f"{output.target_value} {output.target_unit}" if output.target_value else "",
                to(line.give_away),
                at_cost(sheet.costing.flat.true_cost, line.give_away),
            )
        )
    return result


def _school(sheet: Sheet, school: CostingSchool, chosen: CostingSchool) -> SchoolView:
    figure, of, extra = _school_figure(sheet, school)
    working = pencil.school_pencil(sheet, school)
    return SchoolView(school, SCHOOL_NAMES[school], figure, of, extra, working, school is chosen)


def _school_figure(sheet: Sheet, school: CostingSchool) -> tuple[str, str, str]:
    """The card's figure, what it is of, and a second line."""
    found, costs = sheet.figures, sheet.costing
    unit = found.unit
    if school is CostingSchool.FLAT and costs.flat.true_cost is not None:
        return pencil.money(costs.flat.true_cost), f"per saleable {unit}", ""
    if school is CostingSchool.CREDIT and costs.credit and costs.credit.cost_per_unit is not None:
        factor = costs.credit.factor_per_unit
        extra = f"factor {pencil.factor(factor)}" if factor is not None else ""
        if costs.credit.cost_per_portion is not None:
            extra = f"{pencil.money(costs.credit.cost_per_portion)} a portion; {extra}"
        return pencil.money(costs.credit.cost_per_unit), f"per {unit} of main product", extra
    if school is CostingSchool.SALES_VALUE and costs.sales_value:
        lead = max(costs.sales_value.outputs, key=lambda row: row.cost)
        margin = pencil.percent(costs.sales_value.gp_percent / HUNDRED)
        each = lead.cost_per_unit
        figure = pencil.money(each) if each is not None else ""
        return figure, f"per {unit} of {lead.name}", f"margin {margin}"
    if (
        school is CostingSchool.REPLACEMENT
        and costs.replacement
        and costs.replacement.gain is not None
    ):
        value = pencil.money(costs.replacement.value)
        return (
            pencil.money(costs.replacement.gain),
            "gained on the whole piece",
            f"ready-cut value {value}",
        )
    return "", "", ""
