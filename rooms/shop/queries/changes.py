"""Who changed which setting, when, from what to what."""

from dataclasses import dataclass
from datetime import datetime
from itertools import pairwise
from typing import Any

from rooms.shop.models import Shop
from rooms.shop.queries.house import House

A_PAGE = 40


@dataclass(frozen=True)
class Changed:
    """One save: `values` are (name of the setting, before, after) in the types of `House`."""

    at: datetime
    by: str
    values: list[tuple[str, Any, Any]]


def changes(most: int = A_PAGE) -> list[Changed]:
    """The last changes, the newest first: one query."""
    rows = list(Shop.history.select_related("history_user").order_by("-history_id")[: most + 1])
    houses = [(row, House.of(row)) for row in rows]
    found = [
        Changed(row.history_date, str(row.history_user or ""), _differing(before, now))
        for (row, now), (_, before) in pairwise(houses)
    ]
    if len(rows) <= most and rows:
        found.append(Changed(rows[-1].history_date, str(rows[-1].history_user or ""), []))
    return [one for one in found if one.values or one is found[-1]]


def _differing(before: House, now: House) -> list[tuple[str, Any, Any]]:
    was, is_now = vars(before), vars(now)
    return [(name, was[name], is_now[name]) for name in was if was[name] != is_now[name]]
