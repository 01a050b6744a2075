"""Where to put the knife: choosing a piece, its layout, the strip."""

from typing import Any

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.utils import timezone
from django.views.decorators.http import require_GET, require_http_methods

from rooms.catalog.models import Piece, Plan
from rooms.common.downloads import download
from rooms.common.errors import BadInput
from rooms.common.formsets import by_number, faults_of, rows_of
from rooms.common.keys import own_key
from rooms.common.refusals import Told
from rooms.layout.actions.keep_measures import keep_measures
from rooms.layout.forms import PieceForm, ProductRow
from rooms.layout.queries import page
from rooms.layout.queries.strip import strip_pdf
from rooms.layout.rules.asking import is_metric, portion_unit
from rooms.layout.rules.pooling import pooled
from rooms.layout.rules.shapes import Shape, shapes
from rooms.staff.block import by_id
from rooms.staff.rights import Right, may


@may(Right.LOOK)
@require_GET
def front(request: HttpRequest) -> HttpResponse:
    """The pieces whose shape is known."""
    return render(request, "layout/front.html", {"pieces": page.front()})


@may(Right.WEIGH)
@require_http_methods(["GET", "POST"])
def piece(request: HttpRequest, key: str) -> HttpResponse:
    """One piece with its cut lines; everything asked stands in the address. Posting keeps what a
    ruler said."""
    one, shape, measured = _piece(key)
    told = Told()
    asked = _read(request, one, shape)
    view = None
    with told:
        view = _worked_out(asked, one, shape)
        if request.method == "POST":
            plain, own = shapes()[key], own_key(request.POST.get("key", ""))
            keep_measures(one, plain, asked["form"].asked(), own, by_id(request))
            return redirect(f"{request.path}?{request.GET.urlencode()}")
    context = {
        **asked,
        "piece": one,
        "shape": shape,
        "measured": measured,
        "is_measured": view is not None and asked["form"].asked().is_measured,
        "view": view,
        "refused": told.refused,
        "is_metric": is_metric(),
        "portion": portion_unit().value,
        "asked_for": request.GET.urlencode(),
    }
    return render(request, "layout/piece.html", context, status=told.status())


@may(Right.LOOK)
@require_GET
def strip(request: HttpRequest, key: str) -> HttpResponse:
    """The strip for the printer, with the cuts where a hand has moved them."""
    one, shape, _ = _piece(key)
    view = _worked_out(_read(request, one, shape), one, shape)
    layout = page.moved(view.layout, request.GET.get("marks", ""))
    content = strip_pdf(layout, one.shown_name)
    return download(f"strip-{one.key}.pdf", content)


def _piece(key: str) -> tuple[Piece, Shape, int]:
    """The piece, its shape by what the shop has measured, and how many were."""
    if key not in shapes():
        raise Http404
    one = get_object_or_404(Piece, key=key)
    found = pooled(one, shapes()[key], page.usual_weight(one))
    return one, found.shape, found.pieces


def _read(request: HttpRequest, one: Piece, shape: Shape) -> dict[str, Any]:
    """The forms as they were sent, or as a page begins."""
    plans = list(Plan.in_house_order(one.plans.all()))
    wanted = request.GET.get("plan", "")
    plan = next((each for each in plans if each.key == wanted), plans[0] if plans else None)
    first = page.rows_of(plan, shape, timezone.localdate())
    data: Any = request.GET
    if "weight" not in data:
        data = page.first_values(one, shape, plan)
    if not by_number(data, "name"):
        data = {**_plain(data), **_numbered(first)}
    form = PieceForm(data, piece=one)
    rows = rows_of(ProductRow, data, sorted(by_number(data, "name")))
    return {"form": form, "rows": rows, "plans": plans, "plan": plan}


def _plain(data: Any) -> dict[str, str]:
    return {name: data[name] for name in data}


def _numbered(rows: list[dict[str, Any]]) -> dict[str, str]:
    return {
        f"{name}-{number}": "on" if value is True else str(value)
        for number, row in enumerate(rows)
        for name, value in row.items()
        if value not in (False, "", None)
    }


def _worked_out(asked: dict[str, Any], one: Piece, shape: Shape) -> page.LayoutView:
    form, rows = asked["form"], asked["rows"]
    faults = [] if form.is_valid() else faults_of(form)
    for row in rows:
        if not row.is_valid():
            faults += row.faults(row["name"].value() or "product")
    if faults:
        raise BadInput(" ".join(faults[:6]))
    products = tuple(each for row in rows if (each := row.wanted) is not None)
    return page.work_out(form.asked(), shape, one, products)
