"""The ad planner's page: a week with an ad beside a usual one, and the share to merchandise."""

from dataclasses import dataclass
from datetime import timedelta
from decimal import Decimal

from django.conf import settings

from cutting.ads import (
    Ad,
    Blend,
    Sold,
    Way,
    WeekBar,
    blend,
    plan_ad,
    share_for_margin,
    week_bars,
)
from cutting.errors import BadValue
from cutting.pencil import Pencil
from cutting.pencil_plan import ad_pencil, share_pencil
from cutting.quantities import HUNDRED, ZERO, Unit, UnitPrice, Weight, round_half_up, working
from cutting.yields import pooled_shares
from rooms.bench.models import CuttingTest
from rooms.bench.readings.cut_today import lately_finished, pounds_cut
from rooms.bench.readings.pool import pool
from rooms.bench.rows import to_core
from rooms.catalog.models import Plan, PlanOutput
from rooms.counter.invoice import invoice_now
from rooms.counter.planning import Typed, is_key, plain_message, sold_with_costs
from rooms.counter.wishes import as_typed
from rooms.pricebook.models import Price, Product

AROUND = 5
STEPS = 20
MOST_POUNDS = 100000
LOOKED_BACK = timedelta(days=28)


@dataclass(frozen=True)
class AdRow:
    """One product's fields: what was typed, what the book says, what is wrong."""

    at: int
    product: Product | None
    price: str
    cost: str
    usual: str
    usual_pounds: str
    pounds: str
    book_price: Decimal | None
    book_cost: Decimal | None
    faults: list[str]


@dataclass(frozen=True)
class PlanWay:
    """A plan as a way to cut the ad pieces, and where its yields come from."""

    plan: Plan
    way: Way
    tests: int
    unpriced: list[str]

    @property
    def words(self) -> str:
        if not self.tests:
            return "the plan's usual shares; no test of it yet"
        return "a single test" if self.tests == 1 else f"{self.tests} tests"


@dataclass(frozen=True)
class Merchandising:
    plain: PlanWay
    other: PlanWay
    goal: Decimal
    share: Decimal | None
    chart: dict

    @property
    def pencil(self) -> Pencil:
        return share_pencil(self.plain.way, self.other.way, self.goal, self.share)


@dataclass(frozen=True)
class AdView:
    products: list[Product]
    rows: list[AdRow]
    ad: Ad | None
    plans: list[Plan]
    chosen: tuple[int | None, int | None]
    goal: str
    merchandising: Merchandising | None
    faults: list[str]
    pencil: Pencil | None
    bars: tuple[WeekBar, ...]


@dataclass(frozen=True)
class Worked:
    """The rows of an ad, and what they come to; `ad` None while something is missing or wrong."""

    rows: list[AdRow]
    ad: Ad | None
    pencil: Pencil | None
    faults: list[str]


Book = list[tuple[Product, Price]]


def work_out(data, book: Book, said: dict[str, str]) -> Worked:
    """The ad alone, from the fields and the book; no query. `said`: what its products were
    called when it was kept."""
    typed = Typed(data)
    known = {product.pk: (product, price) for product, price in book}
    rows, sold = [], []
    for at in range(AROUND + 1):
        row, one = _row(at, typed, known, said)
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


def ad_view(data, said: dict[str, str] | None = None) -> AdView:
    """From the page's fields; nothing is written. Usual values are the book's of today."""
    book = sold_with_costs()
    worked = work_out(data, book, said or {})
    typed = Typed(data)
    plans = list(Plan.objects.select_related("piece").order_by("piece__position", "position"))
    chosen, merchandising, told = _merchandising(typed, worked.rows[0], plans)
    return AdView(
        [product for product, _ in book], worked.rows, worked.ad, plans, chosen,
        typed.text("goal", as_typed(Decimal(settings.SHOP["target_margin"]))),
        merchandising, worked.faults + told, worked.pencil,
        week_bars(worked.ad) if worked.ad else (),
    )  # fmt: skip


def example() -> dict[str, str]:
    """The fields of an ad of this shop: what it cut most in the last weeks, at a fifth off.

    Weights are what came off the block in a week; the ad sells twice as much, the two around it
    a fifth more. Empty while nothing that has a price and a cost was cut. Four queries.
    """
    book = {p.cut_id: (p, price) for p, price in sold_with_costs() if price.cost}
    pounds = pounds_cut(lately_finished(LOOKED_BACK))
    cut_most = sorted((cut for cut in pounds if cut in book), key=lambda cut: -pounds[cut])
    found: dict[str, str] = {}
    for at, cut in enumerate(cut_most[:3]):
        product, price = book[cut]
        with working():
            week = Weight(pounds[cut], Unit.LB).to(Unit(product.per)) / LOOKED_BACK.days * 7
            more = week * (2 if at == 0 else Decimal("1.2"))
        found |= {
            f"product-{at}": str(product.pk),
            f"usual-pounds-{at}": f"{round_half_up(week, 1)}",
            f"pounds-{at}": f"{round_half_up(more, 1)}",
        }
        if at == 0:
            with working():
                found["price-0"] = f"{round_half_up(price.amount * Decimal('0.8'))}"
    return found


