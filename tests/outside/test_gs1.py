"""Case labels against the GS1 General Specifications (values from memory) and another parser.

The independent parser is python-stdnum's gs1_128. GTINs begin with 950, the range GS1 keeps for
examples.
"""

from datetime import date
from decimal import Decimal

import pytest
from hypothesis import given
from hypothesis import strategies as st
from stdnum import ean, gs1_128

from rooms.common.errors import BadInput
from rooms.cooler.queries.scanning import SEPARATOR, Scanned, scan

GTIN = "09501101530003"
D = Decimal


@pytest.mark.parametrize(
    ("text", "wanted"),
    [
        # The weight's last digit of the identifier is the number of decimals.
        (f"01{GTIN}3202000617", Scanned(GTIN, D("6.17"), "lb")),
        (f"01{GTIN}3103002801", Scanned(GTIN, D("2.801"), "kg")),
        (f"01{GTIN}3100000012", Scanned(GTIN, D(12), "kg")),
        # Prefixes: GS1-128, DataMatrix, DataBar, QR; with FNC1 in front or not.
        (f"]C101{GTIN}3202000617", Scanned(GTIN, D("6.17"), "lb")),
        (f"]d201{GTIN}3202000617", Scanned(GTIN, D("6.17"), "lb")),
        (f"]e001{GTIN}3202000617", Scanned(GTIN, D("6.17"), "lb")),
        (f"]Q301{GTIN}3202000617", Scanned(GTIN, D("6.17"), "lb")),
        (f"{SEPARATOR}01{GTIN}3202000617", Scanned(GTIN, D("6.17"), "lb")),
        # A lot is of no fixed length: what follows it stands behind a separator.
        (
            f"10AB-123{SEPARATOR}2198765{SEPARATOR}01{GTIN}",
            Scanned(GTIN, lot="AB-123", serial="98765"),
        ),
        (
            f"(01){GTIN}(13)261103(17)261224(10)L7(21)S9(422)554(3202)001234",
            Scanned(
                GTIN,
                D("12.34"),
                "lb",
                date(2026, 11, 3),
                date(2026, 12, 24),
                "L7",
                "S9",
                "New Zealand",
            ),
        ),
        # Production date stands in where there is no packing date; day 00 is the month's last.
        (f"01{GTIN}11261103", Scanned(GTIN, packed_on=date(2026, 11, 3))),
        (f"01{GTIN}17260200", Scanned(GTIN, use_by=date(2026, 2, 28))),
        (f"01{GTIN}11261101" + "13261103", Scanned(GTIN, packed_on=date(2026, 11, 3))),
    ],
)
def test_a_label_says_what_the_specification_says(text, wanted):
    assert scan(text) == wanted


@pytest.mark.parametrize("written", ["{GS}", "<GS>", "\u241d", "^]", "\\x1d"])
def test_a_separator_may_be_spelled_as_scanners_do(written):
    assert scan(f"10L1{written}21S2{written}01{GTIN}") == Scanned(GTIN, lot="L1", serial="S2")


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("0109501101530004", "check digit of 09501101530004 is wrong"),
        ("hello", "cannot be read"),
        (f"01{GTIN}3202", "cannot be read"),
        (f"01{GTIN}13261399", "cannot be read|no date"),
        ("", None),
        (f"01{GTIN}10A{SEPARATOR}10B", "is there twice"),
    ],
)
def test_a_wrong_label_is_refused_with_the_part_that_is_wrong(text, says):
    if says is None:
        assert scan(text) == Scanned()
        return
    with pytest.raises(BadInput, match=says):
        scan(text)


texts = st.text("ABCDEFGHIJ0123456789-", min_size=1, max_size=18)
gtins = (
    st.integers(0, 10**13 - 1)
    .map(lambda n: f"{n:013d}")
    .map(lambda body: body + ean.calc_check_digit(body))
)


@given(
    gtins,
    st.integers(1, 999999),
    st.integers(0, 3),
    st.dates(date(2015, 1, 1), date(2040, 12, 31)),
    texts,
    texts,
)
def test_another_parser_reads_the_same(gtin, digits, places, packed, lot, serial):
    text = f"01{gtin}320{places}{digits:06d}13{packed:%y%m%d}10{lot}{SEPARATOR}21{serial}"
    ours, other = scan(f"]C1{text}"), gs1_128.info(text, SEPARATOR)
    assert ours.gtin == other["01"]
    assert ours.weight == other[f"320{places}"]
    assert ours.packed_on == other["13"] == packed
    assert (ours.lot, ours.serial) == (other["10"], other["21"])
