"""What is said in words: pencil views, the balance, and the forecast behind the glance."""

from decimal import Decimal

import pytest

from cutting.costing.schools import CostingSchool
from cutting.costing.sheet import compute
from cutting.quantities import Unit, UnitPrice, Weight
from cutting.sheet.cutting_test import figures
from cutting.sheet.forecast import forecast
from cutting.sheet.trays import trays
from cutting.sheet.yields import Pooled
from tests.cutting.build import cutting_test, output, piece, tenderloin
from tests.cutting.costing.test_schools import whole
from wording.block import left_words, no_dollars, profit_words, tray_words
from wording.pencil import (
    balance_pencil,
    balance_words,
    block_words,
    money,
    percent,
    pounds,
    profit_shown,
    school_pencil,
)
from wording.yields import share_words, where_from

D = Decimal


def numbers(sheet, school):
    return [step.numbers for step in school_pencil(sheet, school).steps]


def test_the_credit_school_is_worked_out_as_one_would_with_a_pencil():
    assert numbers(compute(tenderloin()), CostingSchool.CREDIT) == [
        "6.17 lb × 7.49 = 46.21",
        "2.21 × 0.99 + 1.36 × 4.95 = 8.92",
        "46.21 − 8.92 = 37.29",
        "37.29 ÷ 2.61 = 14.29",
        "37.29 ÷ 6 = 6.22",
        "14.29 ÷ 7.49 = 1.908",
    ]


def test_every_school_has_a_working_on_a_full_sheet():
    sheet = compute(whole())
    assert numbers(sheet, CostingSchool.FLAT)[-1] == "50.00 ÷ 8.00 = 6.25"
    assert "50.00 × 14.00 ÷ 84.00 = 8.33" in numbers(sheet, CostingSchool.SALES_VALUE)
    assert numbers(sheet, CostingSchool.REPLACEMENT)[-2:] == [
        "15 × 24.00 ÷ 60 = 6.00",
        "60.00 − 50.00 − 6.00 = 4.00",
    ]
    assert not any(school_pencil(sheet, school).missing for school in CostingSchool)


@pytest.mark.parametrize(
    ("school", "says"),
    [
        (CostingSchool.FLAT, "No output goes to the case"),
        (CostingSchool.CREDIT, "credit value is needed for fat"),
        (CostingSchool.SALES_VALUE, "No output"),
        (CostingSchool.REPLACEMENT, "No output"),
    ],
)
def test_a_missing_input_is_named(school, says):
    sheet = compute(cutting_test(output("fat", "credit", "1 lb")))
    assert says in school_pencil(sheet, school).missing


def test_names_of_what_is_missing_are_listed():
    sheet = compute(cutting_test(output("a", "main", "1 lb"), output("b", "main", "1 lb")))
    assert (
        school_pencil(sheet, CostingSchool.SALES_VALUE).missing
        == "A retail price is needed for a and b."
    )
    assert "ready-cut price" in school_pencil(sheet, CostingSchool.REPLACEMENT).missing


def test_freight_discount_and_the_unit_of_the_price_are_in_the_cost_line():
    of = piece("10 lb", "11 kg", freight=D(2), discount=D(1))
    line = school_pencil(
        compute(cutting_test(output("m", "main", "9 lb"), of=of)), CostingSchool.FLAT
    )
    assert line.steps[0].words == "cost = weight paid × price + freight − discount"
    assert line.steps[0].numbers == "10 lb × 11.00 a kg + 2.00 − 1.00 = 50.90"


@pytest.mark.parametrize(
    ("weighed", "says"),
    [
        ("10.00", "In balance: nothing unaccounted."),
        ("9.95", "In balance: 0.05 lb short"),
        ("10.02", "In balance: 0.02 lb over"),
        ("9.00", "1.00 lb missing, 0.08 allowed. Look for a"),
        ("11.00", "1.00 lb too much, 0.03 allowed. Look for a tub not tared"),
    ],
)
def test_the_balance_is_said_in_words(weighed, says):
    found = figures(cutting_test(output("a", "main", f"{weighed} lb")))
    assert says in balance_words(found.balance, "lb")


def test_at_the_block_the_words_follow_what_is_left():
    found = figures(cutting_test(output("a", "main", "6 lb")))
    assert block_words(D(4), found.balance, "lb") == "4.00 lb still on the block."
    too_much = figures(cutting_test(output("a", "main", "12 lb")))
    assert "2.00 lb more came off than went on" in block_words(D(-2), too_much.balance, "lb")


