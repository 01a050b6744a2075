"""The list of current prices."""

from collections.abc import Iterable
from dataclasses import dataclass
from decimal import Decimal

from rooms.pricebook.models import Price, Product
from rooms.pricebook.queries.book import Tag, coming, margin_at, on_sale
from rooms.pricing.queries.grounds import Shaken, shaken, with_grounds


@dataclass(frozen=True)
class CurrentPrice:
    """One product with its current price and the one before."""

    product: Product
    now: Price | None
    before: Price | None
    margin: Decimal | None
    other: tuple[Decimal, str] | None = None
    """In the other unit, where its tag shows both."""
    coming: Price | None = None
    shaken: Shaken | None = None
    """What moved the ground it rests on: the price is flagged, not changed."""


def current_prices(products: Iterable[Product] | None = None) -> list[CurrentPrice]:
    """Every product that is sold, or these, with current and last price: five queries at any
    size."""
    products = list(on_sale() if products is None else products)
    keys = [product.pk for product in products]
    pairs: dict[int, list[Price]] = {}
    for price in with_grounds(Price.objects.latest_two(products=keys)):
        pairs.setdefault(price.product_id, []).append(price)
    moved = shaken(price for some in pairs.values() for price in some)
    result, later = [], coming(keys)
    for product in products:
        now, before, *_ = [*sorted(pairs.get(product.pk, []), key=_newest_first), None, None]
        margin = margin_at(now, product) if now is not None else None
        flag = moved.get(now.pk) if now is not None else None
        other = Tag(product, now).other if now is not None else None
        result.append(
            CurrentPrice(product, now, before, margin, other, later.get(product.pk), flag)
        )
    return result


def _newest_first(price: Price) -> tuple[int, int]:
    return -price.effective_on.toordinal(), -price.pk
