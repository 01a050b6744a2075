"""The cooler's temperature: its page, readings by hand, readings from the probe."""

import hmac
from datetime import datetime

from django.conf import settings
from django.http import HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import redirect, render
from django.utils import timezone
from django.views.decorators.csrf import csrf_exempt
from django.views.decorators.http import require_GET, require_POST

from cutting.errors import BadDocument
from cutting.quantities import parse_decimal
from formats.decoding import parse_json
from rooms.common.errors import BadInput
from rooms.common.web.doors import open_to_all
from rooms.common.web.refusals import told_in
from rooms.cooler.actions.temperature import take_reading
from rooms.cooler.forms import ManualForm
from rooms.cooler.queries.temperature import STRETCHES, chart, now
from rooms.shop.queries.current import house
from rooms.staff.block import by_id
from rooms.staff.rights import Right, may


@may(Right.RECEIVE)
def temperature(request: HttpRequest) -> HttpResponse:
    """The chart of a day, week, month or year, and the excursions; a reading by hand."""
    form = ManualForm(request.POST or None)
    if request.method == "POST" and form.is_valid():
        with told_in(form, "celsius"):
            take_reading(timezone.now(), form.millicelsius(), by_id(request), is_manual=True)
            return redirect("cooler:temperature")
    drawn = chart(request.GET.get("for", "day"))
    context = {
        "chart": drawn,
        "now": now(),
        "form": form,
        "stretches": STRETCHES,
        "limit": house().warmest / 1000,
        "least": f"{house().coldest / 1000:g}",
        "zone": house().time_zone,
        "probe_panel": settings.PROBE_PANEL,
    }
    return render(request, "cooler/temperature.html", context, status=422 if form.errors else 200)


@may(Right.LOOK)
@require_GET
def now_line(request: HttpRequest) -> HttpResponse:
    """The last reading alone, for pages that include it."""
    return render(request, "cooler/_now.html", {"now": now()})


@open_to_all
@csrf_exempt
@require_POST
def readings(request: HttpRequest) -> HttpResponse:
    """A reading from the probe: {"at": "2026-11-25T08:00:00+00:00", "celsius": "1.62" or null}."""
    key = request.headers.get("Probe-Key", "").encode("latin-1", "replace")  # as it was sent
    if not settings.PROBE_KEY or not hmac.compare_digest(key, settings.PROBE_KEY.encode()):
        return JsonResponse({"wrong": "Probe-Key: it is not this shop's"}, status=403)
    try:
        said = parse_json(request.body)
        at = datetime.fromisoformat(said["at"])
        celsius = said["celsius"]
        value = None if celsius is None else int(parse_decimal(str(celsius), "celsius") * 1000)
        if at.tzinfo is None:
            raise ValueError("at has no time zone")
        take_reading(at, value)
    except BadInput as bad:
        return JsonResponse({"wrong": bad.message}, status=422)
    except (KeyError, TypeError, ValueError, OverflowError, BadDocument) as wrong:
        return JsonResponse({"wrong": f"{type(wrong).__name__}: {wrong}"}, status=422)
    return JsonResponse({"taken": True})