def test_the_balance_can_be_checked_with_a_pencil():
    of = piece(opened_weight="9.8 lb")
    steps = balance_pencil(compute(cutting_test(output("a", "main", "9.7 lb"), of=of))).steps
    assert steps[0].numbers == "10.00 − 9.80 = 0.20"
    assert steps[1].numbers == "10.00 − 0.20 − 9.70 = 0.10 lb"


@pytest.mark.parametrize(
    ("show", "value", "text"),
    [
        (money, "1234.505", "1,234.51"),
        (money, "-0.004", "0.00"),
        (money, "-2.5", "−2.50"),
        (percent, "0.423", "42.3 %"),
        (percent, "-0.0016", "−0.2 %"),
    ],
)
def test_how_figures_are_shown(show, value, text):
    assert show(D(value)) == text


@pytest.mark.parametrize(
    ("value", "unit", "text"),
    [
        ("2.43125", "lb", "2.43"),
        ("6.1", "lb", "6.10"),
        ("-0.01", "lb", "−0.01"),
        ("-0.004", "lb", "0.00"),
        ("1.9055", "kg", "1.906"),
        ("180.4", "g", "180"),
    ],
)
def test_worked_out_weights_show_the_decimals_of_their_unit(value, unit, text):
    assert pounds(D(value), unit) == text


def test_profit_cost_and_sales_foot_as_printed():
    """141.9057 − 83.804 is 58.1017, but 141.91 and 83.80 are what is printed beside it."""
    assert profit_shown(D("141.9057"), D("83.804")) == D("58.11")


def test_the_forecast_spreads_the_rest_over_what_is_missing():
    test = cutting_test(
        output("steak", "main", "4 lb", retail="10"),
        output("stew", "secondary", retail="5"),
        output("skin", "discard"),
    )
    ahead = forecast(test, figures(test), [D("0.6"), D("0.3"), D("0.1")])
    assert ahead.saleable == D("0.9")
    assert ahead.true_cost == D(50) / 9 or abs(ahead.true_cost - D(50) / 9) < D("1e-20")
    assert ahead.gp_percent == (D(75) - 50) / 75 * 100 or round(ahead.gp_percent, 4) == D("33.3333")


def test_the_forecast_of_a_full_test_is_the_test_itself():
    sheet = compute(whole())
    ahead = forecast(whole(), sheet.figures, [D("0.5")] * 5)
    assert abs(ahead.saleable - sheet.figures.yields.saleable) < D("0.02")
    missing = cutting_test(output("steak", "main", "4 lb"))
    assert forecast(missing, figures(missing), [None]).gp_percent is None


@pytest.mark.parametrize(
    ("left", "says"), [(None, ""), (0, "as many as the plan gives"), (3, "about 3 more")]
)
def test_how_many_are_left_in_words(left, says):
    assert left_words(left) == says


def test_the_tray_in_words():
    half = Weight.of("0.5", "lb")
    made = trays([half] * 3, 2, UnitPrice.of("9.99", "lb"), Unit.LB)
    assert tray_words(made, "lb") == "tray 2: 1 of 2, 0.50 lb, sticker 5.00"
    assert tray_words(made[:1], "lb") == "tray 1: full, 1.00 lb, sticker 9.99"
    assert tray_words([], "lb") == ""


def test_where_yields_come_from_in_words():
    assert where_from(0).endswith("no test of it yet")
    assert (where_from(1), where_from(4)) == ("a single test", "4 tests")
    assert share_words(Pooled(1, D("0.5"), D("0.5"))) == "50.0 % of the piece"
    sure = Pooled(2, D("0.5"), D("0.5"), low=D("-0.1"), high=D("0.6"))
    assert share_words(sure) == "50.0 % of the piece, 0.0 % to 60.0 %"
    assert share_words(None) == ""


def test_why_there_is_no_dollar_rail():
    bare = compute(cutting_test(output("steak", "main", "4 lb")))
    assert no_dollars(bare).endswith("for want of a price: steak. Set prices to see it.")
    fat = compute(cutting_test(output("fat", "credit", "4 lb")))
    assert no_dollars(fat) == "No dollar rail: nothing goes to the case."
    lost = compute(cutting_test(output("steak", "main", "4 lb", retail="10")))
    assert no_dollars(lost) == ""
    assert profit_words(lost) == ("cost 50.00", "loss 10.00 = −25.0 % of sales")
