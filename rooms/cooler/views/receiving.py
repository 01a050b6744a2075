"""Receiving: starting a delivery, adding bags, checking it, the claim sheet."""

import hashlib
import uuid
from typing import Any
from uuid import UUID

from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_GET, require_POST

from rooms.catalog.models import Piece
from rooms.common.errors import BadInput, Refused
from rooms.common.web.refusals import told_by, told_in
from rooms.cooler.actions.bags import price_bags
from rooms.cooler.actions.deliveries import (
    FileRead,
    add_bags,
    close_delivery,
    name_code,
    start_delivery,
)
from rooms.cooler.forms import CheckForm, HeaderForm, PriceForm, UsualForm
from rooms.cooler.models import Delivery
from rooms.cooler.queries import reading_in
from rooms.cooler.queries.deliveries import delivery_view, last_deliveries, supplier_quality
from rooms.staff.block import by_id
from rooms.staff.rights import Right, may


@may(Right.RECEIVE)
def receive(request: HttpRequest) -> HttpResponse:
    """Start a delivery; the last ones."""
    form = HeaderForm(request.POST or None)
    if request.method == "POST" and form.is_valid():
        with told_in(form):
            delivery = start_delivery(form.header(), by_id(request))
            return redirect("cooler:delivery", delivery.pk)
    context = {"form": form, "deliveries": last_deliveries()}
    return render(request, "cooler/receive.html", context, status=422 if form.errors else 200)


@may(Right.LOOK)
@require_GET
def delivery_page(request: HttpRequest, delivery_id: UUID) -> HttpResponse:
    return _page(request, _delivery(delivery_id))


def _delivery(delivery_id: UUID) -> Delivery:
    return get_object_or_404(Delivery.objects.select_related("received_by"), pk=delivery_id)


def _page(
    request: HttpRequest, delivery: Delivery, usual: Any = None, check: Any = None, **more: Any
) -> HttpResponse:
    """The delivery's page; `more` may hold `faults`, `refused` and `added`."""
    view = delivery_view(delivery)
    context = {
        "view": view,
        "delivery": delivery,
        "supplier": supplier_quality(delivery.supplier),
        "usual": usual or UsualForm(),
        "check": check or CheckForm(),
        "key": uuid.uuid4(),
        "pieces": Piece.objects.order_by("-is_bought", "position") if view.unnamed else [],
        **more,
    }
    refused = more.get("refused")
    wrong = more.get("faults") or (usual and usual.errors) or (check and check.errors)
    status = refused.status if refused else (422 if wrong else 200)
    return render(request, "cooler/delivery.html", context, status=status)


def _not_added(request: HttpRequest, refused: Refused, delivery_id: UUID) -> HttpResponse:
    """What was typed stands there again; a wrong row is named beside it."""
    form = UsualForm(request.POST, request.FILES)
    if not isinstance(refused, BadInput):
        return _page(request, _delivery(delivery_id), form, refused=refused)
    faults = refused.details.get("faults") or [("", refused.message)]
    return _page(request, _delivery(delivery_id), form, faults=faults)


@may(Right.RECEIVE)
@require_POST
@told_by(_not_added)
def add(request: HttpRequest, delivery_id: UUID) -> HttpResponse:
    """Add bags: typed, pasted, scanned or from a file. All or none, with a report by row."""
    delivery = _delivery(delivery_id)
    form = UsualForm(request.POST, request.FILES)
    if not form.is_valid():
        return _page(request, delivery, form)
    rows, file = _rows(form)
    if not rows:
        raise BadInput("Catch weights: there is none; type one a line, or choose a file.")
    bags, wrong = reading_in.bags(rows, form.usual())
    if wrong:
        return _page(request, delivery, form, faults=wrong)
    added = add_bags(delivery.pk, bags, by_id(request), file, page_key=request.POST.get("key", ""))
    response = redirect("cooler:delivery", delivery.pk)
    response["Location"] += f"?added={len(added)}"
    return response


def _rows(form: UsualForm) -> tuple[list[Any], FileRead | None]:
    upload = form.cleaned_data["file"]
    if not upload:
        return reading_in.rows_of_text(form.cleaned_data["lines"]), None
    raw = upload.read()
    file = FileRead(hashlib.sha256(raw).hexdigest(), upload.name)
    return reading_in.rows_of_file(raw), file


@may(Right.RECEIVE)
@require_POST
@told_by(
    lambda request, refused, delivery_id: _page(
        request, _delivery(delivery_id), check=CheckForm(request.POST), refused=refused
    )
)
def close(request: HttpRequest, delivery_id: UUID) -> HttpResponse:
    """Check the delivery against its invoice and close it."""
    delivery = _delivery(delivery_id)
    form = CheckForm(request.POST)
    if not form.is_valid():
        return _page(request, delivery, check=form)
    close_delivery(delivery.pk, form.check(), by_id(request))
    return redirect("cooler:delivery", delivery.pk)


@may(Right.RECEIVE)
@require_POST
@told_by(
    lambda request, refused, delivery_id: _page(request, _delivery(delivery_id), refused=refused)
)
def price(request: HttpRequest, delivery_id: UUID) -> HttpResponse:
    """A price for the bags that have none."""
    form = PriceForm(request.POST)
    delivery = _delivery(delivery_id)
    if not form.is_valid():
        raise BadInput("Price: " + " ".join(str(e) for es in form.errors.values() for e in es))
    data = form.cleaned_data
    price_bags(delivery.pk, data["amount"], data["per"], by_id(request))
    return redirect("cooler:delivery", delivery_id)


@may(Right.RECEIVE)
@require_POST
def code(request: HttpRequest, delivery_id: UUID) -> HttpResponse:
    """Say what a product code stands for."""
    piece = get_object_or_404(Piece, key=request.POST.get("piece", ""))
    name_code(request.POST.get("gtin", ""), piece, by_id(request))
    return redirect("cooler:delivery", delivery_id)


@may(Right.LOOK)
@require_GET
def claim(request: HttpRequest, delivery_id: UUID) -> HttpResponse:
    """The claim of short weight and damage, for the printer."""
    delivery = _delivery(delivery_id)
    context = {
        "view": delivery_view(delivery),
        "delivery": delivery,
        "supplier": supplier_quality(delivery.supplier),
    }
    return render(request, "cooler/claim.html", context)
