"""When the invoice moves: new costs in, one list to look at, accept all, some or none."""

import uuid
from dataclasses import dataclass
from typing import Any

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.utils import timezone
from django.views.decorators.http import require_GET, require_http_methods, require_POST

from cutting.quantities import UnitPrice
from rooms.common.errors import BadInput, Refused
from rooms.common.tables.files import LARGEST_FILE
from rooms.common.web.forms import read_day, read_key
from rooms.common.web.refusals import Told, told_by
from rooms.cooler.models import Delivery
from rooms.cooler.queries.deliveries import delivery_prices
from rooms.pricing.actions.review import (
    Accepting,
    Moving,
    ToCome,
    accept,
    choose_method,
    close_review,
    start_review,
    tick,
    tick_all,
)
from rooms.pricing.models import METHODS, Review
from rooms.pricing.queries.depending import PieceCost, depending, pieces_behind
from rooms.pricing.queries.reviewing import file_costs, lines_of, typed_costs
from rooms.staff.block import by_id
from rooms.staff.rights import Right, may

LAST = 12


@dataclass(frozen=True)
class CostLine:
    """A piece with what was typed as its cost, what a delivery says, and what is wrong."""

    cost: PieceCost
    typed: str
    delivered: UnitPrice | None
    fault: str

    @property
    def shown(self) -> str:
        return self.typed or (f"{self.delivered.amount:f}" if self.delivered else "")


def _named(delivery: Delivery) -> str:
    day = timezone.localtime(delivery.received_at)
    return f"{delivery.number}, {delivery.supplier}, {day:%-d %b}"


@may(Right.PRICE)
@require_http_methods(["GET", "POST"])
def invoices(request: HttpRequest) -> HttpResponse:
    """What each piece costs now, typed, from a delivery or from a file."""
    rows = depending()
    pieces = pieces_behind(rows)
    delivery = _delivery(request.GET.get("delivery", ""))
    from_delivery = delivery_prices(delivery.pk) if delivery else {}
    faults: dict[int, str] = {}
    file_faults: list[str] = []
    told = Told()
    if request.method == "POST":
        costs, faults = typed_costs(pieces, request.POST)
        source = request.POST.get("source", "") or "entered"
        with told:
            file = request.FILES.get("file")
            if file:
                more, file_faults = file_costs(file.read(LARGEST_FILE + 1))
                costs, source = more | costs, f"from {file.name}"
            if not faults and not file_faults:
                moving = Moving(request.POST.get("key", ""), source[:100], costs)
                made = start_review(moving, by_id(request), known=rows)
                return redirect("pricing:review", made.pk)
    shown = [
        CostLine(
            one,
            request.POST.get(f"cost-{one.piece.pk}", ""),
            from_delivery.get(one.piece.pk),
            faults.get(one.piece.pk, ""),
        )
        for one in pieces
    ]
    context = {
        "pieces": shown,
        "delivery": delivery,
        "file_faults": file_faults,
        "refused": told.refused,
        "deliveries": [(one.pk, _named(one)) for one in Delivery.objects.all()[:LAST]],
        "typed_key": request.POST.get("key", ""),
        "reviews": Review.objects.select_related("made_by", "version")[:LAST],
    }
    status = told.status(is_wrong=bool(faults or file_faults))
    return render(request, "pricing/invoices.html", context, status=status)


def _delivery(text: str) -> Delivery | None:
    try:
        return Delivery.objects.filter(pk=uuid.UUID(text)).first() if text else None
    except ValueError:
        raise Http404 from None


@may(Right.LOOK)
@require_GET
def review(request: HttpRequest, pk: Any) -> HttpResponse:
    return _review(request, pk)


def _review(request: HttpRequest, pk: Any, refused: Refused | None = None) -> HttpResponse:
    one = get_object_or_404(Review.objects.select_related("made_by", "version"), pk=pk)
    number = request.GET.get("page") or request.POST.get("page")
    page, lines = lines_of(one, number)
    if refused is not None and request.POST.get("do") == "accept":  # as it was ticked, not yet kept
        for row in lines:
            row.line.is_ticked = str(row.line.pk) in request.POST.getlist("tick")
    context = {
        "agreed": refused.mark if isinstance(refused, ToCome) else "",
        "review": one,
        "page": page,
        "lines": lines,
        "refused": refused,
        "methods": METHODS,
        "costs": one.costs.select_related("piece"),
        "kept": "",
        "ticked": one.lines.filter(is_ticked=True, version=None).count(),
        "accepted": one.lines.exclude(version=None).count(),
        "today": timezone.localdate(),
        "typed_day": request.POST.get("from", ""),
    }
    status = refused.status if refused else 200
    return render(request, "pricing/review.html", context, status=status)


@may(Right.PRICE)
@require_POST
@told_by(lambda request, refused, pk: _review(request, pk, refused))
def decide(request: HttpRequest, pk: Any) -> HttpResponse:
    """Keep the ticks of a page; tick all or none; the other method; or accept what is ticked."""
    what, posted = request.POST.get("do", "keep"), request.POST
    if what in ("all", "none"):
        tick_all(pk, on=what == "all")
    elif what.startswith("method-"):
        _keep(pk, posted)
        choose_method(pk, what.removeprefix("method-"))
    elif what == "accept":
        wanted = Accepting(
            read_key(posted.get("key", "")),
            frozenset(_numbers(posted.getlist("tick"))),
            read_day(posted.get("from", ""), "From"),
            frozenset(_numbers(posted.getlist("shown"))),
            _whole(posted["seen"]) if "seen" in posted else None,
            posted.get("agreed", ""),
        )
        version = accept(pk, by_id(request), wanted)
        return redirect("pricebook:version", version.number)
    elif what == "close":
        close_review(pk)
        return redirect("pricing:invoices")
    else:
        _keep(pk, posted)
    if what.startswith("page-"):
        return redirect(f"{request.path.removesuffix('decide/')}?page={_whole(what[5:])}")
    page = _whole(posted.get("page", "1"))
    return redirect(f"{request.path.removesuffix('decide/')}?page={page}")


def _whole(text: str) -> int:
    return int(text) if text.isdecimal() and len(text) < 7 else 1


def _keep(pk: Any, posted: Any) -> None:
    """The ticks of the page that was sent."""
    if "shown" in posted and Review.objects.filter(pk=pk, closed_at=None).exists():
        tick(pk, _numbers(posted.getlist("shown")), _numbers(posted.getlist("tick")))


def _numbers(texts: list[str]) -> set[int]:
    wrong = [text for text in texts if not text.isdecimal() or len(text) > 18]
    if wrong:
        raise BadInput(f"Line: “{wrong[0][:20]}” is no line of this review; load the page again.")
    return {int(text) for text in texts}
