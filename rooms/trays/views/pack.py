"""Packing: a product, then tray after tray on the scale; the printer's queue."""

import uuid
from typing import Any

from django.conf import settings
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.utils import timezone
from django.views.decorators.http import require_GET, require_http_methods, require_POST

from cutting.quantities import Unit, Weight
from rooms.bench.queries.reading import read_proof
from rooms.bench.queries.scales import scale_of
from rooms.common.errors import BadInput, Refused
from rooms.common.web.forms import faults_of, is_number, read_key
from rooms.common.web.refusals import Told, told_by
from rooms.shop.queries.current import house
from rooms.staff.block import by_id
from rooms.staff.rights import Right, may
from rooms.trays.actions.pack import Packing, measure_tare, pack_tray
from rooms.trays.actions.printing import (
    Case,
    drop_job,
    print_card,
    print_case,
    print_tags,
    print_waiting,
)
from rooms.trays.forms import CaseForm, PackForm, TareForm
from rooms.trays.models import Tray
from rooms.trays.queries.packing import (
    SourceChoice,
    holds_standing,
    labels_beside,
    last_trays,
    of_day,
    past_or_last,
    products,
    queue,
    sources,
    tares,
    trays_of_test,
)


@may(Right.WEIGH)
@require_http_methods(["GET", "POST"])
def front(request: HttpRequest) -> HttpResponse:
    """Choose a product once, then put tray after tray on the scale."""
    told, packed = Told(), None
    asked = request.POST if request.method == "POST" else request.GET
    form = PackForm(request.POST) if request.method == "POST" else None
    if form is not None:
        with told:
            packed = _pack(request, form)
            print_waiting()
            if not request.headers.get("HX-Request"):
                source = form.cleaned_data["source"]
                return redirect(f"{request.path}?product={packed.product_id}&from={source}")
    return _page(request, asked, told, packed, form)


def _pack(request: HttpRequest, form: PackForm) -> Tray:
    if not form.is_valid():
        raise BadInput(faults_of(form))
    data = form.cleaned_data
    typed = None
    if data["weight"] is not None:
        typed = Weight(data["weight"], Unit(data["unit"] or house().unit.value))
    if not data["source"]:
        raise BadInput("From: choose what it is packed from.")
    packing = Packing(
        data["key"],
        data["product"],
        data["size"].pk,
        "" if data["source"] == NO_LOT else data["source"],
        typed,
        read_proof(data["proof"]) if data["proof"] else None,
        data["pieces"],
        data["total"],
        data["reason"],
    )
    return pack_tray(packing, by_id(request))


def _page(
    request: HttpRequest, asked: Any, told: Told, packed: Tray | None, form: PackForm | None
) -> HttpResponse:
    today, named = timezone.localdate(), asked.get("product", "")
    choices, measured = products(today), tares()
    chosen = next(
        (one for one in choices if is_number(named) and one.product.pk == int(named)), None
    )
    choices_of = sources(chosen.product) if chosen else []
    source = _source(asked, choices_of)
    if form is None or packed is not None:
        initial: dict[str, Any] = {
            "product": named,
            "source": source,
            "unit": scale_of(request).unit,
        }
        if chosen is not None:
            only = next(iter(measured)) if len(measured) == 1 else None
            initial |= {"size": chosen.product.tray_id or only, "pieces": chosen.product.portions}
        if form is not None:
            stays = ("size", "pieces", "total", "reason")
            initial |= {name: form.cleaned_data[name] for name in stays}
        form = PackForm(initial=initial)
    context = {
        "choices": choices,
        "chosen": chosen,
        "sources": choices_of,
        "source": source,
        "from_words": next((one for one in choices_of if one.text == source), None),
        "no_lot": NO_LOT,
        "may_have_no_lot": chosen is not None and not chosen.product.cut.is_ground,
        "beside": labels_beside(packed) if packed else [],
        "form": form,
        "case": CaseForm(initial={"product": named, "unit": house().unit.value}),
        "tares": measured.values(),
        "scale": scale_of(request),
        "packed": packed,
        "trays": last_trays(today),
        "of_day": of_day(today),
        "queue": queue(),
        "printer": settings.PRINTER_URL,
        "refused": told.refused,
    }
    part = bool(request.headers.get("HX-Request"))
    template = "trays/_packing.html" if part else "trays/front.html"
    return render(request, template, context, status=told.status())


