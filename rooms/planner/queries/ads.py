"""The ad planner's page: a week with an ad beside a usual one, and the share to merchandise."""

from dataclasses import dataclass
from datetime import timedelta
from decimal import Decimal
from typing import Any

from cutting.errors import BadValue
from cutting.prices.ads import (
    Ad,
    Blend,
    Sold,
    Way,
    WeekBar,
    blend,
    example_price,
    example_weeks,
    plan_ad,
    sells_for,
    share_for_margin,
    week_bars,
)
from cutting.quantities import HUNDRED, ZERO, Unit, UnitPrice, round_half_up
from cutting.sheet.yields import pooled_shares
from rooms.bench.models import CuttingTest
from rooms.bench.queries.cut_today import pounds_finished
from rooms.bench.queries.invoice import invoice_now
from rooms.bench.queries.pool import pools
from rooms.catalog.models import Plan, PlanOutput
from rooms.common.web.formsets import faults_of, rows_of
from rooms.planner.queries.costed import plain_message, sold_with_costs
from rooms.planner.queries.plan_fields import AdForm, AdRow, Book
from rooms.pricebook.models import Product
from rooms.shop.queries.current import house
from wording.pencil import Pencil
from wording.plan import ad_pencil, share_pencil
from wording.yields import where_from

AROUND = 5
STEPS = 20
LOOKED_BACK = timedelta(days=28)


@dataclass(frozen=True)
class AdLine:
    """One product's row: its fields, what the book says, what is wrong."""

    fields: AdRow
    faults: list[str]

    @property
    def product(self) -> Product | None:
        return self.fields.chosen

    @property
    def book_price(self) -> Decimal | None:
        return self.fields.price_in_book.amount if self.fields.price_in_book else None


@dataclass(frozen=True)
class PlanWay:
    """A plan as a way to cut the ad pieces, and where its yields come from."""

    plan: Plan
    way: Way
    tests: int
    unpriced: list[str]

    @property
    def words(self) -> str:
        return where_from(self.tests)


@dataclass(frozen=True)
class Merchandising:
    plain: PlanWay
    other: PlanWay
    goal: Decimal
    share: Decimal | None
    chart: dict[str, Any]

    @property
    def as_it_is(self) -> Decimal:
        """The margin of the ad pieces with none of them cut the other way, as a share."""
        return blend(self.plain.way, self.other.way, ZERO).margin

    @property
    def pencil(self) -> Pencil:
        return share_pencil(self.plain.way, self.other.way, self.goal, self.share)


@dataclass(frozen=True)
class AdView:
    rows: list[AdLine]
    ad: Ad | None
    form: AdForm
    merchandising: Merchandising | None
    faults: list[str]
    pencil: Pencil | None
    bars: tuple[WeekBar, ...]


@dataclass(frozen=True)
class Worked:
    """The rows of an ad, and what they come to; `ad` None while something is missing or wrong."""

    rows: list[AdLine]
    ad: Ad | None
    pencil: Pencil | None
    faults: list[str]


def work_out(data: Any, book: Book, said: dict[str, str]) -> Worked:
    """The ad alone, from the fields and the book; no query. `said`: what its products were
    called when it was kept."""
    rows, sold = [], []
    for fields in rows_of(AdRow, data, range(AROUND + 1), book=book):
        row, one = _row(fields, said)
        rows.append(row)
        sold.append(one)
    ad, pencil, faults = None, None, [fault for row in rows for fault in row.faults]
    if sold[0] is not None and not faults:
        try:
            around = [one for one in sold[1:] if one is not None]
            ad = plan_ad(sold[0], around)
            pencil = ad_pencil(ad, sold[0], around)
        except BadValue as bad:
            faults.append(plain_message(bad))
    return Worked(rows, ad, pencil, faults)


