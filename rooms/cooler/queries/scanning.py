"""Case labels: GS1 element strings as scanners send them. The parsing is the library biip's."""

import re
from dataclasses import dataclass
from datetime import date
from decimal import Decimal
from typing import Any

from biip import ParseError
from biip.gs1_messages import GS1Message
from biip.symbology import SymbologyIdentifier

from rooms.common.errors import BadInput
from rooms.cooler.queries.codes import country_named

SEPARATOR = "\x1d"
UNREADABLE = (ParseError, ValueError, LookupError)
"""What the library raises for text that is no label; a lone "]" is an IndexError to it."""
WRITTEN_SEPARATORS = ("{GS}", "<GS>", "\u241d", "^]", "\\x1d", "\\u001d", "~d029")
"""How scanners and files spell the group separator, ASCII 29."""


@dataclass(frozen=True)
class Scanned:
    """What a case label says. What it does not say is empty."""

    gtin: str = ""
    weight: Decimal | None = None
    unit: str = ""
    packed_on: date | None = None
    use_by: date | None = None
    lot: str = ""
    serial: str = ""
    country: str = ""
    is_of_one_country: bool = False
    """Every step of its life in that country: (426)."""
    other: tuple[tuple[str, str], ...] = ()


def scan(text: str) -> Scanned:
    """The parts of one label. BadInput names the part that is wrong."""
    text = text.strip().strip("\r\n")
    for written in WRITTEN_SEPARATORS:
        text = text.replace(written, SEPARATOR)
    if not text.startswith("("):
        text = _without_prefix(text)
    try:
        found = GS1Message.parse_hri(text) if text.startswith("(") else GS1Message.parse(text)
    except UNREADABLE as wrong:
        raise BadInput(f"Label: “{_shown(text)}” cannot be read: {_plain(wrong)}") from None
    parts: dict[str, Any] = {"other": []}
    for element in found.element_strings:
        _take(parts, element)
    parts["other"] = tuple(parts["other"])
    return Scanned(**parts)


def _without_prefix(text: str) -> str:
    try:
        prefix = SymbologyIdentifier.extract(text)
    except UNREADABLE:
        return text.lstrip(SEPARATOR)
    return text[len(str(prefix.value)) :].lstrip(SEPARATOR)


PLAIN = {"10": "lot", "21": "serial"}
"""Application identifiers whose text is taken as it is."""
PACKED, USE_BY = ("13", "11"), ("17", "15")
"""Days, the one that wins first: packed, produced; use by, best before."""


def _take(parts: dict[str, Any], element: Any) -> None:
    ai, value = element.ai.ai, element.value
    if ai in ("01", "02"):
        if element.gtin_error or element.gtin is None:
            raise BadInput(f"Label: the check digit of {value} is wrong; scan the label again.")
        _put(parts, "gtin", value, ai)
    elif re.fullmatch(r"3[12]0[0-9]", ai):
        if element.decimal:
            _put(parts, "weight", element.decimal, ai)
            parts["unit"] = "kg" if ai.startswith("310") else "lb"
    elif ai in PACKED + USE_BY:
        _take_day(parts, ai, element)
    elif ai in PLAIN:
        _put(parts, PLAIN[ai], value, ai)
    elif ai in ("422", "426"):
        _put(parts, "country", country_named(value), ai)
        parts["is_of_one_country"] = ai == "426" or parts.get("is_of_one_country", False)
    else:
        parts["other"].append((ai, value))


def _take_day(parts: dict[str, Any], ai: str, element: Any) -> None:
    if element.date is None:
        raise BadInput(f"Label: {element.value} in ({ai}) is no date; YYMMDD is right.")
    name, order = ("packed_on", PACKED) if ai in PACKED else ("use_by", USE_BY)
    if ai == order[0] or name not in parts:
        parts[name] = element.date


def _put(parts: dict[str, Any], name: str, value: Any, ai: str) -> None:
    if name in parts and parts[name] != value:
        raise BadInput(f"Label: ({ai}) is there twice, {parts[name]} and {value}; scan one label.")
    parts[name] = value


def _shown(text: str) -> str:
    return text.replace(SEPARATOR, "␝")[:60]


def _plain(wrong: Exception) -> str:
    return re.sub(r"\s+", " ", str(wrong)).replace(SEPARATOR, "␝")[:160]
