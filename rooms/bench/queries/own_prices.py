"""The prices a sheet shows: as they were when it was cut, else the ones set from it since."""

import copy
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date
from decimal import Decimal

from django.utils import timezone

from cutting.quantities import Unit, storable
from rooms.bench.queries.rows import TestRows
from rooms.pricebook.models import Price, Version


@dataclass(frozen=True)
class ToCome:
    """A price set from this test that does not hold yet."""

    product: str
    amount: Decimal
    per: str
    on: date


def set_from(every: Sequence[TestRows]) -> list[Price]:
    """What was set from these tests and not taken back, in the order of its days: one query."""
    tests = [rows.test.pk for rows in every]
    prices = Price.objects.filter(from_test__in=tests, version__kind=Version.Kind.TEST)
    standing = prices.filter(version__undone_by=None).select_related("product")
    return list(standing.order_by("effective_on", "id"))


def with_own_prices(
    every: Sequence[TestRows], prices: Sequence[Price] | None = None
) -> list[TestRows]:
    """The rows with what was set from each test and is in force: one query for any number, none
    with its `prices` (`set_from`).

    The last price set from the test counts, until its version is taken back; then the one before
    it, or the price of the day it was cut. The rows given stay as they are.
    """
    today = timezone.localdate()
    own: dict[tuple[object, int], Price] = {}
    for price in set_from(every) if prices is None else prices:
        if price.effective_on <= today:
            own[price.from_test, price.product.cut_id] = price
    return [_shown(rows, own) if own else rows for rows in every]


def _shown(rows: TestRows, own: dict[tuple[object, int], Price]) -> TestRows:
    outputs = []
    for output in rows.outputs:
        price = own.get((rows.test.pk, output.cut_id))
        if price is not None:
            output = copy.copy(output)  # noqa: PLW2901
            output.retail = storable(price.unit_price, Unit(output.price_per)).amount
        outputs.append(output)
    return TestRows(rows.test, outputs, rows.weighings)


def to_come(prices: Sequence[Price]) -> list[ToCome]:
    """Of what was set from a test, what is for a day to come."""
    today = timezone.localdate()
    later = [
        ToCome(price.product.name, price.amount, price.product.per, price.effective_on)
        for price in prices
        if price.effective_on > today
    ]
    return sorted(later, key=lambda one: (one.on, one.product))
