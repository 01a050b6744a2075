"""The price builder: a piece's outputs with their prices in the making."""

from collections.abc import Callable
from dataclasses import dataclass, replace
from datetime import date
from decimal import Decimal

from django.conf import settings

from cutting.building import (
    Built,
    Line,
    Priced,
    adder_effect,
    at_prices,
    comfort_words,
    each_alone,
    solve,
    with_adders,
)
from cutting.costing import School, unit_costs
from cutting.cutting_test import CuttingTest as CoreTest
from cutting.errors import BadValue
from cutting.pencil import SCHOOL_NAMES, Pencil, profit_shown
from cutting.pencil_price import piece_pencil, price_pencil
from cutting.pricing import Whole, tray_sticker
from cutting.quantities import Unit, UnitPrice, Weight
from cutting.rails import MoneyBar, TwoRails, money_bar
from cutting.sheet import Sheet, compute
from rooms.bench.models import Output
from rooms.bench.readings.sheet import both_rails
from rooms.bench.rows import TestRows
from rooms.catalog.looks import looks
from rooms.counter.resting import Resting, resting
from rooms.counter.wishes import COST, EACH, Wish, as_typed, read_aim, read_price, read_share
from rooms.pricebook.models import Adder, NeighbourPrice, Price, Product
from rooms.pricebook.rules import endings_of, loads_of, tray_of

REACH = Decimal("1.15")
"""The dollar rail has room for this much more than the piece brings."""


@dataclass(frozen=True)
class PriceRow:
    """One product's price in the making. Money is per `per`."""

    id: int
    name: str
    look: str
    product: Product | None
    per: str
    weight: Decimal
    cost: Decimal | None
    target: str
    usual_target: str
    rung: str
    is_locked: bool
    typed: str
    priced: Priced
    last: Decimal | None
    tray: Decimal | None
    comfort: str
    neighbour: NeighbourPrice | None
    adders: frozenset[int]
    share: str
    """Its pooled yield with the interval, in words."""
    fault: str

    @property
    def proposal(self) -> Priced | None:
        return self.priced if self.priced.price is not None else None

    @property
    def price(self) -> Decimal | None:
        return self.priced.price

    @property
    def sticker(self) -> Decimal | None:
        return tray_sticker(self.price, self.tray) if self.price and self.tray else None


@dataclass(frozen=True)
class PriceView:
    """`built` holds the figures; `basis` the core test the prices rest on."""

    rows: TestRows
    wish: Wish
    resting: Resting
    basis: CoreTest
    sheet: Sheet
    school: School
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

    @property
    def whole(self) -> Whole | None:
        return self.built.whole

    @property
    def schools(self) -> list[tuple[str, str]]:
        return [(each.value, SCHOOL_NAMES[each]) for each in School]

    @property
    def gp_shown(self) -> Decimal | None:
        return profit_shown(self.whole.retail, self.built.cost) if self.whole else None

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


@dataclass(frozen=True)
class _Known:
    """What the database says about one output."""

    output: Output
    product: Product | None
    unit: Unit
    weight: Decimal
    cost: Decimal | None
    last: Decimal | None
    neighbour: NeighbourPrice | None
    look: str
    share: str

    @property
    def per(self) -> Unit:
        return Unit(self.product.per if self.product else self.output.price_per)

    def to_per(self, money: Decimal | None) -> Decimal | None:
        return None if money is None else UnitPrice(money, self.unit).to(self.per)


