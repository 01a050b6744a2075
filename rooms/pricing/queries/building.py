"""The price builder: a piece's outputs with their prices in the making."""

from dataclasses import dataclass, replace
from datetime import date
from decimal import Decimal
from typing import Any

from cutting.costing.schools import CostingSchool, totals, unit_costs
from cutting.costing.sheet import Sheet, compute
from cutting.prices.ladder import (
    Built,
    PriceLine,
    adder_effect,
    at_prices,
    each_alone,
    gain_of_steps,
    solve,
    with_adders,
)
from cutting.prices.margins import Whole
from cutting.quantities import Unit, UnitPrice, round_half_up
from cutting.sheet.cutting_test import CuttingTest as CoreTest
from drawings.rails import MoneyBar, TwoRails, money_bar
from rooms.bench.queries.rows import TestRows
from rooms.bench.queries.sheet import both_rails
from rooms.catalog.queries.looks import looks
from rooms.pricebook.models import Adder, NeighbourPrice, Price, Product, TraySize
from rooms.pricing.queries.lines import (
    KnownTargets,
    PriceRow,
    adders_of,
    line_of,
    row_of,
    standing_price,
)
from rooms.pricing.queries.pooling import Resting, resting
from rooms.pricing.queries.wishes import EACH, Wish, read_aim
from rooms.shop.queries.current import house
from wording.pencil import SCHOOL_NAMES, Pencil, profit_shown
from wording.price import piece_pencil, price_pencil

REACH = Decimal("1.15")
"""The dollar rail has room for this much more than the piece brings."""


@dataclass(frozen=True)
class StepGain:
    """What its steps add to a product's part of the profit, less their minutes and material."""

    name: str
    steps: str
    gain: Decimal


@dataclass(frozen=True)
class PriceView:
    """`built` holds the figures; `basis` the core test the prices rest on."""

    rows: TestRows
    wish: Wish
    resting: Resting
    basis: CoreTest
    sheet: Sheet
    school: CostingSchool
    target_fault: str
    table: list[PriceRow]
    built: Built
    before: Whole | None
    plain: Whole | None
    """The piece at these prices without any value added."""
    missing: str
    rails: list[tuple[str, TwoRails]]
    bar: MoneyBar
    adders: list[Adder]
    beside: Decimal | None
    """By-products that are not sold in the case, at their value; None if one has none."""

    @property
    def gains(self) -> list[StepGain]:
        """What the value-adding steps of each product add to this piece's profit."""
        names = {adder.pk: adder.name for adder in self.adders}
        found = []
        for row in self.table:
            gain = gain_of_steps(row.priced)
            if gain is not None:
                steps = [names[pk] for pk in sorted(row.adders) if pk in names]
                found.append(StepGain(row.name, " and ".join(steps).lower(), gain))
        return found

    @property
    def gained(self) -> Decimal:
        """All of it, footing with what is printed."""
        return sum((round_half_up(one.gain) for one in self.gains), Decimal(0))

    @property
    def with_beside(self) -> Decimal | None:
        """Gross profit with the by-products, footing with what is printed."""
        if self.gp_shown is None or not self.beside:
            return None
        return self.gp_shown + round_half_up(self.beside)

    @property
    def cost(self) -> Decimal:
        """Of the piece with what its products carry; the piece's own while a wage is missing."""
        return cost_of(self.built, self.sheet)

    @property
    def carried(self) -> Decimal:
        """Trays, labour and value added beside the piece, footing with what is printed."""
        return round_half_up(self.cost) - round_half_up(self.sheet.figures.cost)

    @property
    def whole(self) -> Whole | None:
        return self.built.whole

    @property
    def schools(self) -> list[tuple[str, str]]:
        return [(each.value, SCHOOL_NAMES[each]) for each in CostingSchool]

    @property
    def gp_shown(self) -> Decimal | None:
        return profit_shown(self.whole.retail, self.cost) if self.whole else None

    @property
    def has_faults(self) -> bool:
        return bool(self.target_fault) or any(row.fault for row in self.table)

    @property
    def shown(self) -> dict[int, str]:
        """The prices this view shows, as its page sends them back."""
        return {row.id: f"{row.price:f}" for row in self.table if row.price is not None}

    @property
    def can_be_saved(self) -> bool:
        return bool(self.shown) and not self.has_faults

    @property
    def pencil(self) -> Pencil:
        aim, _ = read_aim(self.wish)
        return piece_pencil(self.built, aim.margin if aim else None)

    def pencil_of(self, row: PriceRow) -> Pencil:
        return price_pencil(row.priced, self.built.factor, row.tray)


