"""Marking down: what is due, each or all of it by the shop's rule."""

from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.utils import timezone
from django.views.decorators.http import require_GET, require_http_methods

from cutting.errors import BadValue
from cutting.quantities import parse_decimal
from rooms.common.errors import BadInput, Refused
from rooms.common.web.forms import read_key, tidy
from rooms.common.web.refusals import Told
from rooms.staff.block import by_id
from rooms.staff.rights import Right, may
from rooms.trays.actions.mark_down import mark_down, mark_down_all
from rooms.trays.actions.printing import print_waiting
from rooms.trays.queries.marking import marking
from rooms.trays.queries.shrink import shrink_lately


@may(Right.WEIGH)
@require_http_methods(["GET", "POST"])
def front(request: HttpRequest) -> HttpResponse:
    """What will pass its last day."""
    told, wrong = Told(), ""
    if request.method == "POST":
        wrong = request.POST.get("tray", "")
        with told:
            _mark(request)
        print_waiting()  # also of what was marked down before another was refused
        if told.refused is None:
            return redirect("trays:marking")
    context = {
        "marking": marking(timezone.localdate()),
        "wrong": wrong if told.refused else "",
        "typed": request.POST.get("amount", ""),
        "refused": told.refused,
    }
    return render(request, "trays/marking.html", context, status=told.status())


def _mark(request: HttpRequest) -> None:
    key, at = read_key(request.POST.get("key", "")), by_id(request)
    if request.POST.get("what") == "all":
        rows = {read_key(one, "Tray"): seen for one, seen in _seen(request)}
        _, told = mark_down_all(key, rows, at)
        if told:
            raise Refused(" ".join(told))
        return
    tray = read_key(request.POST.get("tray", ""), "Tray")
    text = tidy(request.POST.get("amount", ""))
    try:
        amount = parse_decimal(text, "price") if text else None
    except BadValue as bad:
        raise BadInput(f"Price: {bad.wrong}; {bad.right}.") from bad
    mark_down(key, tray, amount, at, request.POST.get("seen", ""))


def _seen(request: HttpRequest) -> list[tuple[str, str]]:
    """“<tray> <price>” of each that the page showed."""
    pairs = [text.partition(" ") for text in request.POST.getlist("row")]
    return [(tray, seen) for tray, _, seen in pairs]


@may(Right.LOOK)
@require_GET
def shrink(request: HttpRequest, product_id: int) -> HttpResponse:
    """For the product's page in the price book: what its trays lost."""
    found = shrink_lately(timezone.localdate(), [product_id]).get(product_id)
    return render(request, "trays/_shrink.html", {"shrink": found})
