"""The days of bags written anew, whenever something moves them."""

from typing import Any

from django.db.models import QuerySet
from django.utils import timezone

from cutting.cooler import ageing
from cutting.cooler.temperature import above
from rooms.common.db.writing import write
from rooms.cooler.models import Bag
from rooms.cooler.queries.days import DAYS, set_days, spells_since

BATCH = 500


@write()
def keep_days(bags: QuerySet[Bag]) -> None:
    """Write the days of these bags anew, where they moved."""
    rows = list(bags.select_related("piece"))
    before = {bag.pk: _days(bag) for bag in rows}
    moved = [bag for bag in set_days(rows) if _days(bag) != before[bag.pk]]
    Bag.objects.bulk_update(moved, DAYS, batch_size=BATCH)


def keep_warm_days() -> None:
    """After an excursion moved: the bags that lost another day, or have one back.

    Bags that came together have lived through the same: one question for each moment of coming.
    """
    inside = Bag.objects.in_cooler().filter(lost_days__isnull=False)
    moments = list(inside.order_by().values_list("came_at", "lost_days").distinct())
    if not moments:
        return
    spells, now = spells_since(min(at for at, _ in moments)), timezone.now()
    moved = {at for at, lost in moments if above(spells, at, now) // ageing.WARM_STEP != lost}
    if moved:
        keep_days(inside.filter(came_at__in=moved))


def _days(bag: Bag) -> list[Any]:
    return [getattr(bag, name) for name in DAYS]
