"""Setting prices from a test, and the list of current prices."""

from django.http import Http404
from django.shortcuts import redirect, render
from django.urls import reverse
from django.views.decorators.http import require_GET, require_http_methods

from rooms.bench.rows import load
from rooms.common.errors import Refused
from rooms.counter.actions import save_prices
from rooms.counter.bringing import brings
from rooms.counter.giving import giving, links, links_of
from rooms.counter.readings import Wish, current_prices, price_view
from rooms.pricebook.readings import same_names
from rooms.staff.block import who
from rooms.staff.rights import Right, may


@may(Right.LOOK)
@require_GET
def prices(request):
    context = {"prices": current_prices(), "same_names": same_names()}
    return render(request, "counter/prices.html", context)


@may(Right.LOOK)
@require_GET
def names(request):
    """Products of one name on two muscles; the list alone for a page that includes it."""
    template = "_same_names" if request.headers.get("HX-Request") else "same_names"
    return render(request, f"counter/{template}.html", {"same_names": same_names()})


@may(Right.LOOK)
@require_GET
def give_take(request, key):
    """What one product gives when another takes more."""
    view = _giving(request, key)
    context = {"view": view, "links": links().items()}
    return render(request, "counter/giving.html", context, status=422 if view.has_faults else 200)


@may(Right.LOOK)
@require_GET
def give_take_sum(request, key):
    """The sum alone, as numbers are typed."""
    view = _giving(request, key)
    status = 422 if view.has_faults else 200
    return render(request, "counter/_giving.html", {"view": view}, status=status)


@may(Right.LOOK)
@require_GET
def piece_links(request, piece):
    """Give and take that touch a piece, for its guide."""
    return render(request, "counter/_links.html", {"links": links_of(piece)})


@may(Right.LOOK)
@require_GET
def piece_brings(request, piece):
    """What a plan of a piece brings at today's prices, for its guide."""
    context = {"brings": brings(piece, request.GET.get("plan", ""))}
    return render(request, "counter/_brings.html", context)


def _giving(request, key):
    if key not in links():
        raise Http404
    return giving(key, request.GET.dict())


@may(Right.PRICE)
@require_http_methods(["GET", "POST"])
def set_from_test(request, test_id):
    """Cost to price, row by row; saving makes them the current prices."""
    rows = _rows(test_id)
    if rows.test.is_open:
        return redirect("bench:test", test_id)
    wish = _wish(request.POST or request.GET)
    refused = None
    if request.method == "POST":
        at = who(request)
        try:
            save_prices(rows, wish, at.id if at else None)
        except Refused as why:
            refused = why
        else:
            return redirect(f"{reverse('bench:sheet', args=[test_id])}?saved=1")
    context = {"view": price_view(rows, wish), "test": rows.test, "refused": refused}
    status = refused.status if refused else 200
    return render(request, "counter/set_prices.html", context, status=status)


@may(Right.LOOK)
@require_GET
def proposal(request, test_id):
    """The table of proposals alone."""
    rows = _rows(test_id)
    view = price_view(rows, _wish(request.GET))
    return render(
        request, "counter/_proposal.html", {"view": view, "test": rows.test},
        status=422 if view.has_faults else 200,
    )  # fmt: skip


def _rows(test_id):
    rows = load(test_id)
    if rows is None:
        raise Http404
    return rows


def _wish(data) -> Wish:
    def by_id(prefix):
        return {
            int(name.removeprefix(prefix)): value
            for name, value in data.items()
            if name.startswith(prefix) and name.removeprefix(prefix).isdecimal()
        }

    return Wish(
        school=data.get("school", ""),
        target=data.get("target", ""),
        targets=by_id("target-"),
        locked=frozenset(by_id("lock-")),
        prices=by_id("price-"),
        shown=by_id("shown-"),
    )
