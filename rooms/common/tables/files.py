"""Tables in and out: CSV and XLSX as rows of text, and rows as files that open safely.

Every table that a person hands in comes through `rows_of` or `rows_of_text`.
"""

import csv
import io
import itertools
import re
import tempfile
import warnings
import zipfile
from collections.abc import Iterable, Sequence
from datetime import date, datetime
from decimal import Decimal
from functools import lru_cache
from typing import IO, Any

import xlsxwriter

from rooms.common.errors import BadInput
from rooms.common.words import fold

MOST_ROWS = 5000
MOST_COLUMNS = 200
LARGEST_FILE = 4 * 1024 * 1024
LARGEST_UNPACKED = 64 * 1024 * 1024
MOST_PARTS = 500
"""Files inside an XLSX, which is a ZIP."""
RISKY = ("=", "+", "-", "@", "\t", "\r")
"""What a spreadsheet would run as a formula at the start of a cell."""
UNPRINTABLE = re.compile(r"[\x00-\x08\x0b\x0c\x0e-\x1f]")
"""What no XML 1.0 file may hold."""
QUOTED = re.compile(r'"[^"]*"?')

Row = tuple[str, list[str]]
"""Where it stood, and its cells."""


def rows_of(raw: bytes) -> list[Row]:
    """The rows of a CSV (UTF-8; comma, semicolon or tab) or of an XLSX file's first sheet."""
    if len(raw) > LARGEST_FILE:
        raise BadInput(f"File: it is larger than {LARGEST_FILE // 2**20} MB.")
    return rows_of_sheet(raw) if raw.startswith(b"PK") else rows_of_text(text_of(raw))


def text_of(raw: bytes) -> str:
    """A text file. Raises BadInput when it is not UTF-8."""
    try:
        return raw.decode("utf-8-sig")
    except UnicodeDecodeError as wrong:
        raise BadInput(f"File: byte {wrong.start} is not UTF-8; save it as UTF-8 CSV.") from wrong


def rows_of_text(text: str) -> list[Row]:
    """The rows of a CSV or of pasted lines; what stands between cells is seen in the first."""
    mark = _mark(text)
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


def _mark(text: str) -> str:
    """Tab, semicolon or comma: the first of them outside quotes in the first line with text."""
    first = next((line for line in text.split("\n") if line.strip()), "")
    bare = QUOTED.sub("", first)
    return next((mark for mark in "\t;" if mark in bare), ",")


def rows_of_sheet(raw: bytes) -> list[Row]:
    """The first sheet of an XLSX file. Whatever a damaged or hostile one does is a refusal."""
    _unpacks_small(raw)
    import openpyxl  # it takes numpy along: no worker holds that before somebody brings a sheet

    try:
        with warnings.catch_warnings():
            warnings.simplefilter("ignore")  # what it cannot show is not our table
            book = openpyxl.load_workbook(io.BytesIO(raw), read_only=True, data_only=True)
            found = book.worksheets[0].iter_rows(
                values_only=True, max_row=MOST_ROWS + 2, max_col=MOST_COLUMNS + 1
            )
            rows = [(f"row {i}", [_cell(value) for value in row]) for i, row in enumerate(found, 1)]
            rows = _as_wide_as_the_first(rows)
    except Exception as wrong:  # the library's own faults are as many as files can be damaged
        raise BadInput("File: it is no XLSX spreadsheet; save it as XLSX or CSV.") from wrong
    return _counted([(where, row) for where, row in rows if any(row)])


def _as_wide_as_the_first(rows: list[Row]) -> list[Row]:
    """Empty cells at the end of a row are only there where the first row has a cell too."""
    wide = 0
    found = []
    for where, row in rows:
        full = max((i for i, cell in enumerate(row, 1) if cell), default=0)
        wide = wide or full
        found.append((where, row[: max(full, wide)]))
    return found


def _unpacks_small(raw: bytes) -> None:
    """Raises BadInput for a ZIP that would unpack to more than a table can be."""
    try:
        with zipfile.ZipFile(io.BytesIO(raw)) as packed:
            parts = packed.infolist()
            size = 0
            for part in parts[: MOST_PARTS + 1]:
                with packed.open(part) as unpacked:  # the size it says may be a lie
                    while chunk := unpacked.read(2**16):
                        size += len(chunk)
                        if size > LARGEST_UNPACKED:
                            break
    except Exception as wrong:
        raise BadInput("File: it is no XLSX spreadsheet; save it as XLSX or CSV.") from wrong
    if size > LARGEST_UNPACKED or len(parts) > MOST_PARTS:
        raise BadInput(
            f"File: unpacked it is larger than {LARGEST_UNPACKED // 2**20} MB; a plain table of at"
            f" most {MOST_ROWS:,} rows is right."
        )


