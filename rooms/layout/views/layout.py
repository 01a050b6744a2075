"""Where to put the knife: choosing a piece, its layout, the strip."""

from typing import Any

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_GET, require_http_methods

from rooms.catalog.models import Piece
from rooms.catalog.queries.shapes import shapes
from rooms.common.db.keys import own_key
from rooms.common.web.downloads import download
from rooms.common.web.refusals import Told
from rooms.layout.actions.keep_measures import keep_measures
from rooms.layout.forms import Reading, read
from rooms.layout.queries import page
from rooms.layout.queries.asking import is_metric, portion_unit
from rooms.layout.queries.cut_on import cut_on
from rooms.layout.queries.first import front as its_pieces
from rooms.layout.queries.strip import strip_pdf
from rooms.staff.block import by_id
from rooms.staff.rights import Right, may


@may(Right.LOOK)
@require_GET
def front(request: HttpRequest) -> HttpResponse:
    """The pieces whose shape is known."""
    return render(request, "layout/front.html", {"pieces": its_pieces()})


@may(Right.WEIGH)
@require_http_methods(["GET", "POST"])
def piece(request: HttpRequest, key: str) -> HttpResponse:
    """One piece with its cut lines; everything asked stands in the address. Posting keeps what a
    ruler said."""
    reading = _reading(request, key)
    told = Told()
    view, is_measured, on = None, False, []
    with told:
        asked, task = reading.task
        is_measured = asked.is_measured
        view = page.work_out(asked, task, request.GET.get("beside", ""))
        on = cut_on(reading.plan, reading.shape, asked.weight)
        if request.method == "POST":
            own = own_key(request.POST.get("key", ""))
            keep_measures(reading.piece, reading.shape, asked, own, by_id(request))
            return redirect(f"{request.path}?{request.GET.urlencode()}")
    plain = request.GET.copy()
    plain.pop("beside", None)
    context: dict[str, Any] = {
        "piece": reading.piece,
        "shape": reading.shape,
        "ends": reading.ends,
        "parts": shapes()[key] if len(shapes()[key]) > 1 else (),
        "form": reading.form,
        "rows": reading.rows,
        "zones": reading.zones,
        "plan": reading.plan,
        "is_compared": reading.is_compared,
        "pooled": reading.pooled,
        "is_measured": is_measured,
        "view": view,
        "cut_on": on,
        "refused": told.refused,
        "is_metric": is_metric(),
        "portion": portion_unit().value,
        "asked_for": plain.urlencode(),
        "test": reading.form["test"].value() or "",
    }
    return render(request, "layout/piece.html", context, status=told.status())


@may(Right.LOOK)
@require_GET
def strip(request: HttpRequest, key: str) -> HttpResponse:
    """The strip for the printer, with the cuts where a hand has moved them; as pages, or as one
    long label for a roll."""
    reading = _reading(request, key)
    layout = page.moved(page.work_out(*reading.task).layout, request.GET.get("marks", ""))
    is_roll = request.GET.get("stock") == "roll"
    content = strip_pdf(layout, reading.piece.shown_name, is_roll=is_roll)
    return download(f"strip-{reading.piece.key}.pdf", content)


def _reading(request: HttpRequest, key: str) -> Reading:
    if key not in shapes():
        raise Http404
    return read(request.GET, get_object_or_404(Piece, key=key))
