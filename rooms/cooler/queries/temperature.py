"""The cooler's temperature: now, over a stretch of time, and its excursions."""

import math
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Any

from django.db.models import Avg, Count, F, Max, Min, Q
from django.utils import timezone

from cutting.cooler.temperature import GAP, too_cold
from cutting.cooler.temperature import Excursion as Stretch
from cutting.cooler.temperature import Reading as CoreReading
from rooms.cooler.models import Bag, Excursion, Reading
from rooms.shop.queries.current import house
from rooms.shop.queries.dates import said_time

STRETCHES = {"day": 1, "week": 7, "month": 31, "year": 366}
POINTS = 400
SHOWN = 12


@dataclass(frozen=True)
class Now:
    """The last reading, and whether it is old or without a value."""

    reading: Reading | None
    is_old: bool

    @property
    def words(self) -> str:
        if self.reading is None:
            return "no reading yet"
        if self.reading.value is None:
            return "sensor lost"
        text = f"{self.reading.value / 1000:.1f} °C"
        return f"{text}, {said_time(self.reading.at)}" if self.is_old else text

    @property
    def is_warm(self) -> bool:
        return self.reading is not None and (self.reading.value or 0) > house().warmest

    @property
    def is_cold(self) -> bool:
        """Below the lower limit: what lies there freezes."""
        value = self.reading.value if self.reading else None
        return value is not None and value < house().coldest


def now() -> Now:
    """One query."""
    last = Reading.objects.order_by("-at").first()
    return Now(last, last is not None and timezone.now() - last.at > 2 * GAP)


@dataclass(frozen=True)
class Chart:
    """Columns for the chart: seconds since 1970, then °C as least, most, mean; null is a gap."""

    stretch: str
    columns: list[list[Any]]
    excursions: list[tuple[Excursion, int]]
    """Each with how many bags lived through it."""
    readings: int
    cold: list[Stretch]
    """The last stretches below the lower limit, the newest first."""


def chart(stretch: str, end: datetime | None = None) -> Chart:
    """Readings in at most POINTS buckets: three queries at any length."""
    stretch = stretch if stretch in STRETCHES else "day"
    end = end or timezone.now()
    start = end - timedelta(days=STRETCHES[stretch])
    size = max(STRETCHES[stretch] * 86400 // POINTS, 60)
    rows = (
        Reading.objects.filter(stamp__gte=int(start.timestamp()), stamp__lte=int(end.timestamp()))
        .values(bucket=F("stamp") / size)
        .annotate(least=Min("value"), mean=Avg("value"), most=Max("value"))
        .order_by("bucket")
    )
    columns: list[list[Any]] = [[], [], [], []]
    coldest = house().coldest
    cold: list[int] = []
    step = math.ceil(GAP.total_seconds() / size)
    before = None
    for row in rows:
        bucket = row["bucket"]
        if before is not None and bucket - before > step:
            _add(columns, (before + 1) * size, None)
        _add(columns, bucket * size + size // 2, row)
        if row["least"] is not None and row["least"] < coldest:
            cold.append(bucket)
        before = bucket
    found = list(Excursion.objects.filter(last_at__gte=start).order_by("-started_at")[:SHOWN])
    return Chart(stretch, columns, _with_bags(found), len(columns[0]), _cold(cold, size))


def _cold(buckets: list[int], size: int) -> list[Stretch]:
    """What lay below the lower limit in the last of these buckets: one query, none for none."""
    if not buckets:
        return []
    first = max(buckets[-SHOWN:][0] * size - int(GAP.total_seconds()), 0)
    last = (buckets[-1] + 1) * size + int(GAP.total_seconds())
    rows = Reading.objects.filter(stamp__gte=first, stamp__lte=last).order_by("at")
    found = too_cold(
        (CoreReading(at, value) for at, value in rows.values_list("at", "value")), house().coldest
    )
    return found[: -SHOWN - 1 : -1]


def _add(columns: list[list[Any]], at: int, row: dict[str, Any] | None) -> None:
    columns[0].append(at)
    for column, name in zip(columns[1:], ("least", "most", "mean"), strict=True):
        value = row[name] if row else None
        column.append(None if value is None else round(value / 1000, 2))


def _with_bags(found: list[Excursion]) -> list[tuple[Excursion, int]]:
    """How many bags lay in the cooler during each: one query."""
    if not found:
        return []
    lived_through = {
        f"during_{i}": Count(
            "pk",
            filter=Q(came_at__lt=row.last_at) & (Q(left_at=None) | Q(left_at__gt=row.started_at)),
        )
        for i, row in enumerate(found)
    }
    counts = Bag.objects.aggregate(**lived_through)
    return [(row, counts[f"during_{i}"]) for i, row in enumerate(found)]
