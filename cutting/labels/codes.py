"""Digits of the codes on a label: check digits, store-internal numbers, GS1 element strings and links.

GS1 General Specifications: check digit (7.9.1), price check digit (7.9.2, 7.9.4), application identifiers 01, 10, 13,
16, 21, 310n, 320n, 422; GS1 Digital Link. Values from memory; held against biip and python-stdnum in the tests.
"""

from __future__ import annotations

import re
import tomllib
from dataclasses import dataclass
from datetime import date
from decimal import Decimal
from enum import StrEnum
from functools import lru_cache
from pathlib import Path
from urllib.parse import quote

from cutting.errors import BadValue
from cutting.quantities import HUNDRED, ZERO, Unit, Weight, round_half_up, working

GTIN_LENGTHS = (8, 12, 13, 14)
LONGEST_TEXT = 20
"""Characters of a lot or a serial number: application identifiers 10 and 21."""
SIGNS = frozenset(
    "!\"%&'()*+,-./0123456789:;<=>?ABCDEFGHIJKLMNOPQRSTUVWXYZ_abcdefghijklmnopqrstuvwxyz"
)
"""GS1's 82 characters."""
MOST_PRICE = Decimal("99.99")
"""That four digits of cents hold."""
MOST_GRAMS = 99_999
MOST_DIGITS = 6
"""Of a weight in an element string."""


class StoreCode(StrEnum):
    """Store-internal numbers, for the shop's own register."""

    PRICE_12 = "price_12"
    PRICE_13 = "price_13"
    WEIGHT_13 = "weight_13"


def check_digit(digits: str) -> str:
    """The last digit of a GTIN, an EAN or a UPC: weights 3 and 1 from the right, modulo 10."""
    total = sum(int(one) * (1 if at % 2 else 3) for at, one in enumerate(reversed(digits)))
    return str(-total % 10)


_TWO_MINUS = "0246891357"
_THREE = "0369258147"
_FIVE_MINUS = "0594837261"


def price_check_digit(price: str) -> str:
    """Of a price field of four digits: weights 2-, 2-, 3, 5-, the sum times 3. Raises BadValue for
    another field."""
    if len(price) != 4 or not (price.isascii() and price.isdecimal()):
        raise BadValue("price field", price, "four digits are right")
    tables = (_TWO_MINUS, _TWO_MINUS, _THREE, _FIVE_MINUS)
    total = sum(int(table[int(one)]) for table, one in zip(tables, price, strict=True))
    return str(total * 3 % 10)


def gtin_14(text: str) -> str:
    """A GTIN filled with zeros to 14 digits. Raises BadValue for a wrong length or check digit."""
    if not (text.isascii() and text.isdecimal() and len(text) in GTIN_LENGTHS):
        lengths = ", ".join(map(str, GTIN_LENGTHS))
        raise BadValue("gtin", f"{text[:20]!a}", f"{lengths} digits are right")
    right = check_digit(text[:-1])
    if text[-1] != right:
        raise BadValue("gtin", f"{text} ends in {text[-1]}", f"{right} as its check digit is right")
    return text.zfill(14)


@dataclass(frozen=True, slots=True)
class Code:
    """`kind` with what it holds: digits, an element string or a text; for `none` why there is none."""

    kind: str
    content: str


NONE = "none"


def store_code(which: StoreCode, item: str, total: Decimal, net: Weight) -> Code:
    """The store-internal number of a tray; of kind `none` where it cannot hold the price or weight."""
    if which is StoreCode.WEIGHT_13:
        grams = int(round_half_up(net.to(Unit.G), 0))
        if grams > MOST_GRAMS:
            return Code(NONE, f"{grams} g are more than its five digits hold")
        body = f"20{item}{grams:05d}"
        return Code("ean13", body + check_digit(body))
    if total > MOST_PRICE:
        return Code(NONE, f"{total:f} is more than its four digits of price hold")
    cents = f"{int(total * HUNDRED):04d}"
    start = "2" if which is StoreCode.PRICE_12 else "20"
    body = f"{start}{item}{price_check_digit(cents)}{cents}"
    return Code("upc12" if which is StoreCode.PRICE_12 else "ean13", body + check_digit(body))


@dataclass(frozen=True, slots=True)
class Traced:
    """What an element string and a link tell of a tray. `division`: of the scale, for the decimals."""

    gtin: str
    net: Weight
    division: Weight
    packed_on: date
    sell_by: date
    country: str = ""
    lot: str = ""
    serial: str = ""


