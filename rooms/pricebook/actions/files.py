"""Prices read from a file: all or nothing."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from decimal import Decimal
from typing import Any

from cutting.errors import BadValue
from cutting.prices.margins import retail_price
from cutting.quantities import Unit, UnitPrice, parse_decimal, round_half_up, storable
from rooms.common.db.writing import write
from rooms.common.errors import BadInput, Refused
from rooms.common.tables.files import Row, as_record, csv_text, headed, rows_of
from rooms.common.web.forms import read_day, tidy
from rooms.common.words import fold
from rooms.pricebook.actions.prices import NewPrice, Origin, carried, set_prices
from rooms.pricebook.models import Price, Product, Version
from rooms.shop.queries.dates import said_moment
from rooms.shop.queries.money import bare_amount

COLUMNS = {
    "cut": "cut",
    "name": "name",
    "product": "name",
    "price": "price",
    "per": "per",
    "unit": "per",
    "version": "version",
}


@dataclass(frozen=True)
class FilePrice:
    """A price of a file. `version`: the number of the version that the file had it from; None where its
    row does not say."""

    where: str
    price: NewPrice
    version: int | None
    cells: dict[str, str]


class OlderRows(Refused):
    """Prices that somebody changed since the file was written. `rest`: the rows that are not among them, as
    a file."""

    def __init__(self, older: Sequence["RowFault"], rest: str) -> None:
        many = len(older)
        super().__init__(
            f"{many} price{'s were' if many > 1 else ' was'} changed since this file was written. Nothing"
            " was taken in."
        )
        self.older, self.rest = older, rest


@dataclass(frozen=True)
class RowFault:
    """What is wrong where: "row 4, price"."""

    where: str
    says: str


def read_prices(
    raw: bytes, digest: str, by_id: int | None, day: str = ""
) -> tuple[Version | None, list[RowFault]]:
    """A new version with the prices that differ; None when none does.

    Products are found by `cut` or by `name`. Columns that are not known are left alone; a row
    without a price is skipped. A price that stays keeps what it rests on. Raises OlderRows where the file
    says its version, and a price has a newer one.
    """
    effective = read_day(day, "From")
    table = rows_of(raw)
    if not table:
        raise BadInput("File: it is empty; a first row with cut or name, and price, is right.")
    heads = headed(table[0][1], COLUMNS)
    if "price" not in heads or not {"cut", "name"} & set(heads):
        raise BadInput("File, row 1: a column cut or name, and a column price, are right.")
    rows, faults = _read(table[1:], heads)
    if faults:
        return None, faults
    if not rows:
        raise BadInput("File: no row has a price.")
    prices = [row.price for row in rows]
    origin = Origin(
        by_id, kind=Version.Kind.FILE, why="from a file", effective_on=effective, digest=digest
    )
    with write():  # what a row is older than must not change before it is written
        holding = Price.objects.current(effective, products=[p.product.pk for p in prices])
        current = {price.product_id: price for price in holding.select_related("version")}
        _refuse_older(rows, current)
        changed = [
            carried(old, price.product, price.amount)
            for price in prices
            if (old := current.get(price.product.pk)) is None or old.amount != price.amount
        ]
        return set_prices(changed, origin) if changed else None, []


def _refuse_older(rows: Sequence[FilePrice], current: Mapping[int, Price]) -> None:
    older, rest = [], []
    for row in rows:
        now = current.get(row.price.product.pk)
        is_older = (
            now is not None
            and row.version is not None
            and now.version.number != row.version
            and now.amount != row.price.amount
        )
        if now is not None and is_older:
            by = f"{now.version} of {said_moment(now.version.made_at)}"
            words = f"{row.price.product}: {row.price.amount:f} in the file, {now.amount:f} by {by}"
            older.append(RowFault(row.where, words))
        else:
            rest.append(row)
    if older:
        heads = ("cut", "price", "per", "version")
        kept = [
            (row.price.product.cut.key, *(row.cells.get(name, "") for name in heads[1:]))
            for row in rest
        ]
        raise OlderRows(older, csv_text(heads, kept) if kept else "")


def _version(row: dict[str, str]) -> int | None:
    text = row.get("version", "")
    if not text:
        return None
    if not (text.isascii() and text.isdecimal() and len(text) < 10):
        raise BadValue("version", f"“{text[:20]}”", "the number as it was exported is right")
    return int(text)


def _read(table: Sequence[Row], heads: list[str]) -> tuple[list[FilePrice], list[RowFault]]:
    products = list(Product.objects.select_related("cut"))
    by_cut = {product.cut.key: product for product in products}
    by_name: dict[str, list[Product]] = {}
    for product in products:
        by_name.setdefault(fold(product.name), []).append(product)
    found: list[FilePrice] = []
    faults: list[RowFault] = []
    seen: dict[int, str] = {}
    for where, cells in table:
        row = as_record(heads, cells)
        if not row.get("price"):
            continue
        try:
            product = _product(row, by_cut, by_name)
            price = FilePrice(where, NewPrice(product, _amount(row, product)), _version(row), row)
        except BadValue as bad:
            faults.append(RowFault(f"{where}, {bad.field}", f"{bad.wrong}; {bad.right}"))
            continue
        if product.pk in seen:
            faults.append(
                RowFault(f"{where}, name", f"{product} stands in {seen[product.pk]} already")
            )
        seen[product.pk] = where
        found.append(price)
    return found, faults


def _product(row: dict[str, str], by_cut: dict[str, Any], by_name: dict[str, Any]) -> Product:
    key, name = row.get("cut", ""), row.get("name", "")
    if key:
        if key not in by_cut:
            raise BadValue("cut", f"“{key}” is no product of ours", "the key of one is right")
        return by_cut[key]
    same = by_name.get(fold(name), [])
    if len(same) != 1:
        wrong = f"“{name}” is no product of ours" if not same else f"“{name}” names several"
        raise BadValue("name", wrong, "a name of one, or its cut, is right")
    return same[0]


def _amount(row: dict[str, str], product: Product) -> Decimal:
    amount = parse_decimal(tidy(bare_amount(row["price"], "price")), "price")
    per = row.get("per") or product.per
    if per not in ("lb", "kg", "oz", "g"):
        raise BadValue("per", f"“{per}”", "lb or kg is right")
    if per == product.per:
        return retail_price(amount)
    converted = storable(UnitPrice(amount, Unit(per)), Unit(product.per)).amount
    return retail_price(round_half_up(converted))
