"""The way back: from anything to everything it is of, and everything made of it."""

import uuid
from collections.abc import Callable

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.views.decorators.http import require_GET

from cutting.tracing.lots import lot_key
from rooms.common.errors import BadInput
from rooms.common.web.refusals import Told
from rooms.recall.models import Recall
from rooms.recall.queries.finding import Match, found
from rooms.recall.queries.trace_page import address_of, one_line, way_view
from rooms.staff.rights import Right, may
from rooms.trays.queries.lot_graph import Start, exists

KINDS: dict[str, Callable[[uuid.UUID], Start]] = {
    "bag": lambda pk: Start(bag=pk),
    "test": lambda pk: Start(test=pk),
    "tub": lambda pk: Start(tub=pk),
    "batch": lambda pk: Start(batch=pk),
    "tray": lambda pk: Start(tray=pk),
}


@may(Right.LOOK)
@require_GET
def front(request: HttpRequest) -> HttpResponse:
    """A lot, a test, a tub, a batch, a tray, a label's code: typed or scanned."""
    told, code = Told(), request.GET.get("code", "")
    matches: list[Match] = []
    if "code" in request.GET:
        with told:
            matches = found(code)
            if len(matches) == 1:
                return redirect(_address(matches[0]))
    context = {
        "code": code[:300],
        "matches": [(one.words, _address(one)) for one in matches],
        "recalls": Recall.objects.select_related("hold__lifted", "by")[:12],
        "refused": told.refused,
    }
    return render(request, "recall/trace_front.html", context, status=told.status())


def _address(match: Match) -> str:
    return address_of(match.kind, match.name)


@may(Right.LOOK)
@require_GET
def of_lot(request: HttpRequest) -> HttpResponse:
    """The way of a supplier's lot."""
    key = lot_key(request.GET.get("lot", ""))
    start = Start(lot=key)
    view = way_view(start, request.GET.get("page")) if key else None
    if view is None or not view.is_known:
        words = " ".join(request.GET.get("lot", "").split())[:60]
        raise BadInput(f"Lot: nothing here is of lot “{words}”; one as on the bag is right.")
    return render(request, "recall/trace.html", {"view": view, "start": start})


@may(Right.LOOK)
@require_GET
def of(request: HttpRequest, kind: str, pk: uuid.UUID) -> HttpResponse:
    """The way of a bag, a test, a tub, a batch, a tray."""
    return _way(request, _start(kind, pk))


def _start(kind: str, pk: uuid.UUID) -> Start:
    if kind not in KINDS:
        raise Http404
    start = KINDS[kind](pk)
    if not exists(start):
        raise Http404
    return start


def _way(request: HttpRequest, start: Start) -> HttpResponse:
    view = way_view(start, request.GET.get("page"))
    return render(request, "recall/trace.html", {"view": view, "start": start})


@may(Right.LOOK)
@require_GET
def line(request: HttpRequest, kind: str, pk: uuid.UUID) -> HttpResponse:
    """For the bench, the grinder, a bag, a tray: where its meat comes from and goes to, in one line."""
    start = _start(kind, pk)
    context = {"line": one_line(start), "address": reverse("recall:trace", args=[kind, pk])}
    return render(request, "recall/_line.html", context)