def price_view(rows: TestRows, wish: Wish, on: date | None = None) -> PriceView:
    """Costs by the chosen school, prices from target, ladder and locks, the whole piece.

    Sales-value shares come from the last prices that this test did not set, or where there are
    none from the output's share price, so a test's prices never feed back into its own costs.
    Twelve queries at any size.
    """
    found = resting(rows, wish.basis)
    cuts = [output.cut_id for output in found.kept if output.cut_id]
    products = {product.cut_id: product for product in _products(cuts)}
    wanted = [product.pk for product in products.values()]
    last = {
        price.product_id: price.amount
        for price in Price.objects.current(on, products=wanted, besides=rows.test.pk)
    }
    basis = _with_last_prices(found, products, last)
    sheet = compute(basis)
    school = CostingSchool(wish.school if wish.school in list(CostingSchool) else house().school)
    costs = unit_costs(basis, sheet.figures, sheet.costing, school)
    seen = _neighbours(wanted)
    look = looks([*rows.outputs, *(o for o in found.kept if o.test_id != rows.test.pk)])
    known = []
    for output, core, line, cost in zip(
        found.kept, basis.outputs, sheet.figures.outputs, costs, strict=True
    ):
        if core.goes_to_case:
            product = products.get(output.cut_id)
            known.append(
                KnownTargets(
                    output,
                    product,
                    sheet.figures.unit,
                    line.weight,
                    cost,
                    last.get(product.pk) if product else output.retail,
                    seen.get(product.pk) if product else None,
                    look[output.pk],
                    found.share_words(output),
                )
            )
    return _view(_Asked(rows, wish, found, basis, sheet, school), known)


@dataclass(frozen=True)
class _Asked:
    rows: TestRows
    wish: Wish
    found: Resting
    basis: CoreTest
    sheet: Sheet
    school: CostingSchool


def _view(asked: _Asked, known: list[KnownTargets]) -> PriceView:
    adders = list(Adder.objects.filter(is_dropped=False))
    wish = replace(asked.wish, adders=adders_of(asked.wish, known))
    sizes = [(str(size), size.fits) for size in TraySize.objects.filter(is_dropped=False)]
    rate = asked.rows.test.labour_rate or house().labour_rate
    aim, fault = read_aim(wish)
    typed = [standing_price(one, wish) for one in known]
    bare = [
        line_of(one, wish, price, aim.margin if aim else None)
        for one, (price, _) in zip(known, typed, strict=True)
    ]
    by_pk = {adder.pk: adder.core for adder in adders}
    lines = [
        with_adders(
            line, [by_pk[pk] for pk in sorted(wish.steps_of(one.output.pk)) if pk in by_pk], rate
        )
        for one, line in zip(known, bare, strict=True)
    ]
    cost = asked.sheet.figures.cost
    if wish.holds:
        built = at_prices(cost, lines)
    elif wish.chosen_way == EACH or aim is None:
        built = each_alone(cost, lines)
    else:
        built = solve(cost, lines, aim)
    locked = [replace(row.line, locked=row.price) for row in built.lines]
    has_steps = any((wish.adders or {}).values())
    table = [
        row_of(one, wish, priced, told, sizes)
        for one, priced, (_, told) in zip(known, built.lines, typed, strict=True)
    ]
    sales = [row.sales for row in built.lines]
    return PriceView(
        rows=asked.rows,
        wish=wish,
        resting=asked.found,
        basis=asked.basis,
        sheet=asked.sheet,
        school=asked.school,
        target_fault=fault,
        table=table,
        built=built,
        before=_whole_at(cost, lines, [one.last for one in known]),
        plain=adder_effect(cost, locked, bare) if has_steps and built.whole else None,
        missing=_missing(asked.school, table),
        rails=both_rails(asked.rows, compute(_at_prices(asked, known, table)), asked.found.kept),
        bar=money_bar(sales, cost_of(built, asked.sheet), reach_of(built, asked.sheet)),
        adders=adders,
        beside=totals(asked.basis, asked.sheet.figures).beside,
    )


