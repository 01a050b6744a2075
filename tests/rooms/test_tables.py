"""Tables out and in: what a spreadsheet may not run, what a file may not be."""

import io
from datetime import date
from decimal import Decimal

import openpyxl
import pytest
from hypothesis import given
from hypothesis import strategies as st

from rooms.common.errors import BadInput
from rooms.common.tables.files import MOST_ROWS, csv_text, rows_of, safe_cell, xlsx_bytes
from rooms.common.web.forms import read_day

words = st.text(st.characters(codec="utf-8", exclude_categories=["Cc", "Cs"]), max_size=20)


@given(st.lists(st.lists(words, min_size=2, max_size=2), min_size=1, max_size=5))
def test_what_goes_out_as_csv_comes_back_and_no_cell_is_a_formula(rows):
    text = csv_text(["one", "two"], rows)
    back = [cells for _, cells in rows_of(text.encode())]
    assert back == [["one", "two"], *(row for row in rows if any(cell.strip() for cell in row))]
    for row in rows:
        assert not str(safe_cell(row[0])).startswith(("=", "+", "-", "@"))


@pytest.mark.long
@given(st.lists(st.decimals(Decimal("0.01"), Decimal(9999), places=2), min_size=1, max_size=5))
def test_a_spreadsheet_keeps_numbers_as_numbers(amounts):
    raw = xlsx_bytes([("a", ["name", "price"], [("x", amount) for amount in amounts])])
    sheet = openpyxl.load_workbook(io.BytesIO(raw)).active
    assert [sheet.cell(i, 2).value for i in range(2, len(amounts) + 2)] == [
        pytest.approx(float(amount)) for amount in amounts
    ]
    assert sheet["B2"].number_format == "0.00"
    assert [Decimal(cells[1]) for _, cells in rows_of(raw)[1:]] == amounts


def test_days_and_nothing_are_written_plain():
    text = csv_text(["day", "none"], [(date(2026, 11, 25), None)])
    assert text == "day,none\n2026-11-25,\n"


@pytest.mark.parametrize(
    ("raw", "says"),
    [
        (b"\xff\xfe\x00", "not UTF-8"),
        (b"PK\x03\x04 broken", "no XLSX spreadsheet"),
        (b'a,b\n"open,1\n', "no table"),
        (b"a\n" * (MOST_ROWS + 2), "at most 5,000"),
        (b"x" * (4 * 2**20 + 1), "larger than 4 MB"),
    ],
)
def test_a_file_that_is_no_table_is_refused_plainly(raw, says):
    with pytest.raises(BadInput, match=says):
        rows_of(raw)


@pytest.mark.parametrize("raw", [b"a;b\n1;2\n", b"a\tb\n1\t2\n", b"\xef\xbb\xbfa,b\r\n1,2\r\n"])
def test_commas_semicolons_tabs_and_a_byte_order_mark_are_understood(raw):
    assert [cells for _, cells in rows_of(raw)] == [["a", "b"], ["1", "2"]]


def test_a_day_is_read_or_named():
    assert read_day("2026-12-01", "From") == date(2026, 12, 1)
    assert read_day(" ", "From", date(2026, 1, 1)) == date(2026, 1, 1)
    with pytest.raises(BadInput, match="From: “1 Dec” is no day; write it like 2026-12-01"):
        read_day("1 Dec", "From")
