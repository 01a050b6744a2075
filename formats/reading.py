"""The cutting test document, version 1: from decoded JSON to a test.

See docs/formats/cutting-test.md. Reading checks everything and reports every fault with its
JSON path; unknown extra fields are kept and ignored.
"""

from __future__ import annotations

import uuid
from collections.abc import Mapping
from dataclasses import dataclass, field
from decimal import Decimal
from typing import Any

from cutting.errors import BadDocument, BadValue, Fault
from cutting.quantities import ZERO, Unit, UnitPrice, Weight, parse_decimal
from cutting.sheet.cutting_test import (
    CuttingTest,
    Output,
    Piece,
    Role,
    Weighing,
    same_name,
)

FORMAT = "mindful-tally.cutting-test"
VERSION = 1
LONGEST_NAME = 200
MOST_COUNT = 1_000_000


@dataclass(frozen=True, slots=True)
class Document:
    """A document that was read: the test, and what travels with it."""

    id: uuid.UUID
    currency: str
    test: CuttingTest
    record: Mapping[str, Any]


@dataclass
class Reader:
    """Reads fields and notes faults instead of stopping at the first one."""

    faults: list[Fault] = field(default_factory=list)
    keys: dict[str, tuple[str, str, str]] = field(default_factory=dict)

    def fault(self, path: str, wrong: str, right: str) -> None:
        """Note a fault, once: what lies inside something wrong is not told again, nor is something missing
        in which something is wrong."""
        around = {path, *(path[:i] for i, sign in enumerate(path) if sign in ".[")}
        inside = (f"{path}.", f"{path}[") if wrong == "is missing" else ()
        if not any(known.path in around or known.path.startswith(inside) for known in self.faults):
            self.faults.append(Fault(path, wrong, right))

    def object(self, value: Any, path: str) -> dict[str, Any]:
        if isinstance(value, dict):
            return value
        self.fault(path, what(value), 'an object in braces, {"…": …}, is right')
        return {}

    def list(self, value: Any, path: str) -> list[Any]:
        if isinstance(value, list):
            return value
        self.fault(path, what(value), "a list in square brackets is right")
        return []

    def text(self, holder: dict[str, Any], key: str, path: str, *, empty: bool = False) -> str:
        path = f"{path}.{key}"
        if key not in holder:
            self.fault(path, "is missing", "text in quotes is right")
            return ""
        return self.text_at(holder[key], path, empty=empty)

    def text_at(self, value: Any, path: str, *, empty: bool = False) -> str:
        """As `text`, of something that stands at `path` itself."""
        if not isinstance(value, str):
            self.fault(path, what(value), "text in quotes is right")
        elif not empty and not value.strip():
            self.fault(path, "is empty", "a name is right")
        elif len(value) > LONGEST_NAME:
            self.fault(path, f"{len(value)} characters", f"at most {LONGEST_NAME} are right")
        elif not value.isprintable():
            self.fault(path, f"{ascii(value)[:60]} has unprintable signs", "plain text is right")
        else:
            return value
        return ""

    def decimal(self, holder: dict[str, Any], key: str, path: str, least: str) -> Decimal | None:
        """A decimal that is 'above 0' or '0 or more'."""
        path = f"{path}.{key}"
        if key not in holder:
            self.fault(path, "is missing", 'a plain decimal such as "6.17" is right')
            return None
        return self.number(holder[key], path, least)

    def number(self, text: Any, path: str, least: str) -> Decimal | None:
        """As `decimal`, of something that stands at `path` itself."""
        if not isinstance(text, str):
            self.fault(path, what(text), 'a plain decimal in quotes such as "6.17" is right')
            return None
        try:
            value = parse_decimal(text, path)
        except BadValue as bad:
            self.fault(bad.field, bad.wrong, bad.right)
            return None
        if value < 0 or (value == 0 and least == "above 0"):
            self.fault(path, f"{value} is too little", f"{least} is right")
            return None
        return value

    def unit(self, holder: dict[str, Any], key: str, path: str) -> Unit | None:
        value = holder.get(key)
        if isinstance(value, str) and value in Unit.__members__.values():
            return Unit(value)
        self.fault(f"{path}.{key}", what(value, key in holder), "g, kg, oz or lb is right")
        return None

    def weight(self, holder: dict[str, Any], key: str, path: str) -> Weight | None:
        """A required weight above 0 under `key`."""
        path = f"{path}.{key}"
        if key not in holder:
            self.fault(path, "is missing", 'a weight such as {"value": "6.17", "unit": "lb"}')
            return None
        inner = self.object(holder[key], path)
        if not isinstance(holder[key], dict):
            return None
        value = self.decimal(inner, "value", path, "above 0")
        unit = self.unit(inner, "unit", path)
        return None if value is None or unit is None else Weight(value, unit)

    def price(
        self, holder: dict[str, Any], key: str, path: str, least: str = "above 0"
    ) -> UnitPrice | None:
        path = f"{path}.{key}"
        if key not in holder:
            self.fault(path, "is missing", 'a price such as {"amount": "7.49", "per": "lb"}')
            return None
        inner = self.object(holder[key], path)
        if not isinstance(holder[key], dict):
            return None
        amount = self.decimal(inner, "amount", path, least)
        per = self.unit(inner, "per", path)
        return None if amount is None or per is None else UnitPrice(amount, per)

    def flag(self, holder: dict[str, Any], key: str, path: str) -> bool:
        value = holder.get(key, False)
        if not isinstance(value, bool):
            self.fault(f"{path}.{key}", what(value), "true or false is right")
            return False
        return value


