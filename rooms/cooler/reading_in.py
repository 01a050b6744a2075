"""Catch weights from a hand, a paste, a CSV or a spreadsheet, as rows of text; and rows as bags.

A first row of names is understood in any order; without one the first column is the weight.
A row that is a GS1 element string is a case label.
"""

import csv
import io
import re
from collections.abc import Iterable
from dataclasses import dataclass
from datetime import date, datetime
from decimal import Decimal

from cutting.errors import BadValue
from cutting.quantities import parse_decimal
from rooms.catalog.models import Piece, fold
from rooms.common import tables
from rooms.common.errors import BadInput
from rooms.common.forms import tidy
from rooms.cooler.actions.receive import NewBag
from rooms.cooler.models import ProductCode, Seal
from rooms.cooler.scanning import SEPARATOR, scan

MOST_ROWS = tables.MOST_ROWS
DECIMAL_COMMA = re.compile(r"\s*[0-9]+,[0-9]{1,3}(\s*(lb|kg))?\s*")
"""A weight as much of the world writes it: 6,17 alone on its line is no weight 6 of lot 17."""
NAMES = {
    "weight": ("weight", "net weight", "net", "catch weight", "lb", "kg"),
    "unit": ("unit", "uom"),
    "lot": ("lot", "lot number", "batch"),
    "serial": ("serial", "serial number", "case id", "case"),
    "gtin": ("gtin", "code", "product code"),
    "piece": ("piece", "item", "item number", "product"),
    "packed_on": ("packed on", "packed", "pack date", "production date"),
    "use_by": ("use by", "best before", "expiry"),
    "price": ("price", "unit price"),
    "grade": ("grade",),
    "country": ("country", "origin"),
    "pieces_inside": ("pieces", "count", "pieces inside"),
    "label": ("label", "scan", "gs1"),
}
COLUMN = {name: column for column, names in NAMES.items() for name in names}


@dataclass(frozen=True)
class Usual:
    """What holds for every row that does not say otherwise."""

    piece: Piece | None = None
    unit: str = "lb"
    packed_on: date | None = None
    price: Decimal | None = None
    country: str = ""
    grade: str = ""
    seal: str = Seal.TIGHT
    was_frozen: bool = False
    pieces_inside: int = 1


Row = tuple[str, dict[str, str]]
"""Where it stood, and its cells by column."""


def rows_of_text(text: str) -> list[Row]:
    """Pasted lines or a CSV. Commas, semicolons or tabs between cells."""
    # Not splitlines: it would break a label at its group separators.
    parts = text.replace("\r\n", "\n").replace("\r", "\n").split("\n")
    lines = [(f"row {i}", line) for i, line in enumerate(parts, start=1) if line.strip()]
    if not lines:
        return []
    labels = [(where, {"label": line}) for where, line in lines if _is_label(line)]
    lines = [(where, line) for where, line in lines if not _is_label(line)]
    if not lines:
        return labels
    sample = "\n".join(line for _, line in lines)
    mark = next((mark for mark in "\t;" if mark in sample), ",")
    if mark == "," and all(DECIMAL_COMMA.fullmatch(line) for _, line in lines):
        return labels + [(where, {"weight": line.strip()}) for where, line in lines]
    try:
        cells = list(csv.reader(io.StringIO(sample), delimiter=mark, strict=True))
    except csv.Error as wrong:
        raise BadInput(f"File: it is no table: {wrong}.") from wrong
    return labels + _named([(at, row) for (at, _), row in zip(lines, cells, strict=False)])


def rows_of_sheet(raw: bytes) -> list[Row]:
    """The first sheet of an XLSX file."""
    return _named(tables.rows_of_sheet(raw))


def _is_label(line: str) -> bool:
    text = line.strip()
    if text.startswith(("]", "(0", "(1", SEPARATOR)) or SEPARATOR in text:
        return True
    return len(text) >= 16 and text[:2] in ("01", "02") and text[2:16].isdigit()


def _named(rows: list[tuple[str, list[str]]]) -> list[Row]:
    if len(rows) > MOST_ROWS + 1:
        raise BadInput(f"File: {len(rows):,} rows; at most {MOST_ROWS:,} are right.")
    if not rows:
        return []
    heads = [COLUMN.get(" ".join(fold(cell).split())) for cell in rows[0][1]]
    if "weight" in heads or "label" in heads:
        if (unit := _unit_of_head(rows[0][1])) and "unit" not in heads:
            return [(where, {"unit": unit} | _cells(heads, cells)) for where, cells in rows[1:]]
        return [(where, _cells(heads, cells)) for where, cells in rows[1:]]
    heads = ["weight", "lot", "serial", "packed_on"]
    return [(where, _cells(heads, cells)) for where, cells in rows]


def _unit_of_head(cells: list[str]) -> str:
    return next((fold(cell) for cell in cells if fold(cell) in ("lb", "kg")), "")


def _cells(heads: list, cells: list[str]) -> dict[str, str]:
    return {head: cell.strip() for head, cell in zip(heads, cells, strict=False)
            if head and cell.strip()}  # fmt: skip


