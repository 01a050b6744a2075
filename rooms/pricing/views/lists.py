"""The list of current prices, names, give and take."""

from typing import Any

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import render
from django.views.decorators.http import require_GET

from rooms.common.web.paging import page_of
from rooms.pricebook.queries.book import on_sale
from rooms.pricebook.queries.names import same_names
from rooms.pricing.queries.bringing import brings
from rooms.pricing.queries.giving import giving, links, links_of
from rooms.pricing.queries.listing import current_prices
from rooms.staff.rights import Right, may


@may(Right.LOOK)
@require_GET
def prices(request: HttpRequest) -> HttpResponse:
    page = page_of(request, on_sale())
    context = {"page": page, "prices": current_prices(page.object_list), "same_names": same_names()}
    return render(request, "pricing/prices.html", context)


@may(Right.LOOK)
@require_GET
def names(request: HttpRequest) -> HttpResponse:
    """Products of one name on two muscles."""
    return render(request, "pricing/same_names.html", {"same_names": same_names()})


@may(Right.LOOK)
@require_GET
def give_take(request: HttpRequest, key: str) -> HttpResponse:
    """What one product gives when another takes more."""
    view = _giving(request, key)
    context = {"view": view, "links": links().items()}
    return render(request, "pricing/giving.html", context, status=422 if view.has_faults else 200)


@may(Right.LOOK)
@require_GET
def give_take_sum(request: HttpRequest, key: str) -> HttpResponse:
    """The sum alone, as numbers are typed."""
    view = _giving(request, key)
    status = 422 if view.has_faults else 200
    return render(request, "pricing/_giving.html", {"view": view}, status=status)


@may(Right.LOOK)
@require_GET
def piece_links(request: HttpRequest, piece: Any) -> HttpResponse:
    """Give and take that touch a piece, for its guide."""
    return render(request, "pricing/_links.html", {"links": links_of(piece)})


@may(Right.LOOK)
@require_GET
def piece_brings(request: HttpRequest, piece: Any) -> HttpResponse:
    """What a plan of a piece brings at today's prices, for its guide."""
    context = {"brings": brings(piece, request.GET.get("plan", ""))}
    return render(request, "pricing/_brings.html", context)


def _giving(request: HttpRequest, key: str) -> HttpResponse:
    if key not in links():
        raise Http404
    return giving(key, request.GET.dict())
