"""The list of current prices."""

from collections.abc import Iterable
from dataclasses import dataclass
from decimal import Decimal

from django.db.models import F

from rooms.bench.models import Correction
from rooms.pricebook.models import Price, Product
from rooms.pricebook.readings.book import Tag, coming, margin_at


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
    corrected: Correction | None = None
    """The correction of its test since it was set: the price is flagged, not changed."""


def current_prices() -> list[CurrentPrice]:
    """Every product that is sold, with its current and last price: four queries at any size."""
    products = Product.objects.filter(is_sold=True).select_related("cut__muscle", "tray")
    pairs: dict[int, list[Price]] = {}
    for price in Price.objects.latest_two().annotate(tests=F("basis__tests")):
        pairs.setdefault(price.product_id, []).append(price)
    corrected = corrected_since([price for some in pairs.values() for price in some])
    result, later = [], coming()
    for product in products:
        now, before, *_ = [*sorted(pairs.get(product.pk, []), key=_newest_first), None, None]
        margin = None
        if now is not None and now.cost is not None:
            margin = margin_at(now, product)
        flag = corrected.get(now.pk) if now is not None else None
        other = Tag(product, now).other if now is not None else None
        result.append(
            CurrentPrice(product, now, before, margin, other, later.get(product.pk), flag)
        )
    return result


def _newest_first(price: Price) -> tuple[int, int]:
    return -price.effective_on.toordinal(), -price.pk


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
