"""The next order, and what moves the demand."""

import uuid
from typing import Any

from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.utils import timezone
from django.views.decorators.http import require_GET, require_POST

from cutting.errors import BadValue
from cutting.quantities import ZERO
from rooms.common.clients import solver
from rooms.common.errors import BadInput
from rooms.common.web.downloads import download
from rooms.common.web.refusals import Told, status_of, told_by, told_in
from rooms.planner.actions.order import keep_order, send_order, set_terms, take_back
from rooms.planner.forms import TermsForm
from rooms.planner.models import BuyingTerms, NextOrder
from rooms.planner.queries.ordering import asking_order, newest_order, order_csv, order_view
from rooms.staff.block import by_id
from rooms.staff.rights import Right, may


@may(Right.PLAN)
def order(request: HttpRequest) -> HttpResponse:
    """What to order next, and working it out again."""
    told = Told()
    if request.method == "POST":
        with told:
            _work_out(request)
            return redirect("planner:order")
    return _order(request, told)


def _work_out(request: HttpRequest) -> NextOrder:
    try:
        key = uuid.UUID(request.POST.get("key", ""))
    except ValueError:
        raise BadInput("Order: its key is damaged; open the page again.") from None
    try:
        asked = asking_order(timezone.localdate())
    except BadValue as bad:
        raise BadInput(f"{bad}.") from bad
    answer = solver.ask("/order", asked.document)
    days = asked.arrives_on, asked.lasts_until
    document = asked.document | {"left_out": asked.left_out}
    return keep_order(key, days, document, answer, by_id(request))


def _order(request: HttpRequest, told: Told, terms: TermsForm | None = None) -> HttpResponse:
    last = newest_order()
    context = {
        "view": order_view(last) if last else None,
        "key": uuid.uuid4(),
        "refused": told.refused,
        "today": timezone.localdate(),
        "terms": terms or TermsForm(initial={"in_case": 1}),
        "known": BuyingTerms.objects.select_related("piece").order_by("piece__position"),
    }
    status = status_of(terms) if terms is not None else told.status()
    return render(request, "planner/order.html", context, status=status)


def _refused(request: HttpRequest, refused: Any) -> HttpResponse:
    told = Told()
    told.refused = refused
    return _order(request, told)


@may(Right.PLAN)
@require_POST
@told_by(lambda request, refused, order_id: _refused(request, refused))
def send(request: HttpRequest, order_id: int) -> HttpResponse:
    """The order is sent: it counts as coming."""
    get_object_or_404(NextOrder, pk=order_id)
    send_order(order_id)
    return redirect("planner:order")


@may(Right.PLAN)
@require_POST
def unsend(request: HttpRequest, order_id: int) -> HttpResponse:
    """It does not come after all."""
    get_object_or_404(NextOrder, pk=order_id)
    take_back(order_id)
    return redirect("planner:order")


@may(Right.LOOK)
@require_GET
def order_file(request: HttpRequest, order_id: int) -> HttpResponse:
    """For the supplier."""
    found = get_object_or_404(NextOrder, pk=order_id)
    return download(f"order-{found.arrives_on:%Y-%m-%d}.csv", order_csv(found))


@may(Right.PLAN)
@require_POST
def terms(request: HttpRequest) -> HttpResponse:
    """How a piece is bought."""
    form = TermsForm(request.POST)
    if not form.is_valid():
        return _order(request, Told(), form)
    data = form.cleaned_data
    with told_in(form):
        more = data["more"] or ZERO
        set_terms(data["piece"], data["in_case"], more, by_id(request), data["seen"])
        return redirect("planner:order")
    return _order(request, Told(), form)