def cost_of(built: Built, sheet: Sheet) -> Decimal:
    return sheet.figures.cost if built.cost is None else built.cost


def reach_of(built: Built, sheet: Sheet) -> Decimal:
    """What the whole width of the dollar rail stands for, so that a dragged price has room."""
    return max(built.whole.retail if built.whole else Decimal(0), cost_of(built, sheet)) * REACH


def _products(cuts: list[int]) -> list[Product]:
    wanted = Product.objects.filter(cut__in=cuts)
    return list(
        wanted.select_related("tray", "ending", "family__ending").prefetch_related("adders")
    )


def _neighbours(products: list[int]) -> dict[int, NeighbourPrice]:
    """The newest price a neighbour was seen to ask, by product."""
    rows = NeighbourPrice.objects.filter(product__in=products).order_by("seen_on", "id")
    return {row.product_id: row for row in rows}


def _whole_at(cost: Decimal, lines: list[PriceLine], prices: list[Decimal | None]) -> Whole | None:
    standing = [replace(line, locked=price) for line, price in zip(lines, prices, strict=True)]
    return at_prices(cost, standing).whole


def _at_prices(asked: _Asked, known: list[KnownTargets], table: list[PriceRow]) -> CoreTest:
    """The test with the proposed prices on it, for the rails."""
    prices = {one.output.pk: row for one, row in zip(known, table, strict=True)}
    outputs = []
    for output, core in zip(asked.found.kept, asked.basis.outputs, strict=True):
        row = prices.get(output.pk)
        price = UnitPrice(row.price, Unit(row.per)) if row and row.price is not None else None
        outputs.append(replace(core, retail=price))
    return replace(asked.basis, outputs=tuple(outputs))


def _with_last_prices(found: Resting, products: dict[str, Any], last: dict[str, Any]) -> CoreTest:
    outputs = []
    for output, core in zip(found.kept, found.test.outputs, strict=True):
        product = products.get(output.cut_id)
        amount = last.get(product.pk) if product else None
        price: UnitPrice | None
        if product and amount is not None:
            price = UnitPrice(amount, Unit(product.per))
        elif output.share_price is not None:
            price = UnitPrice(output.share_price, Unit(output.price_per))
        else:
            price = core.retail
        outputs.append(replace(core, retail=price))
    return replace(found.test, outputs=tuple(outputs))


def _missing(school: CostingSchool, table: list[PriceRow]) -> str:
    bare = [row.name for row in table if row.cost is None]
    if not table:
        return "Nothing of this test goes to the case, so there is nothing to price."
    if not bare:
        return ""
    needs = {
        CostingSchool.SALES_VALUE: "a last price for every cut",
        CostingSchool.CREDIT: "a credit value for every by-product",
        CostingSchool.REPLACEMENT: "a ready-cut price for every cut",
        CostingSchool.FLAT: "an output that goes to the case",
    }[school]
    return f"No cost by this school for {', '.join(bare)}: it needs {needs}. Choose another school."
