"""Placing a weighing that could not go where it was sent; voiding a test opened by mistake."""

from uuid import UUID

from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_GET, require_POST

from rooms.bench.actions.finishing import void_test
from rooms.bench.actions.weighings import discard_weighing, place_weighing
from rooms.bench.queries.unplaced import all_waiting
from rooms.bench.views.block import weighings_page
from rooms.bench.views.weighing import bench_page, rows_or_404
from rooms.common.db.keys import own_key
from rooms.common.errors import BadInput
from rooms.common.web.forms import is_number
from rooms.common.web.refusals import told_by
from rooms.staff.block import by_id
from rooms.staff.rights import Right, may


@may(Right.WEIGH)
@require_POST
@told_by(lambda request, refused, test_id: weighings_page(request, rows_or_404(test_id), refused))
def place(request: HttpRequest, test_id: UUID) -> HttpResponse:
    """Onto a pile, or nowhere with a reason."""
    posted = request.POST.get
    row, key = posted("row", ""), own_key(posted("key", ""))
    if not is_number(row):
        raise BadInput("Weighing: choose one of those shown.")
    if posted("what") == "discard":
        discard_weighing(key, int(row), posted("reason", ""), by_id(request))
    else:
        place_weighing(key, int(row), posted("to", ""), by_id(request))
    return redirect("bench:weighings", test_id)


@may(Right.LOOK)
@require_GET
def not_placed(request: HttpRequest) -> HttpResponse:
    """For the morning's page."""
    return render(request, "bench/_not_placed.html", {"unplaced": all_waiting()})


@may(Right.WEIGH)
@require_POST
@told_by(lambda request, refused, test_id: bench_page(request, rows_or_404(test_id), "", refused))
def void(request: HttpRequest, test_id: UUID) -> HttpResponse:
    """A test that was opened by mistake."""
    void_test(test_id, request.POST.get("reason", ""), by_id(request))
    return redirect("bench:test", test_id)