def _source(asked: Any, there: list[SourceChoice]) -> str:
    """As it was chosen; the only one there is where nobody chose, and of several none."""
    text = str(asked.get("source", asked.get("from", "")))
    good = [one for one in there if not one.is_past]
    if not text and len(good) == 1:
        return good[0].text
    return text


NO_LOT = "none"
"""What the page sends for a tray without a lot on record."""


@may(Right.LOOK)
@require_GET
def waiting(request: HttpRequest) -> HttpResponse:
    """The labels that wait, to take one out: a list that stands still under the finger."""
    return _waiting(request, None)


def _waiting(request: HttpRequest, refused: Refused | None) -> HttpResponse:
    context = {"queue": queue(), "refused": refused}
    return render(request, "trays/queue.html", context, status=refused.status if refused else 200)


@may(Right.LOOK)
@require_GET
def of_test(request: HttpRequest, test_id: uuid.UUID) -> HttpResponse:
    """For the sheet of a test: its trays, and a door to pack more."""
    return render(request, "trays/_of_test.html", {"piles": trays_of_test(test_id)})


@may(Right.WEIGH)
@require_POST
def send_waiting(request: HttpRequest) -> HttpResponse:
    """The printer is asked again."""
    print_waiting()
    return render(request, "trays/_queue.html", {"queue": queue()})


@may(Right.WEIGH)
@require_POST
@told_by(_waiting)
def drop(request: HttpRequest) -> HttpResponse:
    """A label that nobody wants any more leaves the queue."""
    text = request.POST.get("row", "")
    if not is_number(text):
        raise BadInput("Label: choose one of those shown.")
    drop_job(int(text))
    return redirect("trays:queue")


def _of(refused: Refused) -> Told:
    told = Told()
    told.refused = refused
    return told


@may(Right.WEIGH)
@require_POST
@told_by(lambda request, refused, number: _page(request, request.GET, _of(refused), None, None))
def tags(request: HttpRequest, number: int) -> HttpResponse:
    """The shelf tags that a version of the price book makes wrong are printed."""
    print_tags(read_key(request.POST.get("key", "")), number, by_id(request))
    print_waiting()
    return redirect("trays:front")


@may(Right.WEIGH)
@require_POST
@told_by(lambda request, refused, product_id: _page(request, request.GET, _of(refused), None, None))
def card(request: HttpRequest, product_id: int) -> HttpResponse:
    """The card of a product for the service counter."""
    print_card(read_key(request.POST.get("key", "")), product_id, by_id(request))
    print_waiting()
    return redirect("trays:front")


@may(Right.WEIGH)
@require_POST
@told_by(lambda request, refused: _page(request, request.POST, _of(refused), None, None))
def case(request: HttpRequest) -> HttpResponse:
    """The label of a case."""
    form = CaseForm(request.POST)
    if not form.is_valid():
        raise BadInput(faults_of(form))
    data = form.cleaned_data
    own = Case(data["product"], Weight(data["weight"], Unit(data["unit"])), data["lot"])
    print_case(data["key"], own, by_id(request))
    print_waiting()
    return redirect(f"{reverse('trays:front')}?product={data['product']}")


@may(Right.LOOK)
@require_GET
def due(request: HttpRequest) -> HttpResponse:
    """For the morning's page: lots that are held, labels that wait, trays on their last days or past them."""
    context = {
        "queue": queue(),
        "last": past_or_last(timezone.localdate()),
        "holds": holds_standing(),
    }
    return render(request, "trays/_due.html", context)


@may(Right.WEIGH)
@require_http_methods(["GET", "POST"])
def tare_page(request: HttpRequest) -> HttpResponse:
    """What empty tray sets weigh."""
    told, form = Told(), TareForm(initial={"unit": house().unit.value})
    if request.method == "POST":
        form = TareForm(request.POST)
        with told:
            if not form.is_valid():
                raise BadInput(faults_of(form))
            data = form.cleaned_data
            measure_tare(
                data["size"].pk, Weight(data["weight"], Unit(data["unit"])), by_id(request)
            )
            return redirect("trays:tares")
    context = {"form": form, "tares": tares().values(), "refused": told.refused}
    return render(request, "trays/tares.html", context, status=told.status())
