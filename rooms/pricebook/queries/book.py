"""The price book: who set what, from when on; two dates beside each other; the shelf list."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import date
from decimal import Decimal

from django.db.models import Count, QuerySet

from cutting.prices import margins
from cutting.quantities import Unit, UnitPrice, tray_sticker
from rooms.pricebook.models import Basis, Price, Product, Version
from rooms.pricebook.queries.product_terms import loads_of, tray_of


def other_unit(product: Product, amount: Decimal) -> tuple[Decimal, str] | None:
    """The price in the other unit, half up to the cent, where the tag shows both."""
    other = margins.in_other_unit(UnitPrice(amount, Unit(product.per)))
    return (other.amount, other.per.value) if product.shows_both and other else None


@dataclass(frozen=True)
class Tag:
    """What stands on a shelf tag, with the price before it where two dates are compared."""

    product: Product
    price: Price
    before: Price | None = None

    @property
    def amount(self) -> Decimal:
        return self.price.amount

    @property
    def other(self) -> tuple[Decimal, str] | None:
        return other_unit(self.product, self.amount)

    @property
    def sticker(self) -> Decimal | None:
        tray = tray_of(self.product)
        return tray_sticker(self.amount, tray) if tray else None

    @property
    def margin(self) -> Decimal | None:
        return margin_at(self.price, self.product)

    @property
    def change(self) -> Decimal | None:
        return self.amount - self.before.amount if self.before else None


def margin_at(price: Price, product: Product, cost: Decimal | None = None) -> Decimal | None:
    """Of sales, without its tax, with what the product carries; None without a cost.

    `cost`: another cost than the one it was set with.
    """
    cost = price.cost if cost is None else cost
    if cost is None:
        return None
    return margins.margin_at(price.amount, cost, loads_of(product), product.tax)


def prices_on(day: date, products: Iterable[int] | None = None) -> dict[int, Price]:
    """The price of each product that holds on a day, by the product's id: one query."""
    rows = Price.objects.current(day, products=products).select_related("version", "product")
    return {price.product_id: price for price in rows}


def unit_prices_on(day: date, products: Iterable[int]) -> dict[int, UnitPrice]:
    """What a unit of each product costs on a day, by the product's id: one query of narrow rows."""
    rows = Price.objects.current(day, products=products).order_by()
    kept = rows.values_list("product", "amount", "product__per")
    return {product: UnitPrice(amount, Unit(per)) for product, amount, per in kept}


def coming(products: Iterable[int] | None = None) -> dict[int, Price]:
    """The next price to come of each product that has one: one query."""
    rows = Price.objects.coming()
    if products is not None:
        rows = rows.filter(product__in=products)
    found: dict[int, Price] = {}
    for price in rows:
        found.setdefault(price.product_id, price)
    return found


def on_sale() -> QuerySet[Product]:
    """What is sold, by animal and name, with what a tag shows."""
    rows = Product.objects.filter(is_sold=True).select_related("cut__muscle", "tray")
    return rows.order_by("cut__species", "name", "pk")


def shelf_list(day: date) -> list[Tag]:
    """Every product on sale with a price that day: two queries."""
    prices = prices_on(day)
    return [Tag(p, prices[p.pk]) for p in on_sale() if p.pk in prices]


def changed(first: date, second: date) -> list[int]:
    """Products whose tag changed from one day to another, in the order of a list: three queries
    of narrow rows."""
    before, after = _amounts(Price.objects.current(first)), _amounts(Price.objects.current(second))
    return [
        pk
        for pk in on_sale().values_list("pk", flat=True)
        if pk in after and before.get(pk) != after[pk]
    ]


def compare(first: date, second: date, products: Sequence[int] | None = None) -> list[Tag]:
    """What changed from one day to another, of these products: three queries. New products have
    no price before."""
    products = changed(first, second) if products is None else products
    before, after = prices_on(first, products), prices_on(second, products)
    found = on_sale().in_bulk(products)
    return [Tag(found[pk], after[pk], before.get(pk)) for pk in products]


def made_wrong(version: Version) -> list[int]:
    """Products whose tag a version makes wrong, in the order of a list: three queries of narrow
    rows."""
    after = _amounts(version.prices.all())
    before = _amounts(_before(version, list(after)))
    rows = Product.objects.filter(pk__in=after).order_by("cut__species", "name", "pk")
    return [pk for pk in rows.values_list("pk", flat=True) if before.get(pk) != after[pk]]


def reprint(version: Version, products: Sequence[int] | None = None) -> list[Tag]:
    """Tags that a version makes wrong, of these products: its prices beside those before it."""
    products = made_wrong(version) if products is None else products
    rows = version.prices.filter(product__in=products)
    of = {
        row.product_id: row for row in rows.select_related("product__cut__muscle", "product__tray")
    }
    before = {price.product_id: price for price in _before(version, products)}
    return [Tag(of[pk].product, of[pk], before.get(pk)) for pk in products]


def _before(version: Version, products: Sequence[int]) -> QuerySet[Price]:
    return Price.objects.current(version.effective_on, products=products, before=version.number)


def _amounts(prices: QuerySet[Price]) -> dict[int, Decimal]:
    return dict(prices.order_by().values_list("product_id", "amount"))


def prices_in(versions: list[int]) -> dict[int, int]:
    """How many prices each of these versions has: one query."""
    rows = Price.objects.filter(version__in=versions).order_by().values_list("version_id")
    return dict(rows.annotate(Count("pk")))


def bases_of(version: Version) -> list[Basis]:
    """What its prices rest on, without the documents: one query."""
    rows = Basis.objects.filter(prices__version=version).select_related("piece")
    return list(rows.defer("document").distinct())


@dataclass(frozen=True)
class Story:
    """One product through time, newest first."""

    product: Product
    prices: list[Price]
    coming: list[Price]
    now: Price | None


MOST_PRICES = 60


def story_of(product: Product, today: date) -> Story:
    rows = product.prices.select_related("version__made_by", "basis").defer("basis__document")
    prices = list(rows.order_by("-effective_on", "-id")[:MOST_PRICES])
    held = [price for price in prices if price.effective_on <= today]
    coming = [price for price in prices if price.effective_on > today]
    return Story(product, held, coming, held[0] if held else None)
