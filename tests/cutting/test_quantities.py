from decimal import Decimal
from fractions import Fraction

import pytest
from hypothesis import given
from hypothesis import strategies as st

from cutting.errors import BadValue
from cutting.quantities import (
    Band,
    Direction,
    EndingRule,
    Unit,
    UnitPrice,
    Weight,
    class_iii_tolerance,
    convert,
    foot,
    parse_decimal,
    price_of_total,
    round_half_up,
)

D = Decimal
decimals = st.decimals(min_value=D("0.001"), max_value=D(5000), places=3)
units = st.sampled_from(list(Unit))


@pytest.mark.parametrize("text", ["6.17", "6.10", "0.00", "-0.02", "12", "0.000"])
def test_a_plain_decimal_keeps_its_digits(text):
    assert f"{parse_decimal(text):f}" == text


@pytest.mark.parametrize(
    "bad",
    [
        "",
        " ",
        "6.",
        ".5",
        "+1",
        "1e3",
        "1,5",
        "1_000",
        " 1",
        "1\n",
        "NaN",
        "Infinity",
        "--1",
        "٣",
        "½",
        "1" * 40,
        None,
        6.17,
        6,
        True,
        ["1"],
        b"1",
    ],
)
def test_anything_else_is_refused_with_the_field_and_what_is_right(bad):
    with pytest.raises(BadValue, match=r"weight: .*6\.17"):
        parse_decimal(bad, "weight")


@pytest.mark.parametrize("bad", [Decimal("NaN"), Decimal("Infinity")])
def test_a_weight_and_a_price_are_finite(bad):
    with pytest.raises(BadValue):
        Weight(bad, Unit.LB)
    with pytest.raises(BadValue):
        UnitPrice(bad, Unit.LB)


@given(decimals, units, units)
def test_showing_another_unit_never_changes_the_record(value, unit, other):
    recorded = Weight(value, unit)
    before = str(recorded)
    recorded.to(other)
    assert str(recorded) == before
    assert recorded.to(unit) is recorded.value


@given(decimals, units, units)
def test_conversion_agrees_with_exact_fractions(value, unit, other):
    exact = Fraction(value) * Fraction(unit.grams) / Fraction(other.grams)
    assert abs(Fraction(convert(value, unit, other)) - exact) <= exact * Fraction(1, 10**34)


@pytest.mark.parametrize(
    ("value", "unit", "other", "same"),
    [
        ("1", "lb", "oz", "16"),
        ("8", "oz", "lb", "0.5"),
        ("0.45359237", "kg", "lb", "1"),
        ("1", "kg", "g", "1000"),
        ("1", "lb", "g", "453.59237"),
    ],
)
def test_what_can_be_written_down_converts_exactly(value, unit, other, same):
    assert Weight.of(value, unit).to(Unit(other)) == D(same)


def test_a_price_per_kilogram_is_the_price_of_a_pound_times_its_weight():
    assert UnitPrice.of("10", "kg").to(Unit.LB) == D("4.5359237")


@pytest.mark.parametrize(
    ("value", "places", "shown"),
    [
        ("0.125", 2, "0.13"),
        ("0.135", 2, "0.14"),
        ("-0.125", 2, "-0.13"),
        ("6.2155", 2, "6.22"),
        ("42.25", 1, "42.3"),
        ("2.5", 0, "3"),
    ],
)
def test_money_rounds_half_up(value, places, shown):
    assert str(round_half_up(D(value), places)) == shown


@given(st.lists(st.decimals(-1000, 1000, places=5), min_size=1, max_size=40), st.integers(0, 3))
def test_a_printed_column_always_foots_and_no_part_moves_a_whole_step(parts, places):
    footed = foot(parts, places)
    step = D(1).scaleb(-places)
    assert sum(footed.parts) == footed.total == round_half_up(sum(parts, D(0)), places)
    assert all(abs(a - b) < step for a, b in zip(footed.parts, parts, strict=True))


def test_three_thirds_foot_to_a_hundred_and_the_sheet_can_say_which_row_gave():
    footed = foot([D(100) / 3] * 3, 1, D(100))
    assert [str(part) for part in footed.parts] == ["33.4", "33.3", "33.3"]
    assert footed.moved == (0,)


# --- endings ---

USUAL = (Band(D(20), (D("0.49"), D("0.99"))), Band(None, (D("0.99"),)))


@pytest.mark.parametrize(
    ("price", "up", "down", "nearest"),
    [
        ("7.10", "7.49", "6.99", "6.99"),
        ("7.49", "7.49", "7.49", "7.49"),
        ("7.24", "7.49", "6.99", "7.49"),
        ("0.10", "0.49", "0.49", "0.49"),
        ("19.995", "20.99", "19.99", "19.99"),
        ("20.10", "20.99", "19.99", "19.99"),
        ("31.50", "31.99", "30.99", "31.99"),
        ("0", "0.49", "0.49", "0.49"),
    ],
)
def test_endings_by_the_shops_rule(price, up, down, nearest):
    found = [str(EndingRule(USUAL, way).apply(D(price))) for way in Direction]
    assert found == [up, down, nearest]


@given(decimals)
def test_an_ending_is_always_allowed_and_the_nearest_on_its_side(price):
    rule = EndingRule(USUAL)
    up, down = rule.up(price), rule.down(price)
    for found in filter(None, (up, down)):
        assert found % 1 in ({D("0.49"), D("0.99")} if found < 20 else {D("0.99")})
    assert up >= price
    assert down is None or down <= price
    assert rule.up(up) == up


@pytest.mark.parametrize(
    "bands",
    [
        (),
        (Band(D(20), (D("0.99"),)),),
        (Band(None, (D("0.99"),)), Band(None, (D("0.49"),))),
        (Band(D(20), (D("0.99"),)), Band(D(10), (D("0.99"),)), Band(None, (D("0.99"),))),
    ],
)
def test_a_rule_without_one_open_last_band_is_refused(bands):
    with pytest.raises(BadValue):
        EndingRule(bands)


@pytest.mark.parametrize(("endings", "every"), [((), "1"), (("1.00",), "1"), (("0.99",), "0")])
def test_a_band_with_impossible_endings_is_refused(endings, every):
    with pytest.raises(BadValue):
        Band(None, tuple(map(D, endings)), D(every))


@pytest.mark.parametrize(
    ("load", "off"),
    [("5", "0.01"), ("5.001", "0.02"), ("20", "0.02"), ("40", "0.03"), ("41", "0.05")],
)
def test_tolerance_of_a_class_iii_scale_by_load(load, off):
    """NIST Handbook 44, section 2.20, Table 6: 500, 2000 and 4000 divisions of 0.01 lb."""
    assert class_iii_tolerance(D(load), D("0.01")) == D(off)


@given(
    st.decimals(D("0.01"), D(99999), places=2),
    st.decimals(D("0.05"), D(3000), places=2),
)
def test_a_unit_price_from_a_total_gives_the_total_back(total, pounds):
    price = price_of_total(total, Weight(pounds, Unit.LB))
    assert round_half_up(price.amount * pounds) == total
    assert len(f"{price.amount:f}") <= 27


@pytest.mark.parametrize(("total", "pounds"), [("0", "1"), ("-1", "1"), ("1", "0")])
def test_no_total_and_no_weight_give_no_price(total, pounds):
    with pytest.raises(BadValue, match="more than 0"):
        price_of_total(D(total), Weight(D(pounds), Unit.LB))
