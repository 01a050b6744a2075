"""The log: found again, printed for an inspector; what is due this morning."""

from datetime import date, timedelta

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.utils import timezone
from django.utils.dateparse import parse_date
from django.views.decorators.http import require_GET

from rooms.common.errors import BadInput
from rooms.common.tables.files import csv_text
from rooms.common.web.downloads import download
from rooms.common.web.forms import read_day
from rooms.common.web.refusals import Told
from rooms.grinder.models import Batch
from rooms.grinder.queries.log import COLUMNS, found, records
from rooms.grinder.queries.tubs import tubs_now
from rooms.grinder.views.grinder import MOST_OPEN
from rooms.staff.rights import Right, may


@may(Right.LOOK)
@require_GET
def log(request: HttpRequest) -> HttpResponse:
    """The log, found by day, lot, name or number."""
    text, asked = request.GET.get("text", ""), request.GET.get("day", "")
    try:
        day = parse_date(asked) if asked else None
    except ValueError:
        day = None
    context = {"batches": found(text, day), "text": text, "day": asked}
    return render(request, "grinder/log.html", context)


MOST_DAYS = 366


def _days(request: HttpRequest) -> tuple[date, date]:
    """From and to of a print; the last month without them. Raises BadInput for others."""
    today = timezone.localdate()
    last = read_day(request.GET.get("to", ""), "To", today) or today
    first = read_day(request.GET.get("from", ""), "From", last - timedelta(days=30)) or last
    if not timedelta() <= last - first < timedelta(days=MOST_DAYS):
        raise BadInput(f"From: {first}; a day of the year before {last} is right.")
    return first, last


@may(Right.LOOK)
@require_GET
def records_page(request: HttpRequest) -> HttpResponse:
    """The records of some days, to print for an inspector, or as a table."""
    told, first, last = Told(), timezone.localdate(), timezone.localdate()
    with told:
        first, last = _days(request)
    rows = [] if told.refused else records(first, last)
    if request.GET.get("as") == "csv" and not told.refused:
        text = csv_text(COLUMNS, (one.row() for one in rows))
        return download(f"grind-log-{first}-{last}.csv", text)
    context = {"records": rows, "first": first, "last": last, "refused": told.refused}
    return render(request, "grinder/records.html", context, status=told.status())


@may(Right.LOOK)
@require_GET
def due(request: HttpRequest) -> HttpResponse:
    """For the morning's page: tubs past their day, batches still in the grinder."""
    tubs = [one for one in tubs_now(timezone.localdate()) if one.is_due and one.left > 0]
    context = {"due": tubs, "open": Batch.objects.in_grinder()[:MOST_OPEN]}
    return render(request, "grinder/_due.html", context)
