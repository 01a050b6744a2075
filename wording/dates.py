"""Days and times of day as a shop writes them. Weeks, months and the clock only: no time zones."""

from __future__ import annotations

from datetime import date, datetime, time
from enum import StrEnum


class DayOrder(StrEnum):
    """How a day is written: 26 Nov 2026, Nov 26, 2026 or 2026-11-26."""

    DAY = "day"
    MONTH = "month"
    YEAR = "year"


class Clock(StrEnum):
    """17:05 or 5:05 pm."""

    H24 = "24"
    H12 = "12"


MONTHS = [
    "January",
    "February",
    "March",
    "April",
    "May",
    "June",
    "July",
    "August",
    "September",
    "October",
    "November",
    "December",
]
WEEKDAYS = ["Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday"]


def day_words(
    day: date,
    order: DayOrder = DayOrder.DAY,
    *,
    year: bool = True,
    whole: bool = False,
    weekday: bool = False,
) -> str:
    """A day: 26 Nov 2026; `whole` writes the month out, `weekday` says which one it is.

    Written by the year first there are figures only: 2026-11-26, and 11-26 without the year.
    """
    if order is DayOrder.YEAR:
        text = f"{day:%m-%d}" if not year else day.isoformat()
    else:
        month = MONTHS[day.month - 1] if whole else MONTHS[day.month - 1][:3]
        if order is DayOrder.DAY:
            text = f"{day.day} {month}" + (f" {day.year}" if year else "")
        else:
            text = f"{month} {day.day}" + (f", {day.year}" if year else "")
    if not weekday:
        return text
    between = ", " if order is DayOrder.MONTH else " "
    return f"{WEEKDAYS[day.weekday()]}{between}{text}"


def time_words(at: time | datetime, clock: Clock = Clock.H24, *, seconds: bool = False) -> str:
    """A time of day: 17:05, or 5:05 pm; midnight is 12:00 am and noon 12:00 pm."""
    last = f":{at.second:02}" if seconds else ""
    if clock is Clock.H24:
        return f"{at.hour:02}:{at.minute:02}{last}"
    half = "am" if at.hour < 12 else "pm"
    return f"{at.hour % 12 or 12}:{at.minute:02}{last} {half}"


def moment_words(
    at: datetime,
    order: DayOrder = DayOrder.DAY,
    clock: Clock = Clock.H24,
    *,
    year: bool = False,
    whole: bool = False,
    seconds: bool = False,
) -> str:
    """Day and time: 26 Nov 17:05."""
    day = day_words(at.date(), order, year=year, whole=whole)
    return f"{day} {time_words(at, clock, seconds=seconds)}"
