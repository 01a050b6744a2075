"""What `label` reads and prints: a tray with its words, numbers and codes. See docs/formats/label.md."""

from __future__ import annotations

from collections.abc import Callable
from datetime import date
from decimal import Decimal
from typing import Any

from cutting.errors import BadDocument, BadValue
from cutting.labels.codes import NONE, StoreCode, country_number, gtin_14, short_text
from cutting.labels.tray_label import (
    Product,
    TrayLabel,
    label_codes,
    label_text,
    net_weight,
    price_of_pack,
    total_price,
)
from cutting.quantities import Weight
from formats.reading import Reader, check_head, what
from formats.result import plain

FORMAT, VERSION = "mindful-tally.label", 1
ITEM_DIGITS = 5
MOST_INGREDIENTS = 60


def read_label(data: Any) -> TrayLabel:
    """Raises BadDocument with every fault found."""
    read = Reader()
    top = read.object(data, "$")
    check_head(read, top, FORMAT, VERSION)
    product = _product(read, top)
    gross = read.weight(top, "gross", "$")
    tare = _tare(read, top)
    division = read.weight(top, "division", "$")
    packed_on, sell_by = _day(read, top, "packed_on"), _day(read, top, "sell_by")
    if packed_on is not None and sell_by is not None and sell_by < packed_on:
        read.fault("$.sell_by", f"{sell_by} is before {packed_on}", "that day or later is right")
    shop = read.object(top["shop"], "$.shop") if "shop" in top else {}
    name, place = (read.text(shop, key, "$.shop") if shop else "" for key in ("name", "place"))
    lot, serial = (_checked(read, top, key, _short) for key in ("lot", "serial"))
    country = _checked(read, top, "country", country_number)
    claim = read.text(top, "origin_claim", "$") if "origin_claim" in top else ""
    tenderized, frozen = (read.flag(top, key, "$") for key in ("tenderized", "frozen_before"))
    ingredients = _names(read, top, "ingredients")
    allergens = _names(read, top, "allergens")
    origin, nutrition = (
        read.text(top, key, "$") if key in top else "" for key in ("origin", "nutrition")
    )
    fixed = read.decimal(top, "fixed_total", "$", "above 0") if "fixed_total" in top else None
    code, link = _store_code(read, top, product), _link(read, top)
    if gross is not None and tare is not None and division is not None:
        _try(read, lambda: net_weight(gross, tare, division))
    if read.faults or not (product and gross and tare and division and packed_on and sell_by):
        raise BadDocument(tuple(read.faults))
    if fixed is None:
        _try(read, lambda: total_price(product.price, net_weight(gross, tare, division)))
    else:
        _fixed(read, fixed, product, net_weight(gross, tare, division))
    label = TrayLabel(
        product,
        gross,
        tare,
        division,
        packed_on,
        sell_by,
        name,
        place,
        lot,
        serial,
        country,
        claim,
        tenderized,
        ingredients,
        frozen,
        code,
        link,
        allergens,
        origin,
        nutrition,
        fixed,
        str(top["currency"]),
    )
    if not read.faults:
        _try(read, lambda: label_codes(label))
    if read.faults:
        raise BadDocument(tuple(read.faults))
    return label


def _short(text: str) -> str:
    return short_text(text, "text")


def _try(read: Reader, work: Callable[[], object]) -> None:
    try:
        work()
    except BadValue as bad:
        path = "$.gross" if bad.field == "net" else f"$.{bad.field}"
        read.fault(path, bad.wrong, bad.right)


def _product(read: Reader, top: dict[str, Any]) -> Product | None:
    path = "$.product"
    if not isinstance(top.get("product"), dict):
        read.fault(path, what(top.get("product"), "product" in top), "an object is right")
        return None
    row, before = top["product"], len(read.faults)
    name, species = read.text(row, "name", path), read.text(row, "species", path)
    muscle = read.text(row, "muscle", path) if "muscle" in row else ""
    price = read.price(row, "price", path)
    gtin = read.text(row, "gtin", path) if "gtin" in row else ""
    item = read.text(row, "item", path) if "item" in row else ""
    if not gtin and not item and len(read.faults) == before:
        read.fault(f"{path}.item", "is missing", "a gtin, or an item of five digits, is right")
    if gtin:
        try:
            gtin_14(gtin)
        except BadValue as bad:
            read.fault(f"{path}.gtin", bad.wrong, bad.right)
    if item and not (item.isascii() and item.isdecimal() and len(item) == ITEM_DIGITS):
        read.fault(f"{path}.item", what(item), "five digits are right")
    if len(read.faults) > before or price is None:
        return None
    return Product(name, species, price, muscle, gtin, item)