def ad_view(data: Any, said: dict[str, str] | None = None, book: Book | None = None) -> AdView:
    """From the page's fields; nothing is written. Usual values are the book's of today."""
    book = sold_with_costs() if book is None else book
    worked = work_out(data, book, said or {})
    plans = list(Plan.objects.select_related("piece").order_by("piece__position", "position"))
    form = AdForm(data, plans, _usual_plans(worked.rows[0].product, plans))
    merchandising, told = _merchandising(form, worked.rows[0], plans, book)
    return AdView(
        worked.rows,
        worked.ad,
        form,
        merchandising,
        worked.faults + told,
        worked.pencil,
        week_bars(worked.ad) if worked.ad else (),
    )


def example(book: Book) -> dict[str, str]:
    """The fields of an ad of this shop: what it cut most in the last weeks, at a fifth off.

    Weights are what came off the block in a week; the ad sells twice as much, the two around it
    a fifth more. Empty while nothing that has a price and a cost was cut. One query.
    """
    costed = {p.cut_id: (p, price) for p, price in book if price.cost}
    pounds = pounds_finished(LOOKED_BACK)
    cut_most = sorted((cut for cut in pounds if cut in costed), key=lambda cut: -pounds[cut])
    found: dict[str, str] = {}
    for at, cut in enumerate(cut_most[:3]):
        product, price = costed[cut]
        usual, more = example_weeks(
            pounds[cut], LOOKED_BACK.days, Unit(product.per), is_item=at == 0
        )
        found |= {
            f"product-{at}": str(product.pk),
            f"usual-pounds-{at}": f"{usual}",
            f"pounds-{at}": f"{more}",
        }
        if at == 0:
            found["price-0"] = f"{example_price(price.amount)}"
    return found


def _row(fields: AdRow, said: dict[str, str]) -> tuple[AdLine, Sold | None]:
    """The row as shown, and as the core takes it; None where it is empty or wrong."""
    product, at = fields.chosen, int(fields.prefix)
    name = product.name if product else f"row {at + 1}"
    faults = fields.faults(name)
    if product is None and (fields["product"].value() or "").strip():
        gone = said.get(f"product-{at}", f"the product of row {at + 1}")
        faults.append(f"{gone}: it is not on sale any more; choose another, or clear the row.")
    if product is None or faults:
        return AdLine(fields, faults), None
    book, typed = fields.price_in_book, fields.cleaned_data.get
    usual = book.amount if book else None
    asked = typed("price") or (None if fields.is_item else usual)
    cost = typed("cost")
    if cost is None and book:
        cost = book.cost
    if asked is None:
        faults.append(f"{name}, ad price: it is empty; the price of the ad is right.")
        return AdLine(fields, faults), None
    if cost is None:
        faults.append(f"{name}, cost: the book knows none; type what a {product.per} costs.")
        return AdLine(fields, faults), None
    one = Sold(
        name,
        asked,
        cost,
        typed("pounds") or ZERO,
        typed("usual_pounds") or ZERO,
        (typed("usual") or usual) if fields.is_item else None,
    )
    return AdLine(fields, faults), one


# --- the share to merchandise ---------------------------------------------------------------


def _merchandising(
    form: AdForm, item: AdLine, plans: list[Plan], book: Book
) -> tuple[Merchandising | None, list[str]]:
    """The break-even share between the plans chosen, and what is wrong."""
    by_pk = {str(plan.pk): plan for plan in plans}
    told = faults_of(form)
    plain, other = (by_pk.get(form[name].value()) for name in ("plain", "other"))
    goal = form.cleaned_data.get("goal")
    if plain is None or other is None or goal is None:
        return None, told
    asked = item.fields.cleaned_data.get("price")
    ad_price = (item.product, asked) if item.product and asked and not item.faults else None
    prices = {product.pk: price.amount for product, price in book}
    first, second = _ways([plain, other], ad_price, prices)
    if first is None or second is None:
        missing = (
            "No invoice price is known for this piece yet: receive it or cut a test, then plan."
        )
        return None, [*told, missing]
    share = share_for_margin(first.way, second.way, goal)
    chart = _chart(first.way, second.way, goal, share)
    return Merchandising(first, second, goal, share, chart), told


