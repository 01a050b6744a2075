"""The price book: who set what, from when on; two dates beside each other; the shelf list."""

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import date
from decimal import Decimal

from django.db.models import Count

from cutting import pricing
from cutting.pricing import tray_sticker
from cutting.quantities import Unit, UnitPrice, round_half_up
from rooms.pricebook.models import Basis, Price, Product, Version
from rooms.pricebook.rules import loads_of, tray_of

OTHER = {Unit.LB: Unit.KG, Unit.KG: Unit.LB}


def other_unit(product: Product, amount: Decimal) -> tuple[Decimal, str] | None:
    """The price in the other unit, half up to the cent, where the tag shows both."""
    unit = OTHER.get(Unit(product.per))
    if not product.shows_both or unit is None:
        return None
    return round_half_up(UnitPrice(amount, Unit(product.per)).to(unit)), unit.value


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
    return pricing.margin_at(price.amount, cost, loads_of(product), product.tax)


def prices_on(day: date, products: Iterable[int] | None = None) -> dict[int, Price]:
    """The price of each product that holds on a day, by the product's id: one query."""
    rows = Price.objects.current(day, products=products).select_related("version")
    return {price.product_id: price for price in rows}


def coming(products: Iterable[int] | None = None) -> dict[int, Price]:
    """The next price to come of each product that has one: one query."""
    rows = Price.objects.coming()
    if products is not None:
        rows = rows.filter(product__in=products)
    found: dict[int, Price] = {}
    for price in rows:
        found.setdefault(price.product_id, price)
    return found


def on_sale() -> list[Product]:
    return list(Product.objects.filter(is_sold=True).select_related("cut__muscle", "tray"))


def shelf_list(day: date) -> list[Tag]:
    """Every product on sale with a price that day: two queries."""
    prices = prices_on(day)
    return [Tag(p, prices[p.pk]) for p in on_sale() if p.pk in prices]


def compare(first: date, second: date) -> list[Tag]:
    """What changed from one day to another: three queries. New products have no price before."""
    before, after = prices_on(first), prices_on(second)
    found = []
    for product in on_sale():
        now, old = after.get(product.pk), before.get(product.pk)
        if now is not None and (old is None or old.amount != now.amount):
            found.append(Tag(product, now, old))
    return found


def reprint(version: Version) -> list[Tag]:
    """Tags that a version makes wrong: its prices beside those before it."""
    rows = list(version.prices.select_related("product__cut__muscle", "product__tray"))
    earlier = Price.objects.current(
        version.effective_on, products=[row.product_id for row in rows], before=version.number
    )
    before = {price.product_id: price for price in earlier}
    found = [Tag(row.product, row, before.get(row.product_id)) for row in rows]
    return sorted(
        (tag for tag in found if tag.before is None or tag.change),
        key=lambda tag: (tag.product.cut.species, tag.product.name),
    )


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
