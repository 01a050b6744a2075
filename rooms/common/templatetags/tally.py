"""Filters that only put figures into words; every figure was made by `cutting`."""

import uuid
from decimal import Decimal

from django import template

from cutting import pencil
from cutting.quantities import round_half_up

register = template.Library()
MISSING = (None, "")


@register.filter
def money(value):
    """14.288 → 14.29; nothing for a missing value."""
    return "" if value in MISSING else pencil.money(value)


@register.filter
def weight(value, unit):
    """A worked-out weight in its unit: 2.43."""
    return "" if value in MISSING else pencil.pounds(value, unit)


@register.filter
def percent(share):
    """0.423 → 42.3 %"""
    return "" if share in MISSING else pencil.percent(share)


@register.filter
def percent_figure(share):
    """0.423 → 42.3, for columns with the sign in the header."""
    return "" if share in MISSING else pencil.percent(share).removesuffix(" %")


@register.filter
def of_hundred(value):
    """42.31 → 42.3 %, for figures that already are of 100."""
    return "" if value in MISSING else pencil.percent(value / Decimal(100))


@register.filter
def factor(value):
    return "" if value in MISSING else pencil.factor(value)


@register.filter
def ounces(value):
    """To one decimal: portions."""
    return "" if value in MISSING else f"{round_half_up(value, 1)}"


@register.filter
def plain(value):
    """A decimal for an input field or an attribute: no separators."""
    return "" if value in MISSING else f"{value:f}"


@register.simple_tag
def new_key():
    """A key of its own for a form, so that sending it twice records once."""
    return uuid.uuid4()


@register.filter
def signed(value):
    """A figure that is already rounded, with a true minus sign."""
    return "" if value in MISSING else pencil.signed(value)


@register.filter
def of_hundred_figure(value):
    return of_hundred(value).removesuffix(" %")


@register.filter
def portion(value, unit):
    """A portion's figure with its unit: ounces to two decimals, grams whole."""
    if value in MISSING:
        return ""
    return f"{round_half_up(value, 0 if unit == 'g' else 2)} {unit}"
