"""A till's file as rows that can be kept, or every fault in it."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date
from decimal import Decimal

from cutting.errors import BadValue
from cutting.quantities import Unit, Weight, parse_decimal, storable, storable_money
from cutting.sheet.cutting_test import same_name
from rooms.common.errors import BadInput
from rooms.common.tables.files import Row, as_record, headed
from rooms.common.web.forms import tidy
from rooms.pricebook.models import Product

COLUMNS = {name: name for name in ("product", "day", "hour", "weight", "unit", "money")}
NEEDED = ("product", "day", "weight")
MOST_TOLD = 6


@dataclass(frozen=True)
class TillRow:
    """One row; the weight in the product's unit."""

    product: Product
    day: date
    hour: int | None
    weight: Decimal
    money: Decimal | None

    @property
    def key(self) -> tuple[int, date, int | None]:
        return self.product.pk, self.day, self.hour


@dataclass(frozen=True)
class TillFile:
    rows: tuple[TillRow, ...]
    unknown: tuple[str, ...]
    """Products the shop has not."""


def read_till(rows: Sequence[Row], products: Mapping[str, Product], today: date) -> TillFile:
    """`products` by their folded name. Raises BadInput with the faults."""
    if not rows:
        raise BadInput("File: it is empty; a row of headings and one for each product are right.")
    heads = headed(rows[0][1], COLUMNS)
    missing = [name for name in NEEDED if name not in heads]
    if missing:
        raise BadInput(f"File: no column {', '.join(missing)}; {', '.join(COLUMNS)} are right.")
    found: list[TillRow] = []
    faults, unknown = [], []
    seen: dict[tuple[int, date, int | None], str] = {}
    for where, cells in rows[1:]:
        record = as_record(heads, cells)
        product = products.get(same_name(record.get("product", "")))
        if product is None:
            unknown.append(record.get("product", "no name"))
            continue
        try:
            row = _row(record, product, today)
        except BadValue as bad:
            faults.append(f"{where}, {bad}")
            continue
        if row.key in seen:
            faults.append(f"{where}, {product} on {row.day}: it stands in {seen[row.key]} already")
        seen[row.key] = where
        found.append(row)
    if faults:
        more = f" And {len(faults) - MOST_TOLD} more." if len(faults) > MOST_TOLD else ""
        raise BadInput(f"File: {'; '.join(faults[:MOST_TOLD])}.{more}")
    return TillFile(tuple(found), tuple(dict.fromkeys(unknown)))


def _row(record: Mapping[str, str], product: Product, today: date) -> TillRow:
    text = record.get("day", "")
    try:
        day = date.fromisoformat(text)
    except ValueError:
        raise BadValue("day", f"“{text}”", "a day like 2026-11-20 is right") from None
    if day > today:
        raise BadValue("day", f"{day}", "today or before is right")
    hour = record.get("hour")
    if hour is not None and not (hour.isascii() and hour.isdecimal() and int(hour[:4]) < 24):
        raise BadValue("hour", f"“{hour}”", "0 to 23 is right")
    unit = record.get("unit", product.per)
    if unit not in ("lb", "kg", "oz", "g"):
        raise BadValue("unit", f"“{unit}”", "lb or kg is right")
    weight = Weight(parse_decimal(tidy(record.get("weight", "")), "weight"), Unit(unit))
    if weight.value < 0:
        raise BadValue("weight", f"{weight}", "0 or more is right")
    money = parse_decimal(tidy(record["money"]), "money") if "money" in record else None
    own = weight.value if unit == product.per else storable(weight, Unit(product.per)).value
    kept = None if money is None else storable_money(money)
    return TillRow(product, day, None if hour is None else int(hour), own, kept)
