"""The cooler's limit as it was at a moment: a reading that comes late is held to the one of then."""

from bisect import bisect_right
from collections.abc import Callable
from datetime import datetime

from cutting.cooler.temperature import LIMIT
from rooms.shop.models import Shop


def limits() -> Callable[[datetime], int]:
    """The upper limit in thousandths of a °C that held at a moment: one query for all of them.

    Before the shop's first settings what ships held.
    """
    rows = list(Shop.history.order_by("history_date").values_list("history_date", "warmest"))
    moments, values = [at for at, _ in rows], [LIMIT, *(limit for _, limit in rows)]
    return lambda at: values[bisect_right(moments, at)]
