"""The price book as CSV and as a spreadsheet."""

from datetime import date, timedelta

from django.db.models import F
from django.utils import timezone

from cutting.quantities import HUNDRED, round_half_up
from rooms.common.tables import csv_line, csv_text, xlsx_bytes
from rooms.pricebook.models import Price, Product
from rooms.pricebook.readings.book import margin_at, prices_on

COLUMNS = ("cut", "name", "animal", "price", "per", "from", "cost", "margin %", "family",
           "target %", "floor %", "on sale")  # fmt: skip
HISTORY = ("cut", "name", "price", "per", "from", "version", "kind", "why", "by", "made",
           "school", "cost", "test", "tests pooled")  # fmt: skip


def rows(day: date):
    """One row a product: the price that holds on a day."""
    prices = prices_on(day)
    for product in Product.objects.select_related("cut", "family", "tray"):
        price = prices.get(product.pk)
        margin = margin_at(price, product) if price else None
        yield (
            product.cut.key, product.name, product.cut.species, price.amount if price else None,
            product.per, price.effective_on if price else None, price.cost if price else None,
            _percent(margin), product.family.name if product.family_id else "",
            _percent(product.target_margin), _percent(product.floor_margin),
            "yes" if product.is_sold else "no",
        )  # fmt: skip


def history_rows(since: date | None = None):
    """Every dated price, the newest first; `since` leaves out versions made before."""
    every = Price.objects.select_related("product__cut", "version__made_by").annotate(
        tests=F("basis__tests")
    )
    if since is not None:
        every = every.filter(version__made_at__date__gte=since)
    for price in every.order_by("-version__number", "product__name").iterator(2000):
        version = price.version
        yield (
            price.product.cut.key, price.product.name, price.amount, price.product.per,
            price.effective_on, version.number, version.get_kind_display(), version.why,
            str(version.made_by or ""), timezone.localtime(version.made_at).date(), price.school,
            price.cost, price.from_test_number, len(price.tests) if price.tests else None,
        )  # fmt: skip


def _percent(share):
    return None if share is None else round_half_up(share * HUNDRED, 1)


def as_csv(day: date) -> str:
    return csv_text(COLUMNS, rows(day))


def as_xlsx(day: date) -> bytes:
    """Today's prices, and the history of a year; all of it is in the history's CSV."""
    past = history_rows(day - timedelta(days=365))
    return xlsx_bytes([("prices", COLUMNS, rows(day)), ("history of a year", HISTORY, past)])


def history_lines():
    """The whole history as lines of CSV, one at a time."""
    yield csv_text(HISTORY, [])
    for row in history_rows():
        yield csv_line(row)
