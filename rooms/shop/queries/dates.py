"""Days and times as this shop writes them, in its own time zone."""

from datetime import date, datetime

from django.utils import timezone

from rooms.shop.queries.current import house
from wording import dates


def said_day(day: date, *, year: bool = True, whole: bool = True, weekday: bool = False) -> str:
    """26 November 2026. A moment counts as the day it falls on here."""
    return dates.day_words(_here(day), house().day_order, year=year, whole=whole, weekday=weekday)


def said_time(at: datetime, *, seconds: bool = False) -> str:
    """17:05"""
    return dates.time_words(_local(at), house().clock, seconds=seconds)


def said_moment(
    at: datetime, *, year: bool = False, whole: bool = False, seconds: bool = False
) -> str:
    """26 Nov 17:05"""
    now = house()
    return dates.moment_words(
        _local(at), now.day_order, now.clock, year=year, whole=whole, seconds=seconds
    )


def _here(day: date) -> date:
    return _local(day).date() if isinstance(day, datetime) else day


def _local(at: datetime) -> datetime:
    return timezone.localtime(at) if timezone.is_aware(at) else at