def _tare(read: Reader, top: dict[str, Any]) -> Weight | None:
    """It may be 0."""
    path = "$.tare"
    if not isinstance(top.get("tare"), dict):
        read.fault(path, what(top.get("tare"), "tare" in top), 'a weight, "0" for none, is right')
        return None
    value = read.decimal(top["tare"], "value", path, "0 or more")
    unit = read.unit(top["tare"], "unit", path)
    return None if value is None or unit is None else Weight(value, unit)


def _day(read: Reader, top: dict[str, Any], key: str) -> date | None:
    value = top.get(key)
    try:
        if isinstance(value, str) and len(value) == len("2026-11-26"):
            return date.fromisoformat(value)
    except ValueError:
        pass
    read.fault(f"$.{key}", what(value, key in top), 'a day such as "2026-11-26" is right')
    return None


def _checked(read: Reader, top: dict[str, Any], key: str, check: Callable[[str], object]) -> str:
    if key not in top:
        return ""
    text = read.text(top, key, "$")
    try:
        if text:
            check(text)
    except BadValue as bad:
        read.fault(f"$.{key}", bad.wrong, bad.right)
    return text


def _fixed(read: Reader, total: Decimal, product: Product, net: Weight) -> None:
    """The unit price of a pack with a fixed total is the one that follows from it."""
    try:
        right = price_of_pack(total, net, product.price.per)
    except BadValue as bad:
        read.fault("$.fixed_total", bad.wrong, bad.right)
        return
    if right.amount != product.price.amount:
        path, wrong = (
            "$.product.price.amount",
            f"{product.price.amount:f} is not {total:f} for {net}",
        )
        read.fault(path, wrong, f'"{right.amount:f}" is right')


def _names(read: Reader, top: dict[str, Any], key: str) -> tuple[str, ...]:
    """A list of texts; a fault in one of them is told at its place."""
    if key not in top:
        return ()
    path = f"$.{key}"
    rows = read.list(top[key], path)
    if len(rows) > MOST_INGREDIENTS:
        read.fault(path, f"{len(rows)} of them", f"at most {MOST_INGREDIENTS} are right")
        return ()
    return tuple(read.text_at(row, f"{path}[{i}]") for i, row in enumerate(rows))


def _store_code(read: Reader, top: dict[str, Any], product: Product | None) -> StoreCode | None:
    if "store_code" not in top:
        return None
    value, path = top["store_code"], "$.store_code"
    if not (isinstance(value, str) and value in StoreCode.__members__.values()):
        read.fault(path, what(value), f"{', '.join(StoreCode.__members__.values())}: one is right")
        return None
    if product is not None and not product.item:
        read.fault(path, "needs the product's item", "five digits of the store's own are right")
    return StoreCode(value)


def _link(read: Reader, top: dict[str, Any]) -> str:
    if "link" not in top:
        return ""
    text = read.text(top, "link", "$")
    is_right = text.startswith("https://") and text.isascii() and not set(text) & set(' ?#"<>\\')
    if text and not (is_right and len(text) > len("https://")):
        read.fault("$.link", what(text), 'an address such as "https://shop.example" is right')
    return text


def write_label(label: TrayLabel) -> dict[str, Any]:
    """What `label` prints."""
    keys = {"gs1": "element", "qr": "text", NONE: "why"}
    return {
        "net": {"value": plain(label.net.value), "unit": label.net.unit.value},
        "total": _money(label.total),
        "text": label_text(label),
        "codes": [
            {"kind": one.kind, keys.get(one.kind, "digits"): one.content}
            for one in label_codes(label)
        ],
    }


def _money(amount: Decimal) -> str:
    return f"{amount:.2f}"
