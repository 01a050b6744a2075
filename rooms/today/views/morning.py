"""The morning page and the wanted list."""

from django.db import transaction
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.utils import timezone
from django.views.decorators.http import require_GET

from rooms.shop.queries.first_day import first_day
from rooms.staff.rights import Right, may
from rooms.today.actions.want import want
from rooms.today.forms import WantedForm
from rooms.today.models import WEEKDAYS, Wanted
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


@may(Right.PRICE)
def wanted_list(request: HttpRequest) -> HttpResponse:
    """What the case should hold, by the day of the week."""
    form = WantedForm(request.POST or None)
    if request.method == "POST" and form.is_valid():
        data = form.cleaned_data
        with transaction.atomic():
            for weekday in data["weekdays"]:
                want(data["product"], weekday, data["least"], data["most"])
        return redirect("today:wanted")
    rows: dict[object, dict[int, Wanted]] = {}
    for line in Wanted.objects.select_related("product").order_by("product__name"):
        rows.setdefault(line.product, {})[line.weekday] = line
    table = [(product, [days.get(day) for day, _ in WEEKDAYS]) for product, days in rows.items()]
    context = {"form": form, "table": table, "weekdays": WEEKDAYS}
    return render(request, "today/wanted.html", context, status=422 if form.errors else 200)
