"""Readings of the cooler's temperature."""

from datetime import datetime, timedelta

from django.db.models import Q
from django.utils import timezone

from cutting.cooler import temperature as core
from rooms.common.db.writing import write
from rooms.common.errors import BadInput
from rooms.cooler.actions.days import keep_warm_days
from rooms.cooler.models import Excursion, Reading
from rooms.shop.queries.current import house
from rooms.shop.queries.dates import said_moment
from rooms.shop.queries.limits import limits

COLDEST, WARMEST = -40000, 60000
AHEAD = timedelta(minutes=2)


@write()
def take_reading(
    at: datetime, value: int | None, by_id: int | None = None, *, is_manual: bool = False
) -> Reading:
    """Record a reading and what it means for excursions. The same moment twice changes nothing."""
    if value is not None and not COLDEST <= value <= WARMEST:
        raise BadInput(f"Temperature: {value / 1000} °C; {COLDEST / 1000} to {WARMEST / 1000}.")
    if at > timezone.now() + AHEAD:
        raise BadInput(f"Time: {said_moment(at)} is still to come; now or before is right.")
    already = Reading.objects.filter(at=at).first()
    if already is not None:
        return already
    last = Reading.objects.order_by("-at").first()
    reading = Reading.objects.create(at=at, value=value, is_manual=is_manual, by_id=by_id)
    if last is not None and at < last.at:
        _again(at)
        keep_warm_days()
    elif _follow(last, reading):
        keep_warm_days()
    return reading


def _follow(last: Reading | None, reading: Reading) -> bool:
    """Whether an excursion began, went on or ended."""
    lasting = Excursion.objects.filter(ended_at=None).first()
    so_far = core.Followed(
        core.Reading(last.at, last.value) if last else None,
        core.Excursion(lasting.started_at, lasting.last_at, lasting.peak) if lasting else None,
    )
    now, ended = core.follow(so_far, core.Reading(reading.at, reading.value), house().warmest)
    if ended is not None and lasting is not None:
        _write(lasting, ended)
        lasting = None
    if now.open is not None:
        _write(lasting or Excursion(), now.open)
    return ended is not None or now.open is not None


def _again(at: datetime) -> None:
    """A reading that came late: the excursions of its day and after are worked out again.

    Only those that began at or after the start are; the one that spans it begins them. The reading
    before the start says where the first one crossed the limit.
    """
    start = at - timedelta(days=1)
    spans = Excursion.objects.filter(Q(ended_at=None) | Q(ended_at__gt=start), started_at__lt=start)
    if (first := spans.order_by("started_at").first()) is not None:
        start = first.started_at
    before = Reading.objects.filter(at__lt=start).order_by("-at").first()
    since = Reading.objects.filter(at__gte=before.at if before else start).order_by("at")
    readings = [core.Reading(*row) for row in since.values_list("at", "value")]
    Excursion.objects.filter(started_at__gte=start).delete()
    for found in core.excursions(readings, limits()):
        if found.start >= start:
            _write(Excursion(), found)


def _write(row: Excursion, found: core.Excursion) -> None:
    row.started_at, row.last_at = found.start, found.last
    row.ended_at, row.peak = found.end, found.peak
    row.save()
