"""The checks of the scales: of today, and those that failed on a test's day."""

from dataclasses import dataclass
from datetime import date, datetime, time, timedelta

from django.utils import timezone

from rooms.bench.models import ScaleCheck
from rooms.bench.queries.rows import TestRows
from rooms.bench.queries.scales import ScaleAt, scale_named, scales
from rooms.shop.queries.dates import said_moment, said_time


@dataclass(frozen=True)
class OfToday:
    """A scale and how it stands today: its last check, None when there is none yet."""

    scale: ScaleAt
    last: ScaleCheck | None
    has_failed: bool

    @property
    def words(self) -> str:
        if self.last is None:
            return f"The {self.scale.label} was not checked yet today."
        when = said_time(self.last.at)
        if not self.last.holds:
            return f"The {self.scale.label} failed its check of {when}."
        again = " It had failed before." if self.has_failed else ""
        return f"The {self.scale.label} held at {when}.{again}"

    @property
    def is_trouble(self) -> bool:
        return self.last is None or not self.last.holds


def day_of(day: date) -> tuple[datetime, datetime]:
    """A calendar day of the shop as moments."""
    start = timezone.make_aware(datetime.combine(day, time.min))
    return start, timezone.make_aware(datetime.combine(day + timedelta(days=1), time.min))


def of_day(day: date) -> list[OfToday]:
    """Every scale of the shop: one query."""
    start, end = day_of(day)
    checks = list(ScaleCheck.objects.filter(at__gte=start, at__lt=end).order_by("-at"))
    found = []
    for scale in scales():
        mine = [check for check in checks if check.scale == scale.name]
        failed = any(not check.holds for check in mine)
        found.append(OfToday(scale, mine[0] if mine else None, failed))
    return found


def failed_on(rows: TestRows) -> list[str]:
    """Failed checks of the scales a test was weighed on, on its days, in words: one query."""
    names = {w.scale for w in rows.standing if w.scale}
    if not names:
        return []
    start, _ = day_of(timezone.localdate(rows.test.started_at))
    end = rows.test.finished_at or timezone.now()
    _, end = day_of(timezone.localdate(end))
    checks = ScaleCheck.objects.filter(scale__in=names, at__gte=start, at__lt=end).order_by("at")
    said = []
    checks = list(checks)
    for i, check in enumerate(checks):
        if check.holds:
            continue
        worst = max(
            (line for line in check.lines if not line["holds"]),
            key=lambda line: abs(float(line["off"])),
        )
        held = next((c for c in checks[i + 1 :] if c.scale == check.scale and c.holds), None)
        label = scale.label if (scale := scale_named(check.scale)) else check.scale
        said.append(
            f"The {label} failed its check on {said_moment(check.at, whole=True)}:"
            f" {worst['shown']} {check.unit} shown for {worst['load']}, {worst['tolerance']} off"
            " is allowed." + (f" It held again at {said_time(held.at)}." if held else "")
        )
    return said
