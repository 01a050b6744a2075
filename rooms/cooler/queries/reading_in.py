"""Catch weights from a hand, a paste, a CSV or a spreadsheet, as rows of text; and rows as bags.

A first row of names is understood in any order; without one the first column is the weight.
A row that is a GS1 element string is a case label.
"""

import re
from collections import Counter
from collections.abc import Iterable
from dataclasses import dataclass
from datetime import date, datetime
from decimal import Decimal

from cutting.errors import BadValue
from cutting.quantities import parse_decimal
from rooms.catalog.models import Piece
from rooms.common.errors import BadInput
from rooms.common.tables import files as tables
from rooms.common.web.forms import tidy
from rooms.common.words import fold
from rooms.cooler.models import ProductCode, Seal
from rooms.cooler.queries.codes import country_named, gtin_14, letters_of
from rooms.cooler.queries.new_bag import NewBag
from rooms.cooler.queries.scanning import SEPARATOR, Scanned, scan
from rooms.shop.queries.money import bare_amount

MOST_ROWS = tables.MOST_ROWS
DECIMAL_COMMA = re.compile(r"\s*[0-9]+,[0-9]{1,3}(\s*(lb|kg))?\s*")
"""A weight as much of the world writes it: 6,17 alone on its line is no weight 6 of lot 17."""
NAMES = {
    "weight": ("weight", "net weight", "net", "catch weight"),
    "lb": ("lb",),
    "kg": ("kg",),
    "unit": ("unit", "uom"),
    "lot": ("lot", "lot number", "batch"),
    "serial": ("serial", "serial number", "case id", "case"),
    "gtin": ("gtin", "code", "product code"),
    "piece": ("piece", "item", "item number", "product"),
    "packed_on": ("packed on", "packed", "pack date", "production date"),
    "use_by": ("use by", "best before", "expiry"),
    "price": ("price", "unit price"),
    "grade": ("grade",),
    "claims": ("claims", "breed", "feed"),
    "country": ("country", "origin"),
    "born": ("born", "born in"),
    "raised": ("raised", "raised in"),
    "slaughtered": ("slaughtered", "slaughtered in"),
    "pieces_inside": ("pieces", "count", "pieces inside"),
    "label": ("label", "scan", "gs1"),
}
COLUMN = {name: column for column, names in NAMES.items() for name in names}
SAYS_A_BAG = {"weight", "lb", "kg", "label"}
"""A first row with one of these columns is a row of names."""
LIFE = ("born", "raised", "slaughtered")
USUAL_COLUMNS = ("weight", "lot", "serial", "packed_on")


@dataclass(frozen=True)
class Usual:
    """What holds for every row that does not say otherwise."""

    piece: Piece | None = None
    unit: str = "lb"
    packed_on: date | None = None
    price: Decimal | None = None
    country: str = ""
    born: str = ""
    raised: str = ""
    slaughtered: str = ""
    grade: str = ""
    seal: str = Seal.TIGHT
    was_frozen: bool = False
    damage: tuple[str, ...] = ()
    marbling: int | None = None
    claims: str = ""
    pieces_inside: int = 1


Row = tuple[str, dict[str, str]]
"""Where it stood, and its cells by column."""


def rows_of_text(text: str) -> list[Row]:
    """Pasted lines or a CSV. Commas, semicolons or tabs between cells.

    Without a first row of names that has a column for labels, a line that is a label is one.
    """
    # Not splitlines: it would break a label at its group separators.
    lines = text.replace("\r\n", "\n").replace("\r", "\n").split("\n")
    first = next((line for line in lines if line.strip()), "")
    heads = [] if _is_label(first) else _heads(tables.rows_of_text(first))
    if "label" in heads:
        return _named(tables.rows_of_text("\n".join(lines)))
    labels = [(f"row {i}", {"label": line}) for i, line in enumerate(lines, 1) if _is_label(line)]
    rest = ["" if _is_label(line) else line for line in lines]  # each row keeps its number
    typed = [(f"row {i}", line) for i, line in enumerate(rest, 1) if line.strip()]
    if all(DECIMAL_COMMA.fullmatch(line) for _, line in typed):
        return labels + [(where, {"weight": line.strip()}) for where, line in typed]
    return labels + _named(tables.rows_of_text("\n".join(rest)))


def rows_of_file(raw: bytes) -> list[Row]:
    """A text file as pasted lines, or the first sheet of an XLSX file."""
    if raw.startswith(b"PK"):
        return _named(tables.rows_of_sheet(raw))
    return rows_of_text(tables.text_of(raw))


def _is_label(line: str) -> bool:
    text = line.strip()
    if text.startswith(("]", "(0", "(1", SEPARATOR)) or SEPARATOR in text:
        return True
    return len(text) >= 16 and text[:2] in ("01", "02") and text[2:16].isdigit()


def _heads(rows: list[tables.Row]) -> list[str]:
    """The columns that a first row names; none when it is no row of names."""
    heads = tables.headed(rows[0][1], COLUMN) if rows else []
    return heads if SAYS_A_BAG & set(heads) else []


