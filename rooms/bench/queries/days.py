"""On which day a test falls."""

from zoneinfo import ZoneInfo

from rooms.bench.models import CuttingTest


def on_another_day(here: ZoneInfo, there: ZoneInfo) -> int:
    """How many tests were begun on another day by another time zone: one query."""
    moments = CuttingTest.objects.values_list("started_at", flat=True)
    return sum(at.astimezone(here).date() != at.astimezone(there).date() for at in moments)
