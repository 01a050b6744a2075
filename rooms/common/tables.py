"""Tables in and out: CSV and XLSX as rows of text, and rows as files that open safely."""

import csv
import io
import zipfile
from collections.abc import Iterable, Sequence
from datetime import date, datetime
from decimal import Decimal

import openpyxl
from openpyxl.cell import WriteOnlyCell
from openpyxl.styles import Font
from openpyxl.utils import get_column_letter

from rooms.common.errors import BadInput

MOST_ROWS = 5000
LARGEST_FILE = 4 * 1024 * 1024
RISKY = ("=", "+", "-", "@", "\t", "\r")
"""What a spreadsheet would run as a formula at the start of a cell."""

Row = tuple[str, list[str]]
"""Where it stood, and its cells."""


def rows_of(raw: bytes) -> list[Row]:
    """The rows of a CSV (UTF-8; comma, semicolon or tab) or of an XLSX file's first sheet."""
    if len(raw) > LARGEST_FILE:
        raise BadInput(f"File: it is larger than {LARGEST_FILE // 2**20} MB.")
    return rows_of_sheet(raw) if raw.startswith(b"PK") else rows_of_csv(raw)


def rows_of_csv(raw: bytes) -> list[Row]:
    try:
        text = raw.decode("utf-8-sig")
    except UnicodeDecodeError as wrong:
        raise BadInput(f"File: byte {wrong.start} is not UTF-8; save it as UTF-8 CSV.") from wrong
    mark = next((mark for mark in "\t;" if mark in text.partition("\n")[0]), ",")
    try:
        cells = list(csv.reader(io.StringIO(text, newline=""), delimiter=mark, strict=True))
    except csv.Error as wrong:
        raise BadInput(f"File: it is no table: {wrong}.") from wrong
    return _counted(
        [
            (f"row {i}", [open_cell(cell) for cell in row])
            for i, row in enumerate(cells, 1)
            if any(cell.strip() for cell in row)
        ]
    )


def rows_of_sheet(raw: bytes) -> list[Row]:
    """The first sheet of an XLSX file."""
    try:
        book = openpyxl.load_workbook(io.BytesIO(raw), read_only=True, data_only=True)
        sheet = book.worksheets[0]
        rows = [
            (f"row {i}", [_cell(value) for value in row])
            for i, row in enumerate(sheet.iter_rows(values_only=True, max_row=MOST_ROWS + 2), 1)
        ]
    except (zipfile.BadZipFile, KeyError, ValueError, OSError, IndexError) as wrong:
        raise BadInput("File: it is no XLSX spreadsheet; save it as XLSX or CSV.") from wrong
    return _counted([(where, row) for where, row in rows if any(row)])


def _counted(rows: list[Row]) -> list[Row]:
    if len(rows) > MOST_ROWS + 1:
        raise BadInput(f"File: {len(rows):,} rows; at most {MOST_ROWS:,} are right.")
    return rows


def _cell(value: object) -> str:
    if value is None:
        return ""
    if isinstance(value, datetime):
        return value.date().isoformat()
    if isinstance(value, float):
        return f"{value:.6f}".rstrip("0").rstrip(".")
    return open_cell(str(value).strip())


def safe_cell(value: object) -> object:
    """Text that a spreadsheet would take for a formula gets an apostrophe before it."""
    text = "" if value is None else value
    return f"'{text}" if isinstance(text, str) and text.startswith(RISKY) else text


def open_cell(text: str) -> str:
    """The other way."""
    return text[1:] if text.startswith("'") and text[1:].startswith(RISKY) else text


def csv_text(columns: Sequence[str], rows: Iterable[Sequence[object]]) -> str:
    return csv_line(columns) + "".join(csv_line(row) for row in rows)


def csv_line(row: Sequence[object]) -> str:
    out = io.StringIO()
    csv.writer(out, lineterminator="\n").writerow([_plain(safe_cell(cell)) for cell in row])
    return out.getvalue()


def _plain(value: object) -> object:
    if isinstance(value, Decimal):
        return f"{value:f}"
    return value.isoformat() if isinstance(value, date) else value


Sheet = tuple[str, Sequence[str], Iterable[Sequence[object]]]
"""Title, columns, rows."""


LOOKED_AT = 200
"""Rows that say how wide a column is."""


def xlsx_bytes(sheets: Iterable[Sheet]) -> bytes:
    """Numbers as numbers with their own decimals, a bold head that stays, columns wide enough."""
    book = openpyxl.Workbook(write_only=True)
    for title, columns, rows in sheets:
        sheet = book.create_sheet(title)
        body = list(rows)
        for at, head in enumerate(columns):
            texts = [str(head), *(str(row[at]) for row in body[:LOOKED_AT])]
            wide = min(max(map(len, texts)) + 2, 48)
            sheet.column_dimensions[get_column_letter(at + 1)].width = wide
        sheet.freeze_panes = "A2"
        heads = [WriteOnlyCell(sheet, head) for head in columns]
        for cell in heads:
            cell.font = Font(bold=True)
        sheet.append(heads)
        for row in body:
            sheet.append([_number(sheet, cell) for cell in row])
    out = io.BytesIO()
    book.save(out)
    return out.getvalue()


def _number(sheet, value: object) -> object:
    """A decimal as a number that shows its own decimals; anything else as safe text."""
    if not isinstance(value, Decimal):
        return safe_cell(value)
    cell = WriteOnlyCell(sheet, value)
    places = max(-value.as_tuple().exponent, 0)
    cell.number_format = "0." + "0" * places if places else "0"
    return cell