def _usual_plans(product: Product | None, plans: list[Plan]) -> tuple[Plan | None, Plan | None]:
    """A plan that gives the ad item, of a piece cut here if there is one, and another plan of
    the same piece: two queries."""
    if product is None:
        return None, None
    giving = set(PlanOutput.objects.filter(cut=product.cut_id).values_list("plan_id", flat=True))
    cut_here = set(
        CuttingTest.objects.finished().order_by().values_list("piece_id", flat=True).distinct()
    )
    for plan in sorted(plans, key=lambda one: one.piece_id not in cut_here):
        if plan.pk in giving:
            others = [one for one in plans if one.piece_id == plan.piece_id and one != plan]
            others.sort(key=lambda one: one.pk in giving)
            if others:
                return plan, others[0]
    return None, None


def _ways(
    plans: list[Plan], ad_price: tuple[Product, Decimal | None] | None, prices: dict[int, Decimal]
) -> list[PlanWay | None]:
    """What a pound of the piece sells for and costs by each plan: seven queries at most."""
    paid = invoice_now({plan.piece_id for plan in plans})
    if any(plan.piece_id not in paid for plan in plans):
        return [None for _ in plans]
    shares = plan_shares(plans)
    cuts = {cut for some, _ in shares.values() for cut, _ in some}
    products = {p.cut_id: p for p in Product.objects.filter(cut__in=cuts)}
    asked = {} if ad_price is None else {ad_price[0].pk: ad_price[1]}
    ways: list[PlanWay | None] = []
    for plan in plans:
        parts, unpriced = [], []
        some, tests = shares[plan.pk]
        for cut, share in some:
            product = products.get(cut)
            amount = None
            if product is not None:
                amount = prices.get(product.pk) if product.is_sold else product.transfer
                amount = asked.get(product.pk) or amount
            if product is None or amount is None:
                unpriced.append(str(product or "a cut that is no product"))
            else:
                parts.append((share, UnitPrice(amount, Unit(product.per))))
        way = Way(plan.name, sells_for(parts, house().unit), paid[plan.piece_id].to(house().unit))
        ways.append(PlanWay(plan, way, tests, unpriced))
    return ways


def plan_shares(plans: list[Plan]) -> dict[int, tuple[list[tuple[int, Decimal]], int]]:
    """Cut and share of the weight paid for by each plan's id: pooled from its tests, else as the
    plan expects; and how many tests. Four queries at most."""
    found: dict[int, tuple[list[tuple[int, Decimal]], int]] = {plan.pk: ([], 0) for plan in plans}
    pooled = pools({plan.pk for plan in plans})
    for pk, rows in pooled.items():
        each = pooled_shares([(one.whole, [o.cut_id for o in one.outputs]) for one in rows])
        shares = [(cut, one.share) for cut, one in each.items() if cut is not None]
        found[pk] = (shares, len(rows))
    expected = PlanOutput.objects.filter(plan__in=set(found) - set(pooled)).exclude(cut=None)
    for output in expected if len(pooled) < len(found) else ():
        if output.share:
            found[output.plan_id][0].append((output.cut_id, output.share))
    return found


def _chart(plain: Way, other: Way, goal: Decimal, share: Decimal | None) -> dict[str, Any]:
    """Margin of the ad pieces as more of them are merchandised, for the line chart."""

    def tenth(value: Decimal) -> float:
        return float(round_half_up(value * HUNDRED, 1))

    made: list[Blend] = [blend(plain, other, Decimal(i) / STEPS) for i in range(STEPS + 1)]
    return {
        "share": [tenth(one.share) for one in made],
        "margin": [tenth(one.margin) if one.sales > 0 else None for one in made],
        "goal": tenth(goal),
        "at": None if share is None else tenth(share),
        "makes": None if share is None else tenth(blend(plain, other, share).margin),
    }