def check_head(read: Reader, top: dict[str, Any], name: str, version: int) -> None:
    """Format and version, without which nothing else is read; and the currency."""
    for key, right in (("format", name), ("version", version)):
        value = top.get(key)
        if value != right or isinstance(value, bool) or type(value) is not type(right):
            told = f'"{right}" is right' if isinstance(right, str) else f"{right} is right"
            read.fault(f"$.{key}", what(value, key in top), told)
            raise BadDocument(tuple(read.faults))
    currency = top.get("currency")
    if not (
        isinstance(currency, str)
        and len(currency) == 3
        and currency.isascii()
        and currency.isalpha()
        and currency.isupper()
    ):
        read.fault("$.currency", what(currency, "currency" in top), 'three capitals, "USD"')


def read_document(data: Any) -> Document:
    """A document from decoded JSON. Raises BadDocument with every fault found.

    A weighing whose `key` was already read counts once; the same key with another weight is
    a fault.
    """
    read = Reader()
    top = read.object(data, "$")
    if not isinstance(data, dict):
        raise BadDocument(tuple(read.faults))
    if top.get("format") != FORMAT:
        read.fault("$.format", what(top.get("format"), "format" in top), f'"{FORMAT}" is right')
        raise BadDocument(tuple(read.faults))
    version = top.get("version")
    if version != VERSION or isinstance(version, bool) or not isinstance(version, int):
        read.fault("$.version", what(version, "version" in top), f"{VERSION} is right")
        raise BadDocument(tuple(read.faults))
    identity = _identity(read, top)
    currency = top.get("currency")
    if not (
        isinstance(currency, str)
        and len(currency) == 3
        and currency.isascii()
        and currency.isalpha()
        and currency.isupper()
    ):
        read.fault("$.currency", what(currency, "currency" in top), 'three capitals, "USD"')
        currency = ""
    piece = _piece(read, top)
    division = read.weight(top, "scale_division", "$")
    sawn = read.flag(top, "sawn", "$")
    outputs = _outputs(read, top)
    rate = None
    if "labour_rate_per_hour" in top:
        rate = read.decimal(top, "labour_rate_per_hour", "$", "above 0")
    record = read.object(top.get("record", {}), "$.record")
    if read.faults or piece is None or division is None or identity is None:
        raise BadDocument(tuple(read.faults))
    return Document(identity, currency, CuttingTest(piece, division, outputs, sawn, rate), record)


def _identity(read: Reader, top: dict[str, Any]) -> uuid.UUID | None:
    value = top.get("id")
    try:
        if isinstance(value, str) and len(value) == 36:
            return uuid.UUID(value)
    except ValueError:
        pass
    read.fault("$.id", what(value, "id" in top), "a UUID of 36 characters is right")
    return None


def _piece(read: Reader, top: dict[str, Any]) -> Piece | None:
    path = "$.piece"
    if "piece" not in top:
        read.fault(path, "is missing", "the piece that was opened is right")
        return None
    if not isinstance(top["piece"], dict):
        read.object(top["piece"], path)
        return None
    holder = top["piece"]
    name = read.text(holder, "name", path)
    species = read.text(holder, "species", path)
    number = read.text(holder, "item_number", path, empty=True)
    weight = read.weight(holder, "weight", path)
    opened = read.weight(holder, "opened_weight", path) if "opened_weight" in holder else None
    price = read.price(holder, "price", path)
    extras = {
        key: read.decimal(holder, key, path, "0 or more") or ZERO if key in holder else ZERO
        for key in ("freight", "discount")
    }
    if weight is None or price is None:
        return None
    try:
        return Piece(weight, price, name, species, number, opened, **extras)
    except BadValue as bad:
        read.fault(f"{path}.{bad.field}", bad.wrong, bad.right)
        return None


