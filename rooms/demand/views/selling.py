"""What sells: a file of the till, and proposals for the list by day of the week."""

from decimal import Decimal
from typing import Any

from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.utils import timezone

from cutting.errors import BadValue
from cutting.quantities import HUNDRED, parse_decimal
from rooms.common.db.writing import write
from rooms.common.errors import BadInput
from rooms.common.tables.files import LARGEST_FILE, rows_of
from rooms.common.web.forms import tidy
from rooms.common.web.refusals import Told
from rooms.demand.actions.take_sales import take_sales
from rooms.demand.actions.want import want
from rooms.demand.models import WEEKDAYS
from rooms.demand.queries.selling import by_folded_name, selling
from rooms.demand.queries.till import read_till
from rooms.staff.block import by_id
from rooms.staff.rights import Right, may

MOST_FACTOR = Decimal(500)


@may(Right.WANT)
def sales(request: HttpRequest) -> HttpResponse:
    """Proposals for one day of the week; taking a file in, and putting them on the list."""
    asked = request.POST if request.method == "POST" else request.GET
    weekday = _weekday(asked.get("weekday", ""))
    told, factor, text = Told(), Decimal(1), asked.get("factor", "") or "100"
    with told:
        factor = _factor(text)
        if request.method == "POST":
            return _posted(request, weekday, factor)
    context: dict[str, Any] = {
        "view": selling(weekday, timezone.localdate(), factor),
        "weekdays": WEEKDAYS,
        "factor": text,
        "refused": told.refused,
        "taken": request.GET.get("taken", ""),
    }
    return render(request, "demand/selling.html", context, status=told.status())


def _posted(request: HttpRequest, weekday: int, factor: Decimal) -> HttpResponse:
    if request.POST.get("accept"):
        _put_on_the_list(weekday, factor, by_id(request))
        return redirect("demand:wanted")
    file = request.FILES.get("file")
    if file is None:
        raise BadInput("File: none was chosen; a CSV or XLSX of the till is right.")
    rows = rows_of(file.read(LARGEST_FILE + 1))
    found = read_till(rows, by_folded_name(), timezone.localdate())
    many = take_sales(found, by_id(request), leave_out=bool(request.POST.get("leave_out")))
    return redirect(f"{reverse('demand:sales')}?taken={many}")


def _put_on_the_list(weekday: int, factor: Decimal, by: int | None) -> None:
    """As the page showed them: worked out by the same function."""
    lines = selling(weekday, timezone.localdate(), factor).lines
    known = [(line.product, line.proposal) for line in lines if line.proposal]
    if not known:
        raise BadInput("List: nothing is proposed for this day yet.")
    with write():
        for product, proposal in known:
            want(product, weekday, proposal.least, proposal.most, by)


def _weekday(text: str) -> int:
    if text.isascii() and text.isdecimal() and int(text[:3]) < len(WEEKDAYS):
        return int(text)
    return timezone.localdate().weekday()


def _factor(text: str) -> Decimal:
    try:
        found = parse_decimal(tidy(text.strip().removesuffix("%")), "Times as much as usual")
    except BadValue as bad:
        raise BadInput(f"{bad}.") from bad
    if not 0 < found <= MOST_FACTOR:
        raise BadInput(
            f"Times as much as usual: {text} %; above 0, at most {MOST_FACTOR} is right."
        )
    return found / HUNDRED
