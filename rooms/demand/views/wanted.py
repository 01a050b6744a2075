"""What the case should hold."""

from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render

from rooms.common.db.writing import write
from rooms.common.web.refusals import status_of, told_in
from rooms.demand.actions.want import want
from rooms.demand.forms import WantedForm
from rooms.demand.models import WEEKDAYS, Wanted
from rooms.staff.block import by_id
from rooms.staff.rights import Right, may


@may(Right.WANT)
def wanted_list(request: HttpRequest) -> HttpResponse:
    """What the case should hold, by the day of the week."""
    form = WantedForm(request.POST or None)
    if request.method == "POST" and form.is_valid():
        data = form.cleaned_data
        amounts = data["least"], data["most"]
        with told_in(form):
            with write():
                for weekday in data["weekdays"]:
                    want(data["product"], weekday, *amounts, by_id(request), data["seen"])
            return redirect("demand:wanted")
    rows: dict[object, dict[int, Wanted]] = {}
    for line in Wanted.objects.select_related("product").order_by("product__name"):
        rows.setdefault(line.product, {})[line.weekday] = line
    table = [(product, [days.get(day) for day, _ in WEEKDAYS]) for product, days in rows.items()]
    context = {"form": form, "table": table, "weekdays": WEEKDAYS}
    return render(request, "demand/wanted.html", context, status=status_of(form))
