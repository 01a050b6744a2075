"""What a change of settings does to what is already recorded."""

from dataclasses import dataclass
from datetime import datetime
from zoneinfo import ZoneInfo

from cutting.cooler.temperature import LIMIT
from rooms.shop.queries.house import House
from rooms.shop.queries.records import KEPT
from wording.dates import day_words, moment_words


@dataclass(frozen=True)
class Consequence:
    """`field` is the setting it comes from. What `refuses` would falsify a record."""

    field: str
    words: str
    refuses: bool = False


def consequences(now: House, wanted: House, at: datetime) -> list[Consequence]:
    """What a shop should know before it changes from one to the other."""
    found = []
    if wanted.currency != now.currency:
        found += _currency(now, wanted)
    if wanted.unit != now.unit:
        found += _unit(wanted)
    if wanted.time_zone != now.time_zone and any(one.count() for one in KEPT):
        found.append(_zone(now, wanted, at))
    if wanted.warmest > LIMIT >= now.warmest:
        found.append(
            Consequence(
                "warmest",
                f"{wanted.warmest / 1000:g} °C is above 5 °C (41 °F), the limit of FDA Food Code"
                " 3-501.16. Only where the local code and the shop's food-safety plan say so.",
            )
        )
    return found


def _currency(now: House, wanted: House) -> list[Consequence]:
    counted = [(one, one.count()) for one in KEPT if one.in_currency]
    there = ", ".join(one.said(number) for one, number in counted if number)
    if not there:
        return []
    return [
        Consequence(
            "currency",
            f"{there} are written in {now.currency} and would be read as {wanted.currency};"
            f" {now.currency} is right. Another currency needs a new shop.",
            refuses=True,
        )
    ]


def _unit(wanted: House) -> list[Consequence]:
    counted = [(one, one.count()) for one in KEPT if one.in_unit]
    stay = ", ".join(one.said(number) for one, number in counted if number)
    if not stay:
        return []
    return [
        Consequence(
            "unit",
            f"New products, tests and deliveries begin in {wanted.unit}. {stay} stay in the unit they"
            " have; each page says which.",
        )
    ]


def _zone(now: House, wanted: House, at: datetime) -> Consequence:
    here, there = at.astimezone(now.zone), at.astimezone(wanted.zone)
    found = [
        f"The clock here says {moment_words(here, now.day_order, now.clock)} now; there it says"
        f" {moment_words(there, now.day_order, now.clock)}."
    ]
    if here.date() != there.date():
        to = day_words(there.date(), now.day_order, whole=True, weekday=True)
        way = "older" if there.date() > here.date() else "younger"
        found.append(
            f"Today becomes {to}: every bag is a day {way}, the prices and the wanted list of that"
            " day hold, and what was done today is shown on the day it falls on there."
        )
    found += _moved(now.zone, wanted.zone)
    return Consequence("time_zone", " ".join(found))


def _moved(here: ZoneInfo, there: ZoneInfo) -> list[str]:
    counted = [(one, one.moved(here, there)) for one in KEPT if one.moved]
    return [
        f"{one.said(number)} will be shown on another day; moments themselves stay as recorded."
        for one, number in counted
        if number
    ]
