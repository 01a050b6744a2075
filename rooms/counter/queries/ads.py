"""The ad planner's page: a week with an ad beside a usual one, and the share to merchandise."""

from dataclasses import dataclass
from datetime import timedelta
from decimal import Decimal

from django.conf import settings

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
from cutting.words.pencil import Pencil
from cutting.words.plan import ad_pencil, share_pencil
from rooms.bench.models import CuttingTest
from rooms.bench.queries.cut_today import pounds_finished
from rooms.bench.queries.pool import pools
from rooms.bench.rules.rows import to_core
from rooms.catalog.models import Plan, PlanOutput
from rooms.counter.queries.invoice import invoice_now
from rooms.counter.queries.planning import Typed, is_key, plain_message, sold_with_costs
from rooms.counter.rules.wishes import as_typed
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


def ad_view(data, said: dict[str, str] | None = None, book: Book | None = None) -> AdView:
    """From the page's fields; nothing is written. Usual values are the book's of today."""
    book = sold_with_costs() if book is None else book
    worked = work_out(data, book, said or {})
    typed = Typed(data)
    plans = list(Plan.objects.select_related("piece").order_by("piece__position", "position"))
    chosen, merchandising, told = _merchandising(typed, worked.rows[0], plans, book)
    return AdView(
        [product for product, _ in book],
        worked.rows,
        worked.ad,
        plans,
        chosen,
        typed.text("goal", as_typed(Decimal(settings.SHOP["target_margin"]))),
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
            f"{field}-{at}",
            f"{name}, {field.replace('-', ' ')}",
            most=MOST_POUNDS,
            **limits.get(field, {"least": 0}),
        )
        for field in fields
    }
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
            one = Sold(
                name,
                asked,
                cost,
                found["pounds"] or ZERO,
                found["usual-pounds"] or ZERO,
                usual if at == 0 else None,
            )
    text = {field: typed.text(f"{field}-{at}") for field in fields}
    row = AdRow(
        at,
        product,
        text["price"],
        text["cost"],
        text["usual"],
        text["usual-pounds"],
        text["pounds"],
        book_price,
        book_cost,
        faults,
    )
    return row, one


# --- the share to merchandise ---------------------------------------------------------------


def _merchandising(typed: Typed, item: AdRow, plans: list[Plan], book: Book):
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
    ways = _ways([plain, other], ad_price, {product.pk: price.amount for product, price in book})
    if None in ways:
        return (
            chosen,
            None,
            [
                *told,
                "No invoice price is known for this piece yet: receive it or"
                " cut a test, then plan.",
            ],
        )
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
        way = Way(plan.name, sells_for(parts), paid[plan.piece_id].to(Unit.LB))
        ways.append(PlanWay(plan, way, tests, unpriced))
    return ways


def plan_shares(plans: list[Plan]) -> dict[int, tuple[list[tuple[int, Decimal]], int]]:
    """Cut and share of the weight paid for by each plan's id: pooled from its tests, else as the
    plan expects; and how many tests. Four queries at most."""
    found: dict[int, tuple[list[tuple[int, Decimal]], int]] = {plan.pk: ([], 0) for plan in plans}
    pooled = pools({plan.pk for plan in plans})
    for pk, rows in pooled.items():
        each = pooled_shares(
            [(to_core(one, weighed_only=False), [o.cut_id for o in one.outputs]) for one in rows]
        )
        shares = [(cut, one.share) for cut, one in each.items() if cut is not None]
        found[pk] = (shares, len(rows))
    expected = PlanOutput.objects.filter(plan__in=set(found) - set(pooled)).exclude(cut=None)
    for output in expected if len(pooled) < len(found) else ():
        if output.share:
            found[output.plan_id][0].append((output.cut_id, output.share))
    return found


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
