"""Kept ads and choices of what to buy, worked out at today's prices beside each other."""

from dataclasses import dataclass

from cutting.planning.buying import Bought
from cutting.prices.ads import Ad
from rooms.planner.models import Kept
from rooms.planner.queries.ads import work_out
from rooms.planner.queries.buying import buy_view
from rooms.planner.queries.costed import groups, sold_with_costs

MOST = 20
"""The newest so many are worked out; the others are opened one by one."""


@dataclass(frozen=True)
class AdLine:
    kept: Kept
    item: str
    ad: Ad | None
    faults: list[str]


@dataclass(frozen=True)
class BuyLine:
    kept: Kept
    best: Bought | None
    faults: list[str]


def kept_plans(kind: Kept.Kind) -> list[Kept]:
    """The kept plans of a kind, the newest first: one query."""
    return list(Kept.objects.filter(kind=kind).select_related("kept_by")[:MOST])


def ads_beside() -> list[AdLine]:
    """Every kept ad as its page works it out: three queries at any number."""
    book = sold_with_costs()
    found = []
    for kept in kept_plans(Kept.Kind.AD):
        worked = work_out(kept.fields, book, kept.said)
        item = worked.rows[0].product
        name = item.name if item else kept.said.get("product-0", "")
        found.append(AdLine(kept, name, worked.ad, worked.faults))
    return found


def buys_beside() -> list[BuyLine]:
    """Every kept choice as its page works it out."""
    every = groups()
    found = []
    for kept in kept_plans(Kept.Kind.BUY):
        view = buy_view(kept.fields, kept.said, every)
        found.append(BuyLine(kept, view.best, view.faults))
    return found