def weight_element(net: Weight, division: Weight) -> tuple[str, str]:
    """Application identifier and six digits: 320n in lb for lb and oz, 310n in kg for kg and g, n the
    decimals of the division where it is in lb or kg, else 3. Raises BadValue where it does not fit."""
    pounds = net.unit in (Unit.LB, Unit.OZ)
    unit = Unit.LB if pounds else Unit.KG
    places = 3
    if division.unit in (Unit.LB, Unit.KG):
        exponent = division.value.normalize().as_tuple().exponent
        places = max(-exponent, 0) if isinstance(exponent, int) else 3
    with working():
        shown = round_half_up(net.to(unit), places)
        digits = int(shown.scaleb(places))
    if len(str(digits)) > MOST_DIGITS or places > 5:
        right = f"at most {MOST_DIGITS} digits are right"
        raise BadValue("net", f"{shown:f} {unit.value} with {places} decimals", right)
    return f"{320 if pounds else 310}{places}", f"{digits:0{MOST_DIGITS}d}"


def elements(tray: Traced) -> list[tuple[str, str]]:
    """(identifier, content) in their order: 01, 310n or 320n, 13, 16, 422, 10, 21. Raises BadValue."""
    found = [
        ("01", gtin_14(tray.gtin)),
        weight_element(tray.net, tray.division),
        ("13", f"{tray.packed_on:%y%m%d}"),
        ("16", f"{tray.sell_by:%y%m%d}"),
    ]
    if tray.country:
        found.append(("422", country_number(tray.country)))
    for identifier, text in (("10", tray.lot), ("21", tray.serial)):
        if text:
            found.append((identifier, short_text(text, identifier)))
    return found


def element_string(tray: Traced) -> str:
    """“(01)…(3202)…(13)…”."""
    return "".join(f"({identifier}){content}" for identifier, content in elements(tray))


SHORT_SET = re.compile(r"01|3[12]0[0-9]|16|21")
"""Identifiers that DataBar Expanded carries on a tray; the rest is left to the QR."""


def short_elements(tray: Traced) -> tuple[str, list[str]]:
    """The element string of the short set, and the identifiers that are left to the QR."""
    own = [one for one in elements(tray) if SHORT_SET.fullmatch(one[0])]
    left = [one[0] for one in elements(tray) if one not in own]
    return "".join(f"({identifier}){content}" for identifier, content in own), left


def case_elements(gtin: str, net: Weight, packed_on: date, lot: str, number: str) -> str:
    """GS1-128 of a case: 01, 310n or 320n to a hundredth, 13, 10 where it has one, 21. Raises BadValue."""
    weight, digits = weight_element(net, Weight(Decimal("0.01"), net.unit))
    lot_part = f"(10){short_text(lot, 'lot')}" if lot else ""
    start = f"(01){gtin_14(gtin)}({weight}){digits}(13){packed_on:%y%m%d}{lot_part}"
    return f"{start}(21){short_text(number, 'serial')}"


def short_text(text: str, field: str) -> str:
    """A lot or a serial number. Raises BadValue for signs that GS1 has not, or too many."""
    wrong = next((sign for sign in text if sign not in SIGNS), "")
    if wrong:
        raise BadValue(field, f"{text[:30]!a} has {wrong!a}", "GS1's 82 characters are right")
    if not 1 <= len(text) <= LONGEST_TEXT:
        raise BadValue(field, f"{len(text)} characters", f"1 to {LONGEST_TEXT} are right")
    return text


def digital_link(address: str, tray: Traced) -> str:
    """“https://…/01/…/10/…/21/…?3202=…&13=…&16=…”: GS1 Digital Link. Raises BadValue."""
    own = dict(elements(tray))
    path = "".join(
        f"/{identifier}/{quote(own[identifier], safe='')}"
        for identifier in ("01", "10", "21")
        if identifier in own
    )
    weight, digits = weight_element(tray.net, tray.division)
    return f"{address.rstrip('/')}{path}?{weight}={digits}&13={own['13']}&16={own['16']}"


@lru_cache
def _countries() -> dict[str, str]:
    text = (Path(__file__).parents[1] / "data" / "countries.toml").read_text(encoding="utf-8")
    return {str(key): str(value) for key, value in tomllib.loads(text)["numeric"].items()}


def country_number(letters: str) -> str:
    """The three digits of ISO 3166-1 for its two letters. Raises BadValue for others."""
    found = _countries().get(letters)
    if found is None:
        raise BadValue("country", f"{letters[:20]!a}", 'two letters such as "US" are right')
    return found


def on_division(weight: Weight, division: Weight) -> bool:
    """Whether a scale of this division can show it."""
    with working():
        return weight.to(division.unit) % division.value == ZERO
