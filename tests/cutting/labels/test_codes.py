"""Digits of the codes against GS1 values and independent libraries."""

from datetime import date
from decimal import Decimal

import pycountry
import pytest
from biip.checksums import gs1_price_weight_check_digit, gs1_standard_check_digit
from biip.gs1_digital_link_uris import GS1DigitalLinkURI
from biip.gs1_messages import GS1Message
from hypothesis import given
from hypothesis import strategies as st
from stdnum import ean

from cutting.errors import BadValue
from cutting.labels import codes
from cutting.labels.codes import SIGNS, StoreCode, Traced, digital_link, element_string, store_code
from cutting.quantities import Unit, Weight

D = Decimal


# GS1: 400638133393 → 1, 03600029145 → 2 (checks.md)
@pytest.mark.parametrize(("digits", "right"), [("400638133393", "1"), ("03600029145", "2")])
def test_a_check_digit_is_the_published_one(digits, right):
    assert codes.check_digit(digits) == right


@pytest.mark.long
@given(st.from_regex(r"[0-9]{7,13}", fullmatch=True))
def test_every_check_digit_is_that_of_biip_and_stdnum(digits):
    assert codes.check_digit(digits) == str(gs1_standard_check_digit(digits))
    if len(digits) in (7, 11, 12):
        assert ean.calc_check_digit(digits.zfill(12)) == codes.check_digit(digits)


@given(st.from_regex(r"[0-9]{4}", fullmatch=True))
def test_every_price_check_digit_is_that_of_biip(price):
    """GS1 General Specifications; library biip as an independent reference."""
    assert codes.price_check_digit(price) == str(gs1_price_weight_check_digit(price))


def test_the_published_price_check_digit():
    assert codes.price_check_digit("2875") == "9"
    for wrong in ("287", "28x5", "٢٨٧٥"):
        with pytest.raises(BadValue, match="four digits"):
            codes.price_check_digit(wrong)


@pytest.mark.parametrize(
    ("text", "right"),
    [
        ("4006381333931", "04006381333931"),
        ("036000291452", "00036000291452"),
        ("96385074", "00000096385074"),
        ("10036000291459", "10036000291459"),
    ],
)
def test_a_gtin_is_filled_to_fourteen(text, right):
    assert codes.gtin_14(text) == right


@pytest.mark.parametrize("text", ["4006381333932", "400638133393", "12345", "40063813339x1", ""])
def test_a_wrong_gtin_is_refused(text):
    with pytest.raises(BadValue, match="gtin"):
        codes.gtin_14(text)


@given(st.integers(0, 99_999), st.integers(1, 9_999), st.integers(1, 99_999))
def test_store_numbers_have_their_length_and_check_digit(item, cents, grams):
    item = f"{item:05d}"
    total, net = D(cents) / 100, Weight(D(grams), Unit.G)
    for which, length, start in (
        (StoreCode.PRICE_12, 12, "2"),
        (StoreCode.PRICE_13, 13, "20"),
        (StoreCode.WEIGHT_13, 13, "20"),
    ):
        digits = store_code(which, item, total, net).content
        assert len(digits) == length
        assert digits.startswith(start + item)
        assert ean.is_valid(digits.zfill(13))
    assert store_code(StoreCode.PRICE_13, item, total, net).content[8:12] == f"{cents:04d}"
    assert store_code(StoreCode.WEIGHT_13, item, total, net).content[7:12] == f"{grams:05d}"


def test_what_does_not_fit_says_why():
    many = Weight(D("99999.5"), Unit.G)
    assert store_code(StoreCode.PRICE_13, "12345", D("100.00"), many).kind == "none"
    assert store_code(StoreCode.PRICE_13, "12345", D("99.99"), many).kind == "ean13"
    assert "five digits" in store_code(StoreCode.WEIGHT_13, "12345", D(1), many).content


def tray(**more):
    usual = {
        "gtin": "4006381333931",
        "net": Weight(D("1.24"), Unit.LB),
        "division": Weight(D("0.01"), Unit.LB),
        "packed_on": date(2026, 11, 26),
        "sell_by": date(2026, 11, 29),
        "country": "US",
        "lot": "L9427",
        "serial": "7K2M",
    }
    return Traced(**usual | more)


def test_an_element_string_is_read_by_biip():
    found = {one.ai.ai: one for one in GS1Message.parse_hri(element_string(tray())).element_strings}
    assert found["01"].gtin.as_gtin_14() == "04006381333931"
    assert found["3202"].decimal == D("1.24")
    assert found["13"].date == date(2026, 11, 26)
    assert found["16"].date == date(2026, 11, 29)
    assert [found[ai].value for ai in ("422", "10", "21")] == ["840", "L9427", "7K2M"]


def test_the_link_is_read_by_biip():
    found = GS1DigitalLinkURI.parse(digital_link("https://shop.example", tray(lot="A/1&b")))
    told = {one.ai.ai: one.value for one in found.element_strings}
    assert told == {
        "01": "04006381333931",
        "10": "A/1&b",
        "21": "7K2M",
        "3202": "000124",
        "13": "261126",
        "16": "261129",
    }


@pytest.mark.parametrize(
    ("net", "division", "right"),
    [
        (("1.24", "lb"), ("0.01", "lb"), ("3202", "000124")),
        (("1.245", "lb"), ("0.005", "lb"), ("3203", "001245")),
        (("12", "lb"), ("0.50", "lb"), ("3201", "000120")),
        (("12.1", "oz"), ("0.1", "oz"), ("3203", "000756")),
        (("560", "g"), ("5", "g"), ("3103", "000560")),
        (("0.560", "kg"), ("0.002", "kg"), ("3103", "000560")),
    ],
)
def test_a_weight_is_told_in_lb_or_kg_by_the_division(net, division, right):
    found = codes.weight_element(Weight.of(*net), Weight.of(*division))
    assert found == right


def test_a_weight_that_six_digits_do_not_hold_is_refused():
    with pytest.raises(BadValue, match="at most 6 digits"):
        codes.weight_element(Weight.of("10000.00", "lb"), Weight.of("0.01", "lb"))


@given(st.text(alphabet=sorted(SIGNS), min_size=1, max_size=20))
def test_any_lot_comes_back_from_the_link(lot):
    from urllib.parse import unquote, urlsplit

    link = digital_link("https://shop.example/", tray(lot=lot, serial=""))
    assert unquote(urlsplit(link).path.split("/")[4]) == lot
    assert "/21/" not in urlsplit(link).path or lot == "21"


@pytest.mark.parametrize("text", ["L 1", "ж", "x" * 21, "a\x1d", "L#1"])
def test_a_lot_of_other_signs_is_refused(text):
    with pytest.raises(BadValue):
        codes.short_text(text, "lot")


def test_the_short_set_leaves_the_rest_to_the_qr():
    own, left = codes.short_elements(tray())
    assert own == "(01)04006381333931(3202)000124(16)261129(21)7K2M"
    assert left == ["13", "422", "10"]


def test_every_country_is_that_of_iso_3166():
    for one in pycountry.countries:
        assert codes.country_number(one.alpha_2) == one.numeric
    for wrong in ("XX", "us", "USA", ""):
        with pytest.raises(BadValue, match="two letters"):
            codes.country_number(wrong)