def _counted(rows: list[Row]) -> list[Row]:
    if len(rows) > MOST_ROWS + 1:
        raise BadInput(f"File: {len(rows):,} rows; at most {MOST_ROWS:,} are right.")
    for where, cells in rows:
        if len(cells) > MOST_COLUMNS:
            raise BadInput(f"File, {where}: over {MOST_COLUMNS} columns; fewer are right.")
    return rows


def headed(row: Sequence[str], columns: dict[str, str]) -> list[str]:
    """What each cell of a first row stands for by `columns` (folded name to column), or ""."""
    return [columns.get(" ".join(fold(cell).split()), "") for cell in row]


def as_record(heads: Sequence[str], cells: Sequence[str]) -> dict[str, str]:
    """A row by its columns; empty cells and columns nobody knows are left out."""
    pairs = zip(heads, cells, strict=False)
    return {head: cell.strip() for head, cell in pairs if head and cell.strip()}


def _cell(value: object) -> str:
    if value is None:
        return ""
    if isinstance(value, datetime):
        return value.date().isoformat()
    if isinstance(value, float):
        return f"{value:.6f}".rstrip("0").rstrip(".")
    return open_cell(str(value).strip())


def safe_cell(value: object) -> object:
    """Text that a spreadsheet would take for a formula gets an apostrophe before it.

    So does text that begins with such apostrophes itself: `open_cell` takes one off, and every
    text comes back as it was.
    """
    if not isinstance(value, str):
        return "" if value is None else value
    return f"'{value}" if value.lstrip("'").startswith(RISKY) else value


def open_cell(text: str) -> str:
    """The other way."""
    return text[1:] if text.startswith("'") and text.lstrip("'").startswith(RISKY) else text


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
    """As `xlsx_file`, for a small one."""
    with xlsx_file(sheets) as file:
        return file.read()


def xlsx_file(sheets: Iterable[Sheet]) -> IO[bytes]:
    """A file on the disk, at its start, that is gone when it is closed; rows are not held.

    Numbers as numbers with their own decimals, a bold head that stays, columns wide enough.
    """
    file = tempfile.TemporaryFile()  # noqa: SIM115 (handed to the answer, which closes it)
    with xlsxwriter.Workbook(file, {"constant_memory": True}) as book:
        bold, formats = book.add_format({"bold": True}), _Formats(book)
        for title, columns, rows in sheets:
            sheet = book.add_worksheet(title)
            body = iter(rows)
            first = list(itertools.islice(body, LOOKED_AT))
            for at, head in enumerate(columns):
                texts = [str(head), *(str(row[at]) for row in first)]
                sheet.set_column(at, at, min(max(map(len, texts)) + 2, 48))
            sheet.freeze_panes(1, 0)
            for at, head in enumerate(columns):
                sheet.write_string(0, at, str(head), bold)
            for down, row in enumerate(itertools.chain(first, body), start=1):
                for at, value in enumerate(row):
                    _write(sheet, (down, at), value, formats)
    file.seek(0)
    return file


class _Formats(dict[str, Any]):
    """A format of the book by its code, made when it is first needed."""

    def __init__(self, book: Any) -> None:
        super().__init__()
        self.book = book

    def __missing__(self, code: str) -> Any:
        self[code] = self.book.add_format({"num_format": code})
        return self[code]


@lru_cache(maxsize=4096)
def _safe_text(text: str) -> str:
    return str(safe_cell(UNPRINTABLE.sub("", text)))


def _write(sheet: Any, at: tuple[int, int], value: object, formats: _Formats) -> None:
    """A decimal as a number that shows its own decimals; anything else as it is, or safe text."""
    if value is None:
        return
    if isinstance(value, Decimal):
        places = max(-int(value.as_tuple().exponent), 0)
        sheet.write_number(*at, value, formats["0." + "0" * places if places else "0"])
    elif isinstance(value, datetime):
        sheet.write_datetime(*at, value.replace(tzinfo=None), formats["yyyy-mm-dd hh:mm:ss"])
    elif isinstance(value, date):
        sheet.write_datetime(*at, value, formats["yyyy-mm-dd"])
    elif isinstance(value, bool) or not isinstance(value, int | float):
        sheet.write_string(*at, _safe_text(str(value)))
    else:
        sheet.write_number(*at, value)
