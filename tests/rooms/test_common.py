"""Exact decimals in the database and in forms, and figures in words."""

from decimal import Decimal

import pytest
from django import forms
from django.core.exceptions import ValidationError

from cutting.quantities import working
from rooms.bench.models import Weighing
from rooms.common.db.fields import PlainDecimalField
from rooms.common.templatetags import tally
from rooms.common.web.forms import LongSelect, PlainDecimal, tidy
from rooms.pricebook.models import Product

D = Decimal


@pytest.mark.parametrize(
    "text", ["6.10", "0.00", "-1.50", "12", "0.000001", "1234567890.123456789"]
)
def test_a_decimal_comes_back_from_the_database_as_it_was_written(shop, text):
    product = Product.objects.first()
    product.transfer = D(text)
    product.save()
    again = Product.objects.get(pk=product.pk).transfer
    assert f"{again:f}" == text
    assert Product.objects.filter(transfer=D(text)).exists()


def test_a_decimal_too_long_for_the_column_is_an_error_not_a_rounding(shop):
    product = Product.objects.first()
    with working():
        product.transfer = D(1) / D(3)
    with pytest.raises(ValueError, match="at most 28 digits are right"):
        product.save()


def test_the_column_refuses_what_is_not_a_plain_decimal():
    field = PlainDecimalField(name="weight")
    assert field.to_python(None) is None
    assert field.to_python("6.10") == D("6.10")
    with pytest.raises(ValidationError, match="weight: "):
        field.to_python("1e3")


@pytest.mark.parametrize(
    ("text", "value"), [("6.17", "6.17"), (" 6.10 ", "6.10"), (".55", "0.55"), ("0", "0")]
)
def test_a_form_reads_what_a_hand_types(text, value):
    assert str(PlainDecimal(label="Weight", least=0).clean(text)) == value
    assert tidy(text) == value


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("", "required"),
        ("x", "“x” is not a plain number"),
        ("1e5", "not a plain number"),
        ("-1", "0 or more is right"),
        ("11", "at most 10 is right"),
        ("٣", "not a plain number"),
        ("9" * 41, "at most 40 characters"),
    ],
)
def test_a_form_says_what_is_wrong_and_what_is_right(text, says):
    field = PlainDecimal(label="Weight", least=0, most=10)
    with pytest.raises(forms.ValidationError) as refused:
        field.clean(text)
    if says != "at most 40 characters":
        assert says in " ".join(refused.value.messages)


@pytest.mark.parametrize(
    ("show", "value", "text"),
    [
        (tally.money, D("14.288"), "14.29"),
        (tally.money, None, ""),
        (tally.money, "", ""),
        (tally.percent, D("0.423"), "42.3 %"),
        (tally.percent_figure, D("-0.016"), "−1.6"),
        (tally.percent_figure, None, ""),
        (tally.of_hundred, D("42.31"), "42.3 %"),
        (tally.of_hundred_figure, D("42.31"), "42.3"),
        (tally.of_hundred_figure, None, ""),
        (tally.plain, D("7.4900"), "7.4900"),
        (tally.plain, None, ""),
        (tally.signed, D("-0.02"), "−0.02"),
        (tally.signed, None, ""),
    ],
)
def test_filters_put_figures_into_words_and_nothing_for_nothing(show, value, text):
    assert show(value) == text


def test_filters_with_a_unit():
    assert tally.weight(D("2.43125"), "lb") == "2.43"
    assert tally.weight(None, "lb") == ""
    assert tally.portion(D("7.046"), "oz") == "7.05 oz"
    assert tally.portion(D("180.4"), "g") == "180 g"
    assert tally.portion(None, "g") == ""


def test_names_on_a_rail_are_escaped():
    from drawings import rails

    part = rails.BarPart("<b>&", D(1), "1.00", "lean")
    drawn = rails.pound_rail([part], D(1), "1 lb <paid>")
    svg = tally.bar(drawn.rail) + tally.ticks(drawn)
    assert "<b>" not in svg
    assert "&lt;b&gt;&amp;" in svg
    assert "&lt;paid&gt;" in svg


def test_weighings_print_as_the_scale_showed_them():
    assert str(Weighing(value=D("7.10"), unit="oz")) == "7.10 oz"


def test_a_long_select_has_the_options_of_a_plain_one():
    choices = [("", "none"), ("a&b", "A <b>"), ("c", "“C”")]
    attrs = {"id": "cut", "size": 3, "disabled": True}
    for value in ("c", "", "unknown"):
        long, plain = (
            kind(choices=choices).render("cut", value, attrs) for kind in (LongSelect, forms.Select)
        )
        assert "".join(long.split()) == "".join(plain.split())
