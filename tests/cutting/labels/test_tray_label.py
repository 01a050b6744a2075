"""Net weight, total and words of a label."""

from datetime import date
from decimal import Decimal

import pytest
from hypothesis import given
from hypothesis import strategies as st

from cutting.errors import BadValue
from cutting.labels.tray_label import (
    Product,
    TrayLabel,
    label_codes,
    label_text,
    net_weight,
    price_of_pack,
    total_price,
)
from cutting.quantities import Unit, UnitPrice, Weight

D = Decimal
HUNDREDTH = Weight(D("0.01"), Unit.LB)


def label(**more):
    product = Product("Flat iron", "beef", UnitPrice.of("12.99", "lb"), "Top blade", item="12345")
    usual = {
        "product": product,
        "gross": Weight.of("1.28", "lb"),
        "tare": Weight.of("0.04", "lb"),
        "division": HUNDREDTH,
        "packed_on": date(2026, 11, 26),
        "sell_by": date(2026, 11, 29),
        "currency": "USD",
    }
    return TrayLabel(**usual | more)


@pytest.mark.parametrize(
    ("gross", "tare", "division", "net"),
    [
        ("1.28 lb", "0.04 lb", "0.01 lb", "1.24"),
        ("1.28 lb", "0 lb", "0.01 lb", "1.28"),
        ("1.28 lb", "0.5 oz", "0.01 lb", "1.24"),  # 0.03125 lb is rounded up to 0.04
        ("1.28 lb", "0.48 oz", "0.01 lb", "1.25"),  # 0.03 lb
        ("0.580 kg", "19 g", "0.002 kg", "0.560"),  # 0.019 up to 0.020
        ("20.4 oz", "0.03 lb", "0.1 oz", "19.9"),  # 0.48 oz up to 0.5
    ],
)
def test_net_is_gross_less_a_tare_that_lies_on_the_division(gross, tare, division, net):
    weights = (Weight.of(*one.split()) for one in (gross, tare, division))
    assert net_weight(*weights).value == D(net)


@pytest.mark.parametrize(
    ("gross", "tare", "says"),
    [
        ("1.285 lb", "0.04 lb", "gross"),
        ("1.28 lb", "0.045 lb", "tare"),
        ("1.28 lb", "1.28 lb", "more than the tare"),
        ("1.28 lb", "2 kg", "more than the tare"),
    ],
)
def test_what_a_scale_cannot_show_and_nothing_are_refused(gross, tare, says):
    with pytest.raises(BadValue, match=says):
        net_weight(Weight.of(*gross.split()), Weight.of(*tare.split()), HUNDREDTH)


@given(st.integers(1, 5000), st.integers(1, 9999))
def test_the_printed_numbers_give_the_total(hundredths, cents):
    """Half up to the cent, within half a cent of the product."""
    net, price = D(hundredths) / 100, D(cents) / 100
    if net * price < D("0.005"):
        with pytest.raises(BadValue, match="over 0"):
            total_price(UnitPrice(price, Unit.LB), Weight(net, Unit.LB))
        return
    total = total_price(UnitPrice(price, Unit.LB), Weight(net, Unit.LB))
    assert -D("0.005") < total - net * price <= D("0.005")


# 9 CFR 317.2: name, ingredients, (l) safe handling, (e)(3) tenderized, (g) place; values from memory
@pytest.mark.parametrize(
    ("more", "line", "there"),
    [
        ({}, "Flat iron", True),
        ({}, "Top blade", True),
        ({}, "Net wt. 1.24 lb", True),
        ({}, "$12.99/lb ($28.64/kg)", True),
        ({}, "Total $16.11", True),
        ({}, "Sell by 2026-11-29", True),
        ({}, "Cook thoroughly.", True),
        ({}, "Mechanically tenderized", False),
        ({"tenderized": True}, "Mechanically tenderized", True),
        ({}, "Previously frozen", False),
        ({"frozen_before": True}, "Previously frozen", True),
        ({"ingredients": ("pork", "salt")}, "Ingredients: pork, salt", True),
        ({"lot": "L1"}, "Lot L1", True),
        ({"shop_name": "Gull Quay", "shop_place": "Quay 1"}, "Gull Quay, Quay 1", True),
        ({"country": "US"}, "Product of USA", False),
        ({"origin_claim": "Product of USA"}, "Product of USA", True),
    ],
)
def test_each_line_stands_there_where_it_is_true(more, line, there):
    assert (line in label_text(label(**more))) is there


def test_tenderized_meat_says_how_it_is_cooked():
    lines = label_text(label(tenderized=True))
    at = lines.index("Mechanically tenderized")
    assert "145 °F" in lines[at + 1]


def test_without_a_gtin_there_is_no_element_string_and_no_link():
    assert label_codes(label(link="https://shop.example")) == []


@pytest.mark.parametrize(
    ("total", "net", "unit", "per", "price"),
    [
        ("12.00", "1", Unit.KG, Unit.KG, "12.00"),
        ("12.00", "2.2046", Unit.LB, Unit.KG, "12.00"),
        ("12.00", "0.5", Unit.KG, Unit.LB, "10.89"),  # 12 / 1.10231 lb
        ("15.00", "32", Unit.OZ, Unit.LB, "7.50"),
        ("0.01", "1", Unit.LB, Unit.LB, "0.01"),
    ],
)
def test_the_price_that_follows_from_a_fixed_total_in_either_unit(total, net, unit, per, price):
    """NIST Handbook 130, uniform packaging and labeling; value from memory."""
    found = price_of_pack(Decimal(total), Weight(Decimal(net), unit), per)
    assert found == UnitPrice(Decimal(price), per)


@pytest.mark.parametrize(("total", "net"), [("0", "1"), ("-1", "1"), ("0.01", "5")])
def test_no_pack_is_sold_for_nothing(total, net):
    with pytest.raises(BadValue, match="total"):
        price_of_pack(Decimal(total), Weight(Decimal(net), Unit.LB), Unit.LB)