def _outputs(read: Reader, top: dict[str, Any]) -> tuple[Output, ...]:
    if "outputs" not in top:
        read.fault("$.outputs", "is missing", "a list of outputs is right")
        return ()
    outputs: list[Output] = []
    seen: dict[str, str] = {}
    for i, entry in enumerate(read.list(top["outputs"], "$.outputs")):
        path = f"$.outputs[{i}]"
        holder = read.object(entry, path)
        if not isinstance(entry, dict):
            continue
        output = _output(read, holder, path)
        if output is None:
            continue
        same = same_name(output.name)
        if same in seen:
            read.fault(
                f"{path}.name",
                f"{ascii(output.name)[:60]} is already the name of {seen[same]}",
                "each output once is right",
            )
        else:
            seen[same] = path
            outputs.append(output)
    return tuple(outputs)


def _output(read: Reader, holder: dict[str, Any], path: str) -> Output | None:
    before = len(read.faults)
    name = read.text(holder, "name", path)
    role = holder.get("role")
    if not (isinstance(role, str) and role in Role.__members__.values()):
        read.fault(
            f"{path}.role",
            what(role, "role" in holder),
            "main, secondary, credit, discard or purge is right",
        )
    weighings = _weighings(read, holder, path)
    count = holder.get("count")
    if "count" in holder and (
        not isinstance(count, int) or isinstance(count, bool) or not 1 <= count <= MOST_COUNT
    ):
        read.fault(f"{path}.count", what(count), f"a whole number from 1 to {MOST_COUNT} is right")
    target = read.weight(holder, "target", path) if "target" in holder else None
    prices = {
        key: read.price(holder, key, path, "0 or more" if key == "credit" else "above 0")
        for key in ("retail", "credit", "replacement")
        if key in holder
    }
    in_case = read.flag(holder, "in_case", path)
    minutes = read.decimal(holder, "minutes", path, "0 or more") if "minutes" in holder else None
    if len(read.faults) > before or not isinstance(role, str):
        return None
    return Output(
        name, Role(role), weighings, count, target, in_case=in_case, minutes=minutes, **prices
    )


def _weighings(read: Reader, holder: dict[str, Any], path: str) -> tuple[Weighing, ...]:
    path = f"{path}.weighings"
    if "weighings" not in holder:
        read.fault(path, "is missing", "a list of weighings, empty if there are none, is right")
        return ()
    found = []
    for i, entry in enumerate(read.list(holder["weighings"], path)):
        here = f"{path}[{i}]"
        inner = read.object(entry, here)
        if not isinstance(entry, dict):
            continue
        value = read.decimal(inner, "value", here, "above 0")
        unit = read.unit(inner, "unit", here)
        division = read.weight(inner, "division", here) if "division" in inner else None
        readings = inner.get("readings", 1)
        if type(readings) is not int or readings not in (1, 2):
            read.fault(f"{here}.readings", f"{readings!r:.40} is no count", "1 or 2 is right")
            continue
        if value is None or unit is None or (not _first_time(read, inner, here, path)):
            continue
        found.append(Weighing(Weight(value, unit), division, readings))
    return tuple(found)


def _first_time(read: Reader, inner: dict[str, Any], here: str, pile: str) -> bool:
    """False for a repeat of a weighing that was already read, by its key."""
    if "key" not in inner:
        return True
    key = read.text(inner, "key", here)
    if not key:
        return False
    now = (str(inner["value"]), str(inner["unit"]), pile)
    known = read.keys.setdefault(key, now)
    if known is now:
        return True
    if known != now:
        read.fault(
            f"{here}.key",
            f"{ascii(key)[:60]} already names another weighing, {known[0]} {known[1]}",
            "a key of its own is right",
        )
    return False


def what(value: Any, there: bool = True) -> str:
    """The offending value in a few words, on one line, safe to print."""
    if not there:
        return "is missing"
    if value is None:
        return "null"
    if isinstance(value, bool):
        return "true" if value else "false"
    if isinstance(value, str):
        return _cut(ascii(value)) + " is not right here"
    if isinstance(value, int | float):
        return _cut(repr(value)) + " is not right here" if abs(value) < 1e30 else "a huge number"
    return "a list" if isinstance(value, list) else "an object"


def _cut(text: str, most: int = 60) -> str:
    return text if len(text) <= most else text[: most - 1] + "…"
