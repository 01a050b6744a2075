"""One tray: its label, what became of it; how the shop labels."""

import uuid
from typing import Any

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.utils.safestring import mark_safe
from django.views.decorators.http import require_GET, require_http_methods

from cutting.grinding.blend import Kind
from cutting.labels.tray_life import NEXT, Life
from rooms.common.errors import BadInput
from rooms.common.paper.labels import KINDS, as_svg, draw
from rooms.common.web.downloads import download
from rooms.common.web.forms import faults_of, read_key
from rooms.common.web.refusals import Told, rebasing
from rooms.grinder.models import TrimTub
from rooms.staff.block import by_id
from rooms.staff.rights import Right, may
from rooms.trays.actions.house import change_label_rules, number_product
from rooms.trays.actions.life import ALSO_WHEN_HELD, becomes, last_event, not_so, to_tub
from rooms.trays.actions.printing import print_waiting, reprint
from rooms.trays.forms import ProductForm, RulesForm
from rooms.trays.models import ProductLabel, Tray
from rooms.trays.queries.held import hold_on
from rooms.trays.queries.labelling import codes_in_words, label_rules, picture_of

BUTTONS = {
    Life.IN_CASE: "In the case",
    Life.SOLD: "Sold",
    Life.TO_BLOCK: "Back to the block",
    Life.THROWN: "Thrown away",
    Life.UNDONE: "It was no tray",
}


@may(Right.WEIGH)
@require_http_methods(["GET", "POST"])
def tray(request: HttpRequest, tray_id: uuid.UUID) -> HttpResponse:
    """One tray."""
    told = Told()
    if request.method == "POST":
        with told:
            _do(request, tray_id)
            return redirect("trays:tray", tray_id)
    one = get_object_or_404(
        Tray.objects.select_related("product", "by", "output__test", "batch", "size", "mark"),
        pk=tray_id,
    )
    job, hold = one.jobs.last(), hold_on(one)
    picture = picture_of(one.label_now, job.stock if job else label_rules().stock)
    context = {
        "tray": one,
        "label": mark_safe(as_svg(picture)),  # noqa: S308 (every word in it is escaped)
        "left_out": picture.left_out,
        "codes": codes_in_words(one.label_now),
        "may_mark": Life.MARKED_DOWN in NEXT.get(one.state, ()) and hold is None,
        "events": one.events.select_related("by"),
        "last": last_event(one),
        "jobs": one.jobs.all(),
        "buttons": [
            (life, words)
            for life, words in BUTTONS.items()
            if life in NEXT.get(one.state, ()) and (hold is None or life in ALSO_WHEN_HELD)
        ],
        "tubs": TrimTub.objects.filter(
            closed_at=None, species=one.document["product"]["species"]
        ).exclude(kind=Kind.HARD_FAT),
        "may_tub": Life.TO_TUB in NEXT.get(one.state, ()) and hold is None,
        "refused": told.refused,
    }
    return render(request, "trays/tray.html", context, status=told.status())


def _key(request: HttpRequest, name: str = "key") -> uuid.UUID:
    return read_key(request.POST.get(name, ""), name.capitalize())


def _do(request: HttpRequest, tray_id: uuid.UUID) -> None:
    what, key, at = request.POST.get("what", ""), _key(request), by_id(request)
    if what == "reprint":
        reprint(key, tray_id, at)
        print_waiting()
    elif what == "not_so":
        not_so(key, tray_id, at, request.POST.get("seen", ""))
    elif what == "tub":
        to_tub(key, tray_id, _key(request, "tub"), at)
    elif what in Life.__members__.values() and Life(what) in BUTTONS:
        becomes(key, tray_id, Life(what), at, request.POST.get("reason", ""))
    else:
        raise BadInput("Tray: one of the buttons is right.")


@may(Right.LOOK)
@require_GET
def label_file(request: HttpRequest, tray_id: uuid.UUID, kind: str) -> HttpResponse:
    """The label as SVG, PNG or PDF."""
    if kind not in KINDS:
        raise Http404
    one = get_object_or_404(Tray.objects.select_related("mark"), pk=tray_id)
    job = one.jobs.last()
    picture = picture_of(one.label_now, job.stock if job else label_rules().stock)
    return download(f"tray-{one.number}.{kind}", draw(picture, kind))


@may(Right.SHOP)
@require_http_methods(["GET", "POST"])
def rules_page(request: HttpRequest) -> HttpResponse:
    """How the shop labels, and the numbers of its products."""
    told, what, now = Told(), request.POST.get("what", ""), label_rules()
    forms: dict[str, Any] = {
        "rules": RulesForm(initial=RulesForm.filled(now)),
        "product": ProductForm(),
    }
    if request.method == "POST":
        kinds: dict[str, Any] = {"rules": RulesForm, "product": ProductForm}
        with told:
            if what not in kinds:
                raise BadInput("Labels: one of the buttons is right.")
            form = forms[what] = kinds[what](request.POST)
            if not form.is_valid():
                raise BadInput(faults_of(form))
            if what == "rules":
                with rebasing(form):
                    change_label_rules(form.typed, by_id(request), form.cleaned_data["seen"])
            else:
                data = form.cleaned_data
                with rebasing(form):
                    number_product(data["product"], data, by_id(request), data["seen"])
            return redirect("trays:rules")
    numbered = ProductLabel.objects.select_related("product").order_by("product__name")
    context = {**forms, "now": now, "numbered": numbered, "refused": told.refused}
    return render(request, "trays/rules.html", context, status=told.status())
