"""Price proposals for a test, and the list of current prices."""

from collections.abc import Iterable
from dataclasses import dataclass, field, replace
from decimal import Decimal

from django.conf import settings

from cutting.costing import School, unit_costs
from cutting.cutting_test import CuttingTest as CoreTest
from cutting.errors import BadValue
from cutting.pencil import percent, profit_shown
from cutting.pricing import (
    Policy,
    Proposal,
    Whole,
    at_price,
    propose,
    tray_sticker,
    whole_piece,
)
from cutting.quantities import HUNDRED, Unit, UnitPrice, Weight, parse_decimal
from cutting.rails import TwoRails
from cutting.sheet import Sheet, compute
from rooms.bench.models import Correction, Output
from rooms.bench.readings.sheet import SCHOOL_NAMES, both_rails, weighed
from rooms.bench.rows import TestRows, to_core
from rooms.catalog.looks import looks
from rooms.common.forms import tidy
from rooms.pricebook.models import Price, Product
from rooms.pricebook.rules import endings

MOST_PRICE = 10000
MOST_TARGET = 95


@dataclass(frozen=True)
class Wish:
    """What the manager asked for, as typed: the school, the target, and each row's own wishes."""

    school: str = ""
    target: str = ""
    targets: dict[int, str] = field(default_factory=dict)
    locked: frozenset[int] = frozenset()
    prices: dict[int, str] = field(default_factory=dict)
    shown: dict[int, str] = field(default_factory=dict)


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
    is_locked: bool
    typed: str
    proposal: Proposal | None
    last: Decimal | None
    sticker: Decimal | None
    tray: str
    fault: str

    @property
    def price(self) -> Decimal | None:
        return self.proposal.price if self.proposal else None


@dataclass(frozen=True)
class PriceView:
    rows: TestRows
    sheet: Sheet
    school: School
    schools: list[tuple[str, str]]
    target: str
    target_fault: str
    table: list[PriceRow]
    whole: Whole | None
    before: Whole | None
    missing: str
    rails: list[tuple[str, TwoRails]]

    @property
    def gp_shown(self) -> Decimal | None:
        return profit_shown(self.whole.retail, self.sheet.figures.cost) if self.whole else None

    @property
    def has_faults(self) -> bool:
        return bool(self.target_fault) or any(row.fault for row in self.table)

    @property
    def shown(self) -> dict[int, str]:
        """The prices this view shows, as its page sends them back."""
        return {row.id: f"{row.price:f}" for row in self.table if row.price is not None}

    @property
    def can_be_saved(self) -> bool:
        return any(row.price is not None for row in self.table) and not self.has_faults


def price_view(rows: TestRows, wish: Wish) -> PriceView:
    """Costs by the chosen school, prices from the target, the margin of the whole piece.

    Sales-value shares come from the last prices that this test did not set, or where there are
    none from the output's share price, so a test's prices never feed back into its own costs.
    """
    products = {
        product.cut_id: product
        for product in Product.objects.filter(cut__in=[o.cut_id for o in rows.outputs if o.cut_id])
    }
    others = Price.objects.filter(product__in=products.values()).exclude(from_test=rows.test.pk)
    last = {price.product_id: price.amount for price in others.current()}
    kept = weighed(rows)
    basis = _with_last_prices(to_core(rows, weighed_only=True), kept, products, last)
    sheet = compute(basis)
    default = settings.SHOP["school"]
    school = School(wish.school if wish.school in list(School) else default)
    target, target_fault = _target(wish.target or _as_percent(settings.SHOP["target_margin"]))
    costs = unit_costs(basis, sheet.figures, sheet.costing, school)
    look = looks(rows.outputs)
    table = []
    for output, core, line, cost in zip(
        kept, basis.outputs, sheet.figures.outputs, costs, strict=True
    ):
        if core.goes_to_case:
            known = _Known(
                output, products.get(output.cut_id), sheet.figures.unit, line.weight, cost
            )
            table.append(_row(known, look[output.pk], wish, target, last))
    return PriceView(
        rows=rows,
        sheet=sheet,
        school=school,
        schools=[(each.value, SCHOOL_NAMES[each]) for each in School],
        target=wish.target or _as_percent(settings.SHOP["target_margin"]),
        target_fault=target_fault,
        table=table,
        whole=_whole(sheet, table, lambda row: row.price),
        before=_whole(sheet, table, lambda row: row.last),
        missing=_missing(school, table),
        rails=both_rails(rows, compute(_at_prices(basis, kept, table))),
    )


def _at_prices(test: CoreTest, kept: list[Output], table: list[PriceRow]) -> CoreTest:
    """The test with the proposed prices on it, for the rails."""
    prices = {row.id: row for row in table}
    outputs = []
    for output, core in zip(kept, test.outputs, strict=True):
        row = prices.get(output.pk)
        price = UnitPrice(row.price, Unit(row.per)) if row and row.price is not None else None
        outputs.append(replace(core, retail=price))
    return replace(test, outputs=tuple(outputs))


@dataclass(frozen=True)
class _Known:
    output: Output
    product: Product | None
    unit: Unit
    weight: Decimal
    cost: Decimal | None


