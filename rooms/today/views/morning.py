"""The morning page."""

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.utils import timezone
from django.views.decorators.http import require_GET

from rooms.shop.queries.first_day import first_day
from rooms.staff.rights import Right, may
from rooms.today.queries.morning import today


@may(Right.LOOK)
@require_GET
def morning(request: HttpRequest) -> HttpResponse:
    """What must be cut and why, what the case wants, what is open. The wall display is the same."""
    context = {
        "first_day": first_day(),
        "view": today(timezone.localdate()),
        "is_wall": request.GET.get("wall") == "1",
        "made_at": timezone.localtime(),
    }
    return render(request, "today/today.html", context)


@may(Right.LOOK)
@require_GET
def lines(request: HttpRequest) -> HttpResponse:
    """The lines of the morning page alone, fetched again every minute."""
    context = {"view": today(timezone.localdate()), "made_at": timezone.localtime()}
    return render(request, "today/_lines.html", context)
