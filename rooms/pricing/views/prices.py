"""Building prices from a test: the page, its fragment, and what a drag looks up."""

from dataclasses import dataclass
from typing import Any
from uuid import UUID

from django.http import Http404, HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.views.decorators.http import require_GET, require_http_methods

from rooms.bench.queries.rows import load
from rooms.common.web.forms import is_number, read_day
from rooms.common.web.refusals import Told
from rooms.pricebook.actions.prices import newest_price
from rooms.pricebook.queries.product_terms import usual_target
from rooms.pricing.actions.save import Saving, save_prices
from rooms.pricing.queries.building import price_view
from rooms.pricing.queries.drag import drag_stops, steps_below
from rooms.pricing.queries.lines import PriceRow
from rooms.pricing.queries.wishes import BASES, CONVENTIONS, LADDERS, WAYS, wish_from
from rooms.staff.block import by_id
from rooms.staff.rights import Right, may
from wording.pencil import Pencil


@may(Right.PRICE)
@require_http_methods(["GET", "POST"])
def set_from_test(request: HttpRequest, test_id: UUID) -> HttpResponse:
    """Cost to price, row by row; saving makes them the prices from a day on."""
    rows = _rows(test_id)
    if rows.test.is_open:
        return redirect("bench:test", test_id)
    typed = request.POST or request.GET
    refused = None
    if request.method == "POST" and "solve" not in request.POST:
        with Told() as told:
            day = read_day(request.POST.get("from", ""), "From")
            seen = request.POST.get("seen", "")
            saving = Saving(
                by_id(request),
                day,
                " ".join(request.POST.get("why", "").split()),
                int(seen) if is_number(seen) else None,
            )
            save_prices(rows, wish_from(typed), saving)
            return redirect(f"{reverse('bench:sheet', args=[test_id])}?saved=1")
        refused = told.refused
    context = _context(rows, typed) | {
        "refused": refused,
        "newest_price": newest_price(),
        "ways": WAYS,
        "conventions": CONVENTIONS,
        "ladders": LADDERS,
        "bases": BASES,
        "usual_target": usual_target(),
    }
    status = refused.status if refused else 200
    return render(request, "pricing/set_prices.html", context, status=status)


@may(Right.LOOK)
@require_GET
def proposal(request: HttpRequest, test_id: UUID) -> HttpResponse:
    """The table of proposals alone."""
    context = _context(_rows(test_id), request.GET)
    status = 422 if context["view"].has_faults else 200
    return render(request, "pricing/_proposal.html", context, status=status)


@may(Right.LOOK)
@require_GET
def drag(request: HttpRequest, test_id: UUID) -> HttpResponse:
    """The piece at every price one product may have; the page looks it up while dragging."""
    row = request.GET.get("row", "")
    view = price_view(_rows(test_id), wish_from(request.GET))
    found = drag_stops(view, int(row)) if row.isdecimal() and len(row) < 19 else None
    if found is None:
        raise Http404
    return JsonResponse(found)


@dataclass(frozen=True)
class PricedRow:
    """One line of the table: its price, where the slider stands of how many stops, its working,
    and its box in the bar as (x, width)."""

    row: PriceRow
    place: int
    most: int
    pencil: Pencil
    box: tuple[float, float]


def _context(rows: Any, typed: Any) -> dict[str, Any]:
    view = price_view(rows, wish_from(typed))
    places = steps_below(view)
    table = [
        PricedRow(row, *places.get(row.id, (0, 0)), view.pencil_of(row), box)
        for row, box in zip(view.table, view.bar.boxes, strict=True)
    ]
    return {
        "view": view,
        "test": rows.test,
        "table": table,
        "typed_day": typed.get("from", ""),
        "typed_why": typed.get("why", ""),
    }


def _rows(test_id: UUID) -> Any:
    rows = load(test_id)
    if rows is None:
        raise Http404
    return rows
