"""Pages of the cooler: bags on their time lines, one bag, the calendar, windows."""

from datetime import date
from typing import Any
from uuid import UUID

from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.utils import timezone
from django.views.decorators.http import require_GET, require_POST

from drawings.bag_line import Axis
from rooms.catalog.models import Piece
from rooms.common.errors import BadInput, Refused
from rooms.common.web.refusals import Told, rebasing, status_of, told_by, told_in
from rooms.cooler.actions.bags import (
    correct_bag,
    leave,
    set_quality,
    set_seal,
    set_window,
    weigh_again,
)
from rooms.cooler.actions.parts import seal_again
from rooms.cooler.forms import BagForm, QualityForm, WeightForm, WindowForm
from rooms.cooler.models import AgeWindow, Bag, Seal
from rooms.cooler.queries import bags as readings
from rooms.cooler.queries import temperature
from rooms.cooler.queries.meat import asks_origin, life_in_words
from rooms.cooler.queries.windows import usual, windows
from rooms.shop.queries.current import house
from rooms.staff.block import by_id
from rooms.staff.rights import Right, may


@may(Right.LOOK)
@require_GET
def cooler(request: HttpRequest) -> HttpResponse:
    """Every bag in the cooler, the most pressing first."""
    get = request.GET.get
    view = readings.cooler(timezone.localdate(), get("page"), _day(get("wanted")))
    context = {
        "view": view,
        "now": temperature.now(),
        "today": timezone.localdate(),
        "kept": f"wanted={view.wanted_on}" if view.wanted_on else "",
    }
    return render(request, "cooler/cooler.html", context)


def _day(text: str | None) -> date | None:
    try:
        return date.fromisoformat(text) if text else None
    except ValueError:
        return None


@may(Right.LOOK)
@require_GET
def calendar(request: HttpRequest) -> HttpResponse:
    """Two weeks: what ends, what comes into its best, when the ferry comes."""
    days = readings.calendar(timezone.localdate(), house().delivery_days)
    return render(request, "cooler/calendar.html", {"days": days})


@may(Right.LOOK)
@require_GET
def bag_page(request: HttpRequest, bag_id: UUID) -> HttpResponse:
    return _bag_page(request, bag_id, WeightForm(initial={"unit": house().unit}))


def _bag_page(
    request: HttpRequest,
    bag_id: UUID,
    form: Any,
    refused: Refused | None = None,
    quality: QualityForm | None = None,
    papers: BagForm | None = None,
) -> HttpResponse:
    bag = get_object_or_404(
        Bag.objects.select_related("piece", "delivery", "part_of__piece", "cut_of__piece"),
        pk=bag_id,
    )
    today = timezone.localdate()
    axes = readings.Axes(today, Axis(today - readings.BACK, today + readings.AHEAD, 760.0))
    (view,) = readings.views_of([bag], axes)
    context = {
        "view": view,
        "bag": bag,
        "events": bag.events.select_related("by"),
        "form": form,
        "parts": bag.parts.all(),
        "pieces": bag.pieces.exclude(state=Bag.State.UNDONE).select_related("piece"),
        "age": bag.aged.on(today),
        "seals": Seal.choices,
        "refused": refused,
        "life": life_in_words(bag),
        "asks_origin": asks_origin(bag),
        "papers": papers or BagForm(initial=BagForm.filled(bag)),
        "quality": quality
        or QualityForm(
            initial={"damage": bag.damage, "marbling": bag.marbling, "claims": bag.claims}
        ),
    }
    wrong = form.errors or any(one and one.errors for one in (quality, papers))
    status = refused.status if refused else (422 if wrong else 200)
    return render(request, "cooler/bag.html", context, status=status)


@may(Right.RECEIVE)
@require_POST
@told_by(lambda request, refused, bag_id: _bag_page(request, bag_id, WeightForm(), refused))
def seal(request: HttpRequest, bag_id: UUID) -> HttpResponse:
    set_seal(bag_id, request.POST.get("seal", ""), by_id(request))
    return redirect("cooler:bag", bag_id)