def price_view(rows: TestRows, wish: Wish, on: date | None = None) -> PriceView:
    """Costs by the chosen school, prices from target, ladder and locks, the whole piece.

    Sales-value shares come from the last prices that this test did not set, or where there are
    none from the output's share price, so a test's prices never feed back into its own costs.
    Eleven queries at any size.
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
    school = School(wish.school if wish.school in list(School) else settings.SHOP["school"])
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
                _Known(
                    output, product, sheet.figures.unit, line.weight, cost,
                    last.get(product.pk) if product else output.retail,
                    seen.get(product.pk) if product else None,
                    look[output.pk], found.share_words(output),
                )
            )  # fmt: skip
    return _view(_Asked(rows, wish, found, basis, sheet, school), known)


@dataclass(frozen=True)
class _Asked:
    rows: TestRows
    wish: Wish
    found: Resting
    basis: CoreTest
    sheet: Sheet
    school: School


def _view(asked: _Asked, known: list[_Known]) -> PriceView:
    adders = list(Adder.objects.filter(is_dropped=False))
    wish = replace(asked.wish, adders=_adders_of(asked.wish, known))
    rate = asked.rows.test.labour_rate or Decimal(settings.SHOP["labour_rate"])
    aim, fault = read_aim(wish)
    typed = [_typed(one, wish) for one in known]
    bare = [
        _line(one, wish, price, aim.margin if aim else None)
        for one, (price, _) in zip(known, typed, strict=True)
    ]
    by_pk = {adder.pk: adder.core for adder in adders}
    lines = [
        with_adders(line, [by_pk[pk] for pk in sorted(wish.adders[one.output.pk]) if pk in by_pk],
                    rate)
        for one, line in zip(known, bare, strict=True)
    ]  # fmt: skip
    cost = asked.sheet.figures.cost
    if wish.holds:
        built = at_prices(cost, lines)
    elif wish.chosen_way == EACH or aim is None:
        built = each_alone(cost, lines)
    else:
        built = solve(cost, lines, aim)
    locked = [replace(row.line, locked=row.price) for row in built.lines]
    has_steps = any(wish.adders.values())
    table = [
        _row(one, wish, priced, told) for one, priced, (_, told) in
        zip(known, built.lines, typed, strict=True)
    ]  # fmt: skip
    sales = [row.sales for row in built.lines]
    return PriceView(
        rows=asked.rows, wish=wish, resting=asked.found, basis=asked.basis, sheet=asked.sheet,
        school=asked.school, target_fault=fault, table=table, built=built,
        before=_whole_at(cost, lines, [one.last for one in known]),
        plain=adder_effect(cost, locked, bare) if has_steps and built.whole else None,
        missing=_missing(asked.school, table),
        rails=both_rails(asked.rows, compute(_at_prices(asked, known, table)), asked.found.kept),
        bar=money_bar(sales, built.cost, reach_of(built)), adders=adders,
    )  # fmt: skip


def reach_of(built: Built) -> Decimal:
    """What the whole width of the dollar rail stands for, so that a dragged price has room."""
    return max(built.whole.retail if built.whole else Decimal(0), built.cost) * REACH


def _products(cuts: list[int]) -> list[Product]:
    wanted = Product.objects.filter(cut__in=cuts)
    return list(
        wanted.select_related("tray", "ending", "family__ending").prefetch_related("adders")
    )


def _neighbours(products: list[int]) -> dict[int, NeighbourPrice]:
    """The newest price a neighbour was seen to ask, by product."""
    rows = NeighbourPrice.objects.filter(product__in=products).order_by("seen_on", "id")
    return {row.product_id: row for row in rows}


def _adders_of(wish: Wish, known: list[_Known]) -> dict[int, frozenset[int]]:
    """The steps of each output: as ticked, or the product's usual ones."""
    if wish.adders is not None:
        return {one.output.pk: wish.adders.get(one.output.pk, frozenset()) for one in known}
    return {
        one.output.pk: frozenset(adder.pk for adder in one.product.adders.all())
        if one.product else frozenset()
        for one in known
    }  # fmt: skip


def _typed(one: _Known, wish: Wish) -> tuple[Decimal | None, str]:
    """The price that stands whatever is solved, or what is wrong with it."""
    pk = one.output.pk
    text = wish.prices.get(pk, "").strip() or wish.shown.get(pk, "")
    if not text or not (wish.holds or wish.moved(pk) or pk in wish.locked):
        return None, ""
    if wish.holds and not wish.moved(pk):
        text = wish.shown.get(pk, text)
    try:
        return read_price(text), ""
    except BadValue as bad:
        return None, str(bad)