# --- rows as bags ---------------------------------------------------------------------------


@dataclass(frozen=True)
class Known:
    """Pieces by key, number and every name, and by product code: two queries."""

    by_name: dict[str, Piece]
    by_code: dict[str, Piece]

    @classmethod
    def now(cls) -> "Known":
        by_name: dict[str, Piece] = {}
        for piece in Piece.objects.all():
            for name in (piece.key, *piece.found_by()):
                if name:
                    by_name.setdefault(fold(name), piece)
        codes = ProductCode.objects.exclude(piece=None).select_related("piece")
        return cls(by_name, {code.gtin: code.piece for code in codes})


def bags(rows: Iterable[Row], usual: Usual) -> tuple[list[NewBag], list[tuple[str, str]]]:
    """The bags of the rows, and what is wrong by row. Two queries."""
    known = Known.now()
    found, wrong = [], []
    for where, cells in rows:
        try:
            found.append(_bag(where, cells, usual, known))
        except BadInput as bad:
            wrong.append((where, bad.message))
    return found, wrong


def _bag(where: str, cells: dict[str, str], usual: Usual, known: Known) -> NewBag:
    if "label" in cells:
        return _of_label(where, cells["label"], usual, known)
    weight, unit = _weight(cells, usual)
    gtin = cells.get("gtin", "")
    packed = _day(cells, "packed_on") or usual.packed_on
    if packed is None:
        raise BadInput("packed on: it is empty; a date such as 2026-11-03 is right")
    return NewBag(
        weight=weight, unit=unit, packed_on=packed, piece=_piece(cells, gtin, usual, known),
        gtin=gtin, serial=cells.get("serial", ""), lot=cells.get("lot", ""),
        grade=cells.get("grade", usual.grade), country=cells.get("country", usual.country),
        pieces_inside=_count(cells, usual), price=_number(cells, "price") or usual.price,
        price_per=unit, use_by=_day(cells, "use_by"), place=where, seal=usual.seal,
        was_frozen=usual.was_frozen,
    )  # fmt: skip


def _of_label(where: str, text: str, usual: Usual, known: Known) -> NewBag:
    seen = scan(text)
    if seen.weight is None:
        raise BadInput("Label: it has no net weight, (310n) or (320n); type the weight")
    packed = seen.packed_on or usual.packed_on
    if packed is None:
        raise BadInput("Label: it has no packing date (13); choose one for all above")
    piece = known.by_code.get(seen.gtin) or (None if seen.gtin else usual.piece)
    return NewBag(
        weight=seen.weight, unit=seen.unit, packed_on=packed, piece=piece, gtin=seen.gtin,
        serial=seen.serial, lot=seen.lot, grade=usual.grade, country=seen.country or usual.country,
        price=usual.price, price_per=seen.unit, use_by=seen.use_by, place=where, seal=usual.seal,
        pieces_inside=usual.pieces_inside,
        was_frozen=usual.was_frozen,
    )  # fmt: skip


def _weight(cells: dict[str, str], usual: Usual) -> tuple[Decimal, str]:
    text = cells.get("weight", "")
    unit = fold(cells.get("unit", "")) or usual.unit
    number, _, written = tidy(text).partition(" ")
    if not written:
        number = number.rstrip("lbkgLBKG")
        written = tidy(text)[len(number) :]
    unit = {"lbs": "lb", "kgs": "kg"}.get(fold(written), fold(written)) or unit
    return _decimal(number, "weight"), unit


def _decimal(text: str, name: str) -> Decimal:
    if text.count(",") == 1 and "." not in text:
        text = text.replace(",", ".")
    try:
        return parse_decimal(tidy(text), name)
    except BadValue:
        raise BadInput(f"{name}: “{text}” is not a plain number; 6.17 is right") from None


def _number(cells: dict[str, str], name: str) -> Decimal | None:
    return _decimal(cells[name].lstrip("$€£"), name) if name in cells else None


def _count(cells: dict[str, str], usual: Usual) -> int:
    text = cells.get("pieces_inside", str(usual.pieces_inside))
    if not (text.isascii() and text.isdecimal() and len(text) < 4):
        raise BadInput(f"pieces: “{text}”; a number such as 2 is right")
    return int(text)


def _day(cells: dict[str, str], name: str) -> date | None:
    text = cells.get(name, "")
    if not text:
        return None
    for form in ("%Y-%m-%d", "%y%m%d", "%d %b %Y", "%Y%m%d"):
        try:
            return datetime.strptime(text, form).date()  # noqa: DTZ007 (a calendar day)
        except ValueError:
            continue
    words = name.replace("_", " ")
    raise BadInput(f"{words}: “{text}” is no date; 2026-11-03 is right")


def _piece(cells: dict[str, str], gtin: str, usual: Usual, known: Known) -> Piece | None:
    name = cells.get("piece", "")
    if name:
        found = known.by_name.get(fold(name))
        if found is None:
            raise BadInput(
                f"piece: “{name}” is not in the catalog; a name or number of it is right"
            )
        return found
    return known.by_code.get(gtin) if gtin else usual.piece
