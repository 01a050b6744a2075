"""The price book as CSV and as a spreadsheet."""

from datetime import date, datetime, time, timedelta
from typing import IO, Any

from django.utils import timezone

from cutting.quantities import HUNDRED, round_half_up
from rooms.common.tables.files import csv_line, csv_text, xlsx_file
from rooms.pricebook.models import Price, Product, Version
from rooms.pricebook.queries.book import margin_at, prices_on

COLUMNS = (
    "cut",
    "name",
    "animal",
    "price",
    "per",
    "from",
    "version",
    "cost",
    "margin %",
    "family",
    "target %",
    "floor %",
    "on sale",
)
HISTORY = (
    "cut",
    "name",
    "price",
    "per",
    "from",
    "version",
    "kind",
    "why",
    "by",
    "made",
    "school",
    "cost",
    "test",
    "tests pooled",
)


def rows(day: date) -> Any:
    """One row a product: the price that holds on a day."""
    prices = prices_on(day)
    for product in Product.objects.select_related("cut", "family", "tray"):
        price = prices.get(product.pk)
        margin = margin_at(price, product) if price else None
        yield (
            product.cut.key,
            product.name,
            product.cut.species,
            price.amount if price else None,
            product.per,
            price.effective_on if price else None,
            price.version.number if price else None,
            price.cost if price else None,
            _percent(margin),
            product.family.name if product.family_id else "",
            _percent(product.target_margin),
            _percent(product.floor_margin),
            "yes" if product.is_sold else "no",
        )


def history_rows(since: date | None = None) -> Any:
    """Every dated price, the newest first; `since` leaves out versions made before that day."""
    rows = Version.objects.select_related("made_by").order_by("-number")
    if since is not None:
        start = timezone.make_aware(datetime.combine(since, time()))
        rows = rows.filter(made_at__gte=start)
    versions = {
        one.pk: (
            one.number,
            one.get_kind_display(),
            one.why,
            str(one.made_by or ""),
            timezone.localtime(one.made_at).date(),
        )
        for one in rows
    }
    names = (
        "product__cut__key",
        "product__name",
        "amount",
        "product__per",
        "effective_on",
        "version_id",
        "school",
        "cost",
        "from_test_number",
        "basis__tests",
    )
    every = Price.objects.all()
    if since is not None:
        every = every.filter(version__in=versions)
    prices = every.order_by("-version__number", "product__name").values_list(*names)
    for cut, name, amount, per, on, at, school, cost, test, tests in prices.iterator(2000):
        pooled = len(tests) if tests else None
        yield (cut, name, amount, per, on, *versions[at], school, cost, test, pooled)


def _percent(share: Any) -> Any:
    return None if share is None else round_half_up(share * HUNDRED, 1)


def as_csv(day: date) -> str:
    return csv_text(COLUMNS, rows(day))


def as_xlsx(day: date) -> IO[bytes]:
    """Today's prices, and the history of a year; all of it is in the history's CSV."""
    past = history_rows(day - timedelta(days=365))
    return xlsx_file([("prices", COLUMNS, rows(day)), ("history of a year", HISTORY, past)])


def history_lines() -> Any:
    """The whole history as lines of CSV, one at a time."""
    yield csv_text(HISTORY, [])
    for row in history_rows():
        yield csv_line(row)
