"""Kept ads and choices of what to buy, worked out at today's prices beside each other."""

from dataclasses import dataclass

from cutting.ads import Ad
from cutting.buying import Bought
from rooms.counter.models import Kept
from rooms.counter.planning import groups, sold_with_costs
from rooms.counter.readings.ads import work_out
from rooms.counter.readings.buying import buy_view

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


def newest(kind: Kept.Kind) -> Kept | None:
    return Kept.objects.filter(kind=kind).first()


def kept_plans(kind: Kept.Kind) -> list[Kept]:
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