@may(Right.RECEIVE)
@require_POST
@told_by(lambda request, refused, bag_id: _bag_page(request, bag_id, WeightForm(), refused))
def sealed(request: HttpRequest, bag_id: UUID) -> HttpResponse:
    """A piece that was cut here is sealed again, or was not."""
    wanted = request.POST.get("sealed", "")
    if wanted not in ("0", "1"):
        raise BadInput(f"Sealed: “{wanted[:20]}”; 1 or 0 is right.")
    seal_again(bag_id, is_sealed=wanted == "1", by_id=by_id(request))
    return redirect("cooler:bag", bag_id)


@may(Right.RECEIVE)
@require_POST
def quality(request: HttpRequest, bag_id: UUID) -> HttpResponse:
    """Damage, marbling by eye and claims of one bag."""
    form = QualityForm(request.POST)
    if not form.is_valid():
        return _bag_page(request, bag_id, WeightForm(), quality=form)
    data, told = form.cleaned_data, Told()
    with told:
        set_quality(bag_id, data["damage"], data["marbling"], data["claims"], by_id(request))
        return redirect("cooler:bag", bag_id)
    return _bag_page(request, bag_id, WeightForm(), told.refused, quality=form)


@may(Right.RECEIVE)
@require_POST
def correct(request: HttpRequest, bag_id: UUID) -> HttpResponse:
    """What a bag came with, put right."""
    form, told = BagForm(request.POST), Told()
    if form.is_valid():
        with told, rebasing(form):
            correct_bag(bag_id, form.facts(), form.cleaned_data["seen"], by_id(request))
            return redirect("cooler:bag", bag_id)
    return _bag_page(request, bag_id, WeightForm(), told.refused, papers=form)


@may(Right.RECEIVE)
@require_POST
@told_by(lambda request, refused, bag_id: _bag_page(request, bag_id, WeightForm(), refused))
def leaves(request: HttpRequest, bag_id: UUID) -> HttpResponse:
    """A bag is sent back or thrown away."""
    leave(bag_id, request.POST.get("state", ""), request.POST.get("reason", ""), by_id(request))
    return redirect("cooler:bag", bag_id)


@may(Right.RECEIVE)
@require_POST
@told_by(
    lambda request, refused, bag_id: _bag_page(request, bag_id, WeightForm(request.POST), refused)
)
def weigh(request: HttpRequest, bag_id: UUID) -> HttpResponse:
    """The bag on the shop's own scale."""
    form = WeightForm(request.POST)
    if not form.is_valid():
        return _bag_page(request, bag_id, form)
    weigh_again(bag_id, form.weight_found(), by_id(request))
    return redirect("cooler:bag", bag_id)


@may(Right.LOOK)
@require_GET
def window_list(request: HttpRequest) -> HttpResponse:
    """The window of every piece, the shop's own marked."""
    pieces = list(Piece.objects.select_related("primal"))
    own = set(AgeWindow.objects.values_list("piece_id", flat=True))
    found = windows(pieces)
    rows = [(piece, found[piece.pk], piece.pk in own) for piece in pieces]
    return render(request, "cooler/windows.html", {"rows": rows})


@may(Right.SHOP)
def window(request: HttpRequest, key: str) -> HttpResponse:
    """Change a piece's window."""
    piece = get_object_or_404(Piece, key=key)
    now = windows([piece])[piece.pk]
    names = ("least", "best_from", "best_to", "end")
    initial = {name: getattr(now, name) for name in names}
    form = WindowForm(request.POST or None, initial=initial)
    if request.method == "POST" and form.is_valid():
        data = form.cleaned_data
        with told_in(form):
            set_window(piece, data["window"], by_id(request), data["seen"])
            return redirect("cooler:windows")
    context = {"piece": piece, "form": form, "usual": usual(piece)}
    return render(request, "cooler/window.html", context, status=status_of(form))