def _named(rows: list[tables.Row]) -> list[Row]:
    if heads := _heads(rows):
        twice = [head for head, count in Counter(filter(None, heads)).items() if count > 1]
        if twice:
            names = ", ".join(twice).replace("_", " ")
            raise BadInput(f"File, {rows[0][0]}: two columns say {names}; one is right.")
        return [(where, tables.as_record(heads, cells)) for where, cells in rows[1:]]
    return [(where, tables.as_record(USUAL_COLUMNS, cells)) for where, cells in rows]


# --- rows as bags ---------------------------------------------------------------------------


@dataclass(frozen=True)
class KnownPieces:
    """Pieces by key, number and every name, and by product code: two queries."""

    by_name: dict[str, Piece]
    by_code: dict[str, Piece]

    @classmethod
    def now(cls) -> "KnownPieces":
        by_name: dict[str, Piece] = {}
        for piece in Piece.objects.all():
            for name in (piece.key, *piece.found_by()):
                if name:
                    by_name.setdefault(fold(name), piece)
        codes = ProductCode.objects.exclude(piece=None).select_related("piece")
        return cls(by_name, {code.gtin: code.piece for code in codes})


def bags(rows: Iterable[Row], usual: Usual) -> tuple[list[NewBag], list[tuple[str, str]]]:
    """The bags of the rows, and what is wrong by row. Two queries."""
    known = KnownPieces.now()
    found, wrong = [], []
    for where, cells in rows:
        try:
            found.append(_bag(where, cells, usual, known))
        except BadInput as bad:
            wrong.append((where, bad.message))
    return found, wrong


def _bag(where: str, cells: dict[str, str], usual: Usual, known: KnownPieces) -> NewBag:
    """What the label says comes first, then the row's own cells, then what holds for every row."""
    seen = scan(cells["label"]) if "label" in cells else None
    if seen is not None and seen.weight is not None:
        weight, unit = seen.weight, seen.unit
    else:
        if seen is not None and not {"weight", "lb", "kg"} & set(cells):
            raise BadInput("Label: it has no net weight, (310n) or (320n); type the weight")
        weight, unit = _weight(cells, usual)
    gtin = (seen and seen.gtin) or (gtin_14(cells["gtin"]) if "gtin" in cells else "")
    packed = (seen and seen.packed_on) or _day(cells, "packed_on") or usual.packed_on
    if packed is None:
        what = "Label: it has no packing date (13)" if seen else "packed on: it is empty"
        raise BadInput(f"{what}; a date such as 2026-11-03, or one for all above, is right")
    price = _number(cells, "price")
    born, raised, slaughtered = _life(cells, seen, usual)
    return NewBag(
        weight=weight,
        unit=unit,
        packed_on=packed,
        piece=_piece(cells, gtin, usual, known),
        gtin=gtin,
        serial=(seen and seen.serial) or cells.get("serial", ""),
        lot=(seen and seen.lot) or cells.get("lot", ""),
        grade=cells.get("grade", usual.grade),
        country=(seen and seen.country) or country_named(cells.get("country", usual.country)),
        born=born,
        raised=raised,
        slaughtered=slaughtered,
        pieces_inside=_count(cells, usual),
        price=usual.price if price is None else price,
        price_per=usual.unit if price is None else unit,
        use_by=(seen and seen.use_by) or _day(cells, "use_by"),
        place=where,
        seal=usual.seal,
        was_frozen=usual.was_frozen,
        damage=usual.damage,
        marbling=usual.marbling,
        claims=cells.get("claims", usual.claims),
    )


def _life(cells: dict[str, str], seen: Scanned | None, usual: Usual) -> list[str]:
    """Where it was born, raised and slaughtered: one country of all steps as the label says (426)."""
    if seen is not None and seen.is_of_one_country:
        return [letters_of(seen.country)] * 3
    found = [_country(cells, name) or getattr(usual, name) for name in LIFE]
    if any(found) and not all(found):
        raise BadInput("born, raised and slaughtered: all three countries or none of them is right")
    return found


def _country(cells: dict[str, str], name: str) -> str:
    text = cells.get(name, "")
    letters = letters_of(country_named(text))
    if text and not letters:
        raise BadInput(f"{name}: “{text[:30]}” is no country; a name such as New Zealand is right")
    return letters


def _weight(cells: dict[str, str], usual: Usual) -> tuple[Decimal, str]:
    """A weight and its unit: of its column, as written beside it, or the usual one."""
    said = [name for name in ("weight", "lb", "kg") if name in cells]
    if len(said) > 1:
        raise BadInput(f"weight: it stands under {' and '.join(said)}; one of them is right")
    text = cells[said[0]] if said else ""
    unit = fold(cells.get("unit", "")) or usual.unit
    if said and said[0] != "weight":
        unit = said[0]
    number, _, written = tidy(text).partition(" ")
    if not written:
        number = number.rstrip("lbkgsLBKGS")
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
    if name not in cells:
        return None
    try:
        return _decimal(bare_amount(cells[name], name), name)
    except BadValue as bad:
        raise BadInput(f"{name}: {bad.wrong}; {bad.right}") from None


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


def _piece(cells: dict[str, str], gtin: str, usual: Usual, known: KnownPieces) -> Piece | None:
    name = cells.get("piece", "")
    if name:
        found = known.by_name.get(fold(name))
        if found is None:
            raise BadInput(
                f"piece: “{name}” is not in the catalog; a name or number of it is right"
            )
        return found
    return known.by_code.get(gtin, usual.piece) if gtin else usual.piece
