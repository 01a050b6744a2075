"""A bag's days, worked out by the core: kept by `actions/days.py`.

The days of a bag are columns, so that what is due is a question to the database. They are kept
whenever something moves them: a bag comes or gets its piece, a window is set, a piece is changed,
a warm spell takes another day, and once after each migration for what ships.
"""

from collections.abc import Iterable
from datetime import date, timedelta
from typing import Any

from django.db.models import Q
from django.utils import timezone

from cutting.cooler import ageing
from cutting.cooler.temperature import Excursion as CoreExcursion
from cutting.cooler.temperature import above
from rooms.cooler.models import Bag, Excursion
from rooms.cooler.queries.windows import repacked, windows

DAYS = ("old_enough_on", "best_from", "best_to", "ends_on", "lost_days")


def core_bags(bags: Iterable[Bag]) -> dict[object, ageing.Bag]:
    """The core's bag of each row that has a piece: two queries, one for rows read `with_piece`."""
    bags = [bag for bag in bags if bag.piece_id]
    if not bags:
        return {}
    window = windows({bag.piece for bag in bags})
    now = timezone.now()
    spells = spells_since(min(bag.came_at for bag in bags))
    return {
        bag.pk: ageing.Bag(
            packed_on=bag.packed_on,
            window=_opened(bag) if bag.whole_id else window[bag.piece_id],
            seal=ageing.Seal(bag.seal),
            use_by=bag.use_by,
            warm=above(spells, bag.came_at, bag.left_at or now) if spells else timedelta(0),
            thawed_by=_thawed_by(bag) if bag.was_frozen else None,
        )
        for bag in bags
    }


def _opened(bag: Bag) -> ageing.Window:
    return repacked(bag.piece, is_unsealed=bag.is_unsealed)


def _thawed_by(bag: Bag) -> date:
    """A thawed bag has the days of one that was packed again, from the day it came."""
    came = timezone.localdate(bag.came_at)
    return came + timedelta(days=repacked(bag.piece).end)


def spells_since(since: Any) -> list[CoreExcursion]:
    lasting = Q(ended_at=None) | Q(ended_at__gte=since)
    return [
        CoreExcursion(row.started_at, row.last_at, row.peak, row.ended_at)
        for row in Excursion.objects.filter(lasting)
    ]


def set_days(bags: Iterable[Bag]) -> list[Bag]:
    """The bags' days as the core gives them, not yet saved: two queries. A bag without a piece
    has none."""
    bags = list(bags)
    core = core_bags(bags)
    for bag in bags:
        found = core.get(bag.pk)
        for name in DAYS:
            setattr(bag, name, getattr(found, name) if found else None)
    return bags
