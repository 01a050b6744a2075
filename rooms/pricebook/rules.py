"""The shop's price endings as the core's rule."""

from decimal import Decimal
from functools import lru_cache

from django.conf import settings

from cutting.quantities import Band, Direction, EndingRule


@lru_cache(maxsize=1)
def endings() -> EndingRule:
    bands = tuple(
        Band(
            Decimal(band["under"]) if "under" in band else None,
            tuple(Decimal(ending) for ending in band["endings"]),
        )
        for band in settings.SHOP["endings"]
    )
    return EndingRule(bands, Direction(settings.SHOP["ending_direction"]))
