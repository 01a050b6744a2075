"""Receiving: starting a delivery, adding bags, checking it, the claim sheet."""

import hashlib
import uuid
from dataclasses import replace

from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_GET, require_POST

from cutting.cooler.temperature import LIMIT
from rooms.catalog.models import Piece
from rooms.common.errors import BadInput, Refused
from rooms.common.refusals import told_in
from rooms.cooler.actions.add_bags import FileRead, add_bags
from rooms.cooler.actions.close_delivery import close_delivery
from rooms.cooler.actions.name_code import name_code
from rooms.cooler.actions.price_bags import price_bags
from rooms.cooler.actions.start_delivery import start_delivery
from rooms.cooler.forms import CheckForm, HeaderForm, PriceForm, UsualForm
from rooms.cooler.models import Delivery
from rooms.cooler.queries.deliveries import delivery_view, last_deliveries
from rooms.cooler.rules import reading_in
from rooms.cooler.rules.new_bag import NewBag
from rooms.staff.block import by_id
from rooms.staff.rights import Right, may


@may(Right.RECEIVE)
def receive(request):
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
def delivery_page(request, delivery_id):
    return _page(request, _delivery(delivery_id))


def _delivery(delivery_id) -> Delivery:
    return get_object_or_404(Delivery.objects.select_related("received_by"), pk=delivery_id)


def _page(request, delivery, usual=None, check=None, **more):
    """The delivery's page; `more` may hold `faults`, `refused` and `added`."""
    view = delivery_view(delivery)
    context = {
        "view": view,
        "delivery": delivery,
        "usual": usual or UsualForm(),
        "check": check or CheckForm(),
        "limit": LIMIT // 1000,
        "key": uuid.uuid4(),
        "pieces": Piece.objects.all() if view.unnamed else [],
        **more,
    }
    refused = more.get("refused")
    wrong = more.get("faults") or (usual and usual.errors) or (check and check.errors)
    status = refused.status if refused else (422 if wrong else 200)
    return render(request, "cooler/delivery.html", context, status=status)


@may(Right.RECEIVE)
@require_POST
def add(request, delivery_id):
    """Add bags: typed, pasted, scanned or from a file. All or none, with a report by row."""
    delivery = _delivery(delivery_id)
    form = UsualForm(request.POST, request.FILES)
    if not form.is_valid():
        return _page(request, delivery, form)
    try:
        rows, file = _rows(form)
        if not rows:
            raise BadInput("Catch weights: there is none; type one a line, or choose a file.")
        bags, wrong = reading_in.bags(rows, form.usual())
        if wrong:
            return _page(request, delivery, form, faults=wrong)
        key = request.POST.get("key", "")
        added = add_bags(delivery.pk, _keyed(bags, key), by_id(request), file)
    except BadInput as bad:
        faults = bad.details.get("faults") or [("", bad.message)]
        return _page(request, delivery, form, faults=faults)
    except Refused as refused:
        return _page(request, delivery, form, refused=refused)
    response = redirect("cooler:delivery", delivery.pk)
    response["Location"] += f"?added={len(added)}"
    return response


def _rows(form: UsualForm) -> tuple[list, FileRead | None]:
    upload = form.cleaned_data["file"]
    if not upload:
        return reading_in.rows_of_text(form.cleaned_data["lines"]), None
    raw = upload.read()
    file = FileRead(hashlib.sha256(raw).hexdigest(), upload.name)
    return reading_in.rows_of_file(raw), file


def _keyed(bags: list[NewBag], key: str) -> list[NewBag]:
    """Each bag under a key made from the page's, its place and what it is.

    A repeated request adds nothing; another list sent from the same page is another list.
    """
    try:
        page = uuid.UUID(key)
    except ValueError:
        return bags
    keyed = []
    for i, bag in enumerate(bags):
        what = (i, bag.weight, bag.unit, bag.lot, bag.serial, bag.gtin, bag.packed_on)
        keyed.append(replace(bag, key=uuid.uuid5(page, "|".join(str(each) for each in what))))
    return keyed


@may(Right.RECEIVE)
@require_POST
def close(request, delivery_id):
    """Check the delivery against its invoice and close it."""
    delivery = _delivery(delivery_id)
    form = CheckForm(request.POST)
    if not form.is_valid():
        return _page(request, delivery, check=form)
    try:
        close_delivery(delivery.pk, form.check(), by_id(request))
    except Refused as refused:
        return _page(request, delivery, check=form, refused=refused)
    return redirect("cooler:delivery", delivery.pk)


@may(Right.RECEIVE)
@require_POST
def price(request, delivery_id):
    """A price for the bags that have none."""
    form = PriceForm(request.POST)
    delivery = _delivery(delivery_id)
    try:
        if not form.is_valid():
            raise BadInput("Price: " + " ".join(str(e) for es in form.errors.values() for e in es))
        data = form.cleaned_data
        price_bags(delivery.pk, data["amount"], data["per"], by_id(request))
    except Refused as refused:
        return _page(request, delivery, refused=refused)
    return redirect("cooler:delivery", delivery_id)


@may(Right.RECEIVE)
@require_POST
def code(request, delivery_id):
    """Say what a product code stands for."""
    piece = get_object_or_404(Piece, key=request.POST.get("piece", ""))
    name_code(request.POST.get("gtin", ""), piece, by_id(request))
    return redirect("cooler:delivery", delivery_id)


@may(Right.LOOK)
@require_GET
def claim(request, delivery_id):
    """The short-weight claim, for the printer."""
    delivery = _delivery(delivery_id)
    context = {"view": delivery_view(delivery), "delivery": delivery}
    return render(request, "cooler/claim.html", context)