def _with_last_prices(test: CoreTest, kept: list[Output], products: dict, last: dict) -> CoreTest:
    outputs = []
    for output, core in zip(kept, test.outputs, strict=True):
        product = products.get(output.cut_id)
        amount = last.get(product.pk) if product else None
        if amount is not None:
            price = UnitPrice(amount, Unit(product.per))
        elif output.share_price is not None:
            price = UnitPrice(output.share_price, Unit(output.price_per))
        else:
            price = core.retail
        outputs.append(replace(core, retail=price))
    return replace(test, outputs=tuple(outputs))


def _row(known: _Known, look: str, wish: Wish, target: Decimal | None, last: dict) -> PriceRow:
    output, product = known.output, known.product
    per = Unit(product.per if product else output.price_per)
    cost = None if known.cost is None else UnitPrice(known.cost, known.unit).to(per)
    typed_target = wish.targets.get(output.pk, "").strip()
    usual = product.target_margin if product else None
    typed = wish.prices.get(output.pk, "").strip()
    was_typed = bool(typed) and typed != wish.shown.get(output.pk, typed)
    is_locked = output.pk in wish.locked or was_typed
    floor = product.floor_margin if product else None
    proposal, fault = None, ""
    try:
        if is_locked and typed:
            price = _price(typed)
            if cost is not None:
                proposal = at_price(price, cost, floor)
        elif cost is not None:
            own = _share(typed_target) if typed_target else (usual or target)
            if own is not None:
                proposal = propose(cost, Policy(own, endings(), floor))
    except BadValue as bad:
        fault = str(bad)
    tray = Weight(product.tray_weight, Unit(product.tray_unit)) if (
        product and product.tray_weight
    ) else None  # fmt: skip
    sticker = tray_sticker(proposal.price, tray.to(per)) if proposal and tray else None
    return PriceRow(
        id=output.pk, name=output.name, look=look, product=product, per=per.value,
        weight=Weight(known.weight, known.unit).to(per), cost=cost, target=typed_target,
        usual_target=_as_percent(usual) if usual is not None else "", is_locked=is_locked,
        typed=typed if is_locked else "", proposal=proposal,
        last=last.get(product.pk) if product else output.retail,
        sticker=sticker, tray=str(tray) if tray else "", fault=fault,
    )  # fmt: skip


def _price(text: str) -> Decimal:
    price = parse_decimal(tidy(text), "Price")
    if not 0 < price <= MOST_PRICE:
        raise BadValue("Price", f"{text} is not a price", f"more than 0, at most {MOST_PRICE}")
    if price != round(price, 2):
        raise BadValue("Price", f"{text} has parts of a cent", "whole cents are right")
    return price


def _share(text: str) -> Decimal:
    """A typed percentage as a share."""
    value = parse_decimal(tidy(text.removesuffix("%")), "Target")
    if not 0 <= value <= MOST_TARGET:
        raise BadValue("Target", f"{text} %", f"from 0 to {MOST_TARGET} % of sales is right")
    return value / HUNDRED


def _target(text: str) -> tuple[Decimal | None, str]:
    try:
        return _share(text), ""
    except BadValue as bad:
        return None, str(bad)


def _as_percent(share) -> str:
    text = percent(Decimal(share)).removesuffix(" %")
    return text.removesuffix(".0")


def _whole(sheet: Sheet, table: list[PriceRow], price_of) -> Whole | None:
    sold = [(price_of(row), row.weight) for row in table]
    if not sold or any(price is None for price, _ in sold):
        return None
    return whole_piece(sheet.figures.cost, sold)


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


@dataclass(frozen=True)
class CurrentPrice:
    """One product with its current price and the one before."""

    product: Product
    now: Price | None
    before: Price | None
    margin: Decimal | None
    corrected: Correction | None = None
    """The correction of its test since it was set: the price is flagged, not changed."""


def current_prices() -> list[CurrentPrice]:
    """Every product that is sold, with its current and last price: three queries at any size."""
    products = Product.objects.filter(is_sold=True).select_related("cut__muscle")
    pairs: dict[int, list[Price]] = {}
    for price in Price.objects.latest_two().select_related("made_by"):
        pairs.setdefault(price.product_id, []).append(price)
    corrected = corrected_since([price for some in pairs.values() for price in some])
    result = []
    for product in products:
        now, before, *_ = [*sorted(pairs.get(product.pk, []), key=lambda p: -p.pk), None, None]
        margin = None
        if now is not None and now.cost is not None:
            margin = at_price(now.amount, now.cost).margin
        flag = corrected.get(now.pk) if now is not None else None
        result.append(CurrentPrice(product, now, before, margin, flag))
    return result


def corrected_since(prices: Iterable[Price]) -> dict[int, Correction]:
    """Prices whose test was corrected after they were set, with its last correction: one query."""
    resting = [price for price in prices if price.from_test is not None]
    if not resting:
        return {}
    corrections = Correction.objects.filter(test__in={price.from_test for price in resting})
    last = {one.test_id: one for one in corrections.order_by("number")}
    return {
        price.pk: last[price.from_test]
        for price in resting
        if price.from_test in last and last[price.from_test].at > price.made_at
    }
