"""What sold by day of the week, and what the list could hold."""

from collections import defaultdict
from dataclasses import dataclass
from datetime import date, timedelta
from decimal import Decimal

from cutting.errors import BadValue
from cutting.planning.selling import LOOKS_BACK, Proposal, balance, propose
from cutting.quantities import ZERO, working
from cutting.sheet.cutting_test import same_name
from rooms.demand.models import WEEKDAYS, Sold, Wanted
from rooms.pricebook.models import Product
from rooms.pricebook.queries.book import prices_on

MARKED_DOWN = Decimal("0.5")
"""What is left over brings at most so much of its cost. Common practice, no published source."""
EVEN = Decimal("0.6")
"""The balance where no cost is known: a lost sale is a little dearer than a markdown."""


@dataclass(frozen=True)
class SellingLine:
    """One product on the asked day of the week: its proposal, and what the list says now."""

    product: Product
    proposal: Proposal | None
    now: Wanted | None
    balance: str
    why: str


@dataclass(frozen=True)
class Selling:
    weekday: int
    name: str
    lines: list[SellingLine]
    days: int
    """Days with sales, in all."""
    last: date | None


def by_folded_name() -> dict[str, Product]:
    """Products on sale: one query."""
    return {same_name(one.name): one for one in Product.objects.filter(is_sold=True)}


def selling(weekday: int, today: date, factor: Decimal) -> Selling:
    """Five queries. A day on which nothing of a product sold counts as 0, once it had sold before."""
    since = today - timedelta(weeks=LOOKS_BACK)
    by_product: dict[int, dict[date, Decimal]] = defaultdict(lambda: defaultdict(lambda: ZERO))
    days: set[date] = set()
    with working():
        for product, day, weight in Sold.objects.filter(day__gte=since).values_list(
            "product_id", "day", "weight"
        ):
            by_product[product][day] += weight
            days.add(day)
    own = sorted(day for day in days if day.weekday() == weekday)
    products = Product.objects.filter(pk__in=by_product, is_sold=True).order_by("name")
    prices = prices_on(today, [product.pk for product in products])
    wanted = {row.product_id: row for row in Wanted.objects.filter(weekday=weekday)}
    lines = []
    for product in products:
        rows = by_product[product.pk]
        first = min(rows)
        share, words = balance_of(product, prices.get(product.pk))
        sold = [rows.get(day, ZERO) for day in own if day >= first]
        found = propose(sold, share, factor)
        why = "" if found else f"{len(sold)} weeks only; three are needed"
        lines.append(SellingLine(product, found, wanted.get(product.pk), words, why))
    name = dict(WEEKDAYS)[weekday]
    return Selling(weekday, name, lines, len(days), max(days, default=None))


def balance_of(product: Product, price: object) -> tuple[Decimal, str]:
    """What a lost sale weighs against a markdown, of the product's own figures where they are known."""
    cost, amount = getattr(price, "cost", None), getattr(price, "amount", None)
    if cost is None or amount is None:
        return EVEN, "no cost is known: 60 %"
    try:
        share = balance(amount, cost, min(product.transfer or ZERO, cost * MARKED_DOWN))
    except BadValue:
        return EVEN, "it sells below its cost: 60 %"
    return share, f"{share * 100:.0f} %"