def _line(one: _Known, wish: Wish, price: Decimal | None, target: Decimal | None) -> Line:
    product, per = one.product, one.per
    cost = one.to_per(one.cost)
    own = wish.targets.get(one.output.pk, "").strip()
    return Line(
        one.output.name, Weight(one.weight, one.unit).to(per), cost, _rung(one, wish, cost),
        endings_of(product), per, locked=price,
        floor=product.floor_margin if product else None, loads=loads_of(product),
        tax=product.tax if product else Decimal(0),
        target=_read(own) if own else (product and product.target_margin) or target,
    )  # fmt: skip


def _read(text: str) -> Decimal | None:
    try:
        return read_share(text)
    except BadValue:
        return None


def _rung(one: _Known, wish: Wish, cost: Decimal | None) -> Decimal | None:
    """As typed, else the last price or the cost by the school."""
    text = wish.rungs.get(one.output.pk, "").strip()
    if text:
        try:
            return read_price(text, "Rung")
        except BadValue:
            return None
    if wish.ladder == COST:
        return cost if cost and cost > 0 else None
    return one.last or (cost if cost and cost > 0 else None)


def _row(one: _Known, wish: Wish, priced: Priced, fault: str) -> PriceRow:
    product, pk = one.product, one.output.pk
    tray = tray_of(product) if product else None
    limit = product.family.comfort if product and product.family_id else None
    comfort = ""
    if priced.price is not None and tray and limit:
        comfort = comfort_words(priced.price, tray, limit, product.portions)
    target, rung = wish.targets.get(pk, "").strip(), wish.rungs.get(pk, "").strip()
    moved = wish.moved(pk)
    return PriceRow(
        id=pk, name=one.output.name, look=one.look, product=product, per=one.per.value,
        weight=priced.line.weight, cost=priced.line.cost, target=target,
        usual_target=as_typed(product.target_margin) if product else "", rung=rung,
        is_locked=pk in wish.locked or moved,
        typed=wish.prices.get(pk, "").strip() if fault else "",
        priced=priced, last=one.last, tray=tray, comfort=comfort, neighbour=one.neighbour,
        adders=wish.adders[pk], share=one.share,
        fault=fault or _wrong(target, read_share) or _wrong(rung, lambda t: read_price(t, "Rung")),
    )  # fmt: skip


def _wrong(text: str, read: Callable[[str], Decimal]) -> str:
    if not text:
        return ""
    try:
        read(text)
    except BadValue as bad:
        return str(bad)
    return ""


def _whole_at(cost: Decimal, lines: list[Line], prices: list[Decimal | None]) -> Whole | None:
    standing = [replace(line, locked=price) for line, price in zip(lines, prices, strict=True)]
    return at_prices(cost, standing).whole


def _at_prices(asked: _Asked, known: list[_Known], table: list[PriceRow]) -> CoreTest:
    """The test with the proposed prices on it, for the rails."""
    prices = {one.output.pk: row for one, row in zip(known, table, strict=True)}
    outputs = []
    for output, core in zip(asked.found.kept, asked.basis.outputs, strict=True):
        row = prices.get(output.pk)
        price = UnitPrice(row.price, Unit(row.per)) if row and row.price is not None else None
        outputs.append(replace(core, retail=price))
    return replace(asked.basis, outputs=tuple(outputs))


def _with_last_prices(found: Resting, products: dict, last: dict) -> CoreTest:
    outputs = []
    for output, core in zip(found.kept, found.test.outputs, strict=True):
        product = products.get(output.cut_id)
        amount = last.get(product.pk) if product else None
        if amount is not None:
            price = UnitPrice(amount, Unit(product.per))
        elif output.share_price is not None:
            price = UnitPrice(output.share_price, Unit(output.price_per))
        else:
            price = core.retail
        outputs.append(replace(core, retail=price))
    return replace(found.test, outputs=tuple(outputs))


def _missing(school: School, table: list[PriceRow]) -> str:
    bare = [row.name for row in table if row.cost is None]
    if not table:
        return "Nothing of this test goes to the case, so there is nothing to price."
    if not bare:
        return ""
    needs = {
        School.SALES_VALUE: "a last price for every cut",
        School.CREDIT: "a credit value for every by-product",
        School.REPLACEMENT: "a ready-cut price for every cut",
        School.FLAT: "an output that goes to the case",
    }[school]
    return f"No cost by this school for {', '.join(bare)}: it needs {needs}. Choose another school."
