"""Days and times in templates, as the shop writes them. Nothing for a missing one."""

from typing import Any

from django import template

from rooms.shop.queries.dates import said_day, said_moment, said_time

register = template.Library()


@register.filter
def day(value: Any) -> str:
    """26 Nov"""
    return said_day(value, year=False, whole=False) if value else ""


@register.filter
def day_year(value: Any) -> str:
    """26 Nov 2026"""
    return said_day(value, whole=False) if value else ""


@register.filter
def whole_day(value: Any) -> str:
    """26 November 2026"""
    return said_day(value) if value else ""


@register.filter
def weekday(value: Any) -> str:
    """Thursday 26 November"""
    return said_day(value, year=False, weekday=True) if value else ""


@register.filter
def time_of_day(value: Any) -> str:
    """17:05"""
    return said_time(value) if value else ""


@register.filter
def moment(value: Any) -> str:
    """26 Nov 17:05"""
    return said_moment(value) if value else ""


@register.filter
def moment_year(value: Any) -> str:
    """26 Nov 2026 17:05"""
    return said_moment(value, year=True) if value else ""


@register.filter
def moment_seconds(value: Any) -> str:
    """26 Nov 17:05:09"""
    return said_moment(value, seconds=True) if value else ""


@register.filter
def weekday_year(value: Any) -> str:
    """Thursday 26 November 2026"""
    return said_day(value, weekday=True) if value else ""