def _row(at: int, typed: Typed, known: dict, said: dict[str, str]) -> tuple[AdRow, Sold | None]:
    """The row as shown, and as the core takes it; None where it is empty or wrong."""
    pk = typed.text(f"product-{at}")
    product, price = known.get(int(pk), (None, None)) if is_key(pk) else (None, None)
    book_price, book_cost = (price.amount, price.cost) if price else (None, None)
    before = set(typed.faults)
    name = product.name if product else f"row {at + 1}"
    fields = ("price", "cost", "usual", "usual-pounds", "pounds")
    limits = {"price": {"above": 0}, "usual": {"above": 0}}
    found = {
        field: typed.number(
            f"{field}-{at}", f"{name}, {field.replace('-', ' ')}", most=MOST_POUNDS,
            **limits.get(field, {"least": 0}),
        )
        for field in fields
    }  # fmt: skip
    faults = [text for field, text in typed.faults.items() if field not in before]
    if pk and product is None:
        gone = said.get(f"product-{at}", f"the product of row {at + 1}")
        faults.append(f"{gone}: it is not on sale any more; choose another, or clear the row.")
    asked = found["price"] if found["price"] is not None else (book_price if at else None)
    cost = found["cost"] if found["cost"] is not None else book_cost
    one = None
    if product is not None and not faults:
        if asked is None:
            faults.append(f"{name}, ad price: it is empty; the price of the ad is right.")
        elif cost is None:
            faults.append(f"{name}, cost: the book knows none; type what a {product.per} costs.")
        else:
            usual = found["usual"] if found["usual"] is not None else book_price
            one = Sold(name, asked, cost, found["pounds"] or ZERO, found["usual-pounds"] or ZERO,
                       usual if at == 0 else None)  # fmt: skip
    text = {field: typed.text(f"{field}-{at}") for field in fields}
    row = AdRow(
        at, product, text["price"], text["cost"], text["usual"], text["usual-pounds"],
        text["pounds"], book_price, book_cost, faults,
    )  # fmt: skip
    return row, one


# --- the share to merchandise ---------------------------------------------------------------


def _merchandising(typed: Typed, item: AdRow, plans: list[Plan]):
    """The plans chosen, the break-even share between them, and what is wrong."""
    by_pk = {plan.pk: plan for plan in plans}
    first, second = _usual_plans(item.product, plans)
    plain, other = _plan(typed, "plain", by_pk, first), _plan(typed, "other", by_pk, second)
    goal = typed.number("goal", "Goal, % of sales", as_typed(_target()), least=0, most=95)
    told = [typed.faults["goal"]] if "goal" in typed.faults else []
    chosen = (plain.pk if plain else None, other.pk if other else None)
    if plain is None or other is None or goal is None:
        return chosen, None, told
    ad_price = None
    if item.product is not None and item.price and not item.faults:
        ad_price = (item.product, typed.number("price-0", "Ad price"))
    ways = (_way(plain, ad_price), _way(other, ad_price))
    if any(one is None for one in ways):
        return chosen, None, [*told, "No invoice price is known for this piece yet: receive it or"
                              " cut a test, then plan."]  # fmt: skip
    share = share_for_margin(ways[0].way, ways[1].way, goal / HUNDRED)
    chart = _chart(ways[0].way, ways[1].way, goal / HUNDRED, share)
    return chosen, Merchandising(*ways, goal / HUNDRED, share, chart), told


def _target() -> Decimal:
    return Decimal(settings.SHOP["target_margin"])


def _plan(typed: Typed, field: str, by_pk: dict[int, Plan], usual: Plan | None) -> Plan | None:
    text = typed.text(field)
    return by_pk.get(int(text)) if is_key(text) else usual


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


def _way(plan: Plan, ad_price: tuple[Product, Decimal | None] | None) -> PlanWay | None:
    """What a pound of the piece sells for and costs by a plan: four to six queries."""
    paid = invoice_now([plan.piece_id]).get(plan.piece_id)
    if paid is None:
        return None
    shares, tests = _shares(plan)
    cuts = [cut for cut, _ in shares]
    products = {p.cut_id: p for p in Product.objects.filter(cut__in=cuts)}
    prices = {
        price.product_id: price.amount
        for price in Price.objects.current(products=[p.pk for p in products.values()])
    }
    sales, unpriced = ZERO, []
    with working():
        for cut, share in shares:
            product = products.get(cut)
            amount = None
            if product is not None:
                amount = prices.get(product.pk) if product.is_sold else product.transfer
                if ad_price is not None and ad_price[0].pk == product.pk:
                    amount = ad_price[1] or amount
            if amount is None:
                unpriced.append(str(product or "a cut that is no product"))
            else:
                sales += share * UnitPrice(amount, Unit(product.per)).to(Unit.LB)
    return PlanWay(plan, Way(plan.name, sales, paid.to(Unit.LB)), tests, unpriced)


def _shares(plan: Plan) -> tuple[list[tuple[int, Decimal]], int]:
    """Cut and share of the weight paid for: pooled from its tests, else as the plan expects."""
    rows = pool(CuttingTest.objects.filter(plan=plan))
    if not rows:
        outputs = PlanOutput.objects.filter(plan=plan).exclude(cut=None)
        return [(o.cut_id, o.share) for o in outputs if o.share], 0
    found = pooled_shares(
        [(to_core(one, weighed_only=False), [o.cut_id for o in one.outputs]) for one in rows]
    )
    return [(cut, one.share) for cut, one in found.items() if cut is not None], len(rows)


def _chart(plain: Way, other: Way, goal: Decimal, share: Decimal | None) -> dict:
    """Margin of the ad pieces as more of them are merchandised, for the line chart."""

    def tenth(value: Decimal) -> float:
        return float(round_half_up(value * HUNDRED, 1))

    made: list[Blend] = [blend(plain, other, Decimal(i) / STEPS) for i in range(STEPS + 1)]
    return {
        "share": [tenth(one.share) for one in made],
        "margin": [tenth(one.margin) if one.sales > 0 else None for one in made],
        "goal": tenth(goal),
        "at": None if share is None else tenth(share),
    }
