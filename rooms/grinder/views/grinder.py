"""The grinder: tubs, blends, batches, the log, clean-downs."""

import uuid
from datetime import date
from typing import Any

from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.utils import timezone
from django.views.decorators.http import require_POST

from cutting.errors import BadValue
from rooms.common.clients import solver
from rooms.common.errors import BadInput, Refused
from rooms.common.web.forms import faults_of, is_number
from rooms.common.web.refusals import Told, told_by
from rooms.grinder.actions.batch import (
    Begun,
    begin_batch,
    clean_down,
    keep_blend,
    take_back_clean,
)
from rooms.grinder.actions.tubs import NewTub, start_tub
from rooms.grinder.forms import BeginForm, BlendForm, TubForm, asked_before, blend_forms
from rooms.grinder.models import Batch, BlendPlan
from rooms.grinder.queries.blending import blend_document, blend_view, lines_of, why_not
from rooms.grinder.queries.house import house_rules
from rooms.grinder.queries.machine import FOR_ADULTS, machine_now
from rooms.grinder.queries.tubs import board, eyes_in_words, tubs_now
from rooms.grinder.views.asked import key_in, row_in
from rooms.shop.queries.current import house
from rooms.staff.block import by_id
from rooms.staff.rights import Right, may

BATCHES = 3
MOST_OPEN = 12
"""So many products at once."""


@may(Right.WEIGH)
def front(request: HttpRequest) -> HttpResponse:
    """Tubs with the last blend over them; a new blend."""
    told, today = Told(), timezone.localdate()
    posted = request.POST if request.method == "POST" else None
    forms = None
    if posted is not None:
        forms = blend_forms(BATCHES, posted)
        with told:
            plan = _blend(request, forms, today)
            return redirect(f"{request.path}?blend={plan.pk}")
        forms = [
            empty if form.is_left else form
            for form, empty in zip(forms, blend_forms(BATCHES), strict=True)
        ]
    return front_page(request, told, forms)


def _blend(request: HttpRequest, forms: list[BlendForm], today: date) -> BlendPlan:
    asked = [form for form in forms if not form.is_left]
    if not all(form.is_valid() for form in asked):
        raise BadInput(" ".join(faults_of(form) for form in asked if form.errors))
    try:
        document = blend_document(
            tubs_now(today),
            [form.asked() for form in asked],
            house().currency,
            request.POST.getlist("used_up"),
        )
    except BadValue as bad:
        raise BadInput(f"{bad}.") from bad
    try:
        answer = solver.ask("/blend", document)
    except BadInput as bad:
        raise BadInput(why_not(bad.message, document)) from None
    kept = document | {
        "asked": asked_before(request.POST, asked),
        "ticked": request.POST.getlist("used_up"),
    }
    return keep_blend(asked[0].cleaned_data["key"], kept, answer, by_id(request))


def front_page(
    request: HttpRequest, told: Told, forms: list[BlendForm] | None = None, **more: Any
) -> HttpResponse:
    today = timezone.localdate()
    rules, asked = house_rules(), request.GET.get("blend", "")
    tubs, known = board(today, rules)
    plan = BlendPlan.objects.filter(pk=asked).first() if is_number(asked) else None
    if plan is not None and Batch.objects.standing().filter(begun_at__gte=plan.at).exists():
        plan = None  # tubs are not any more what it was made of
    view = blend_view(plan, today, rules) if plan else None
    before = plan.document if plan else {}
    context = {
        "lines": lines_of(tubs, plan),
        "ticked": before.get("ticked"),
        "view": view,
        "begin": BeginForm(),
        "forms": forms or blend_forms(BATCHES, before=before.get("asked")),
        "machine": machine_now(),
        "open": Batch.objects.in_grinder()[:MOST_OPEN],
        "eyes": eyes_in_words(known),
        "rules": rules,
        "adults": FOR_ADULTS,
        "key": uuid.uuid4(),
        "tub_form": TubForm(),
        "refused": told.refused,
        **more,
    }
    return render(request, "grinder/front.html", context, status=told.status())


def _on_front(request: HttpRequest, refused: Refused, **_: Any) -> HttpResponse:
    told = Told()
    told.refused = refused
    return front_page(request, told)


@may(Right.WEIGH)
@require_POST
@told_by(_on_front)
def new_tub(request: HttpRequest) -> HttpResponse:
    """A tub stands ready."""
    form = TubForm(request.POST)
    if not form.is_valid():
        raise BadInput(faults_of(form))
    data = form.cleaned_data
    name, primal = " ".join(data["name"].split()), data["primal"].strip().lower()
    tub = start_tub(
        NewTub(data["key"], name, data["species"], data["kind"], primal), by_id(request)
    )
    return redirect("grinder:tub", tub.pk)


@may(Right.WEIGH)
@require_POST
@told_by(_on_front)
def clean(request: HttpRequest) -> HttpResponse:
    """The grinder is cleaned, or set up."""
    what = request.POST.get("what", "")
    if what == "back":
        take_back_clean(key_in(request), row_in(request), by_id(request))
    else:
        clean_down(key_in(request), what, by_id(request), request.POST.getlist("points"))
    return redirect("grinder:front")


@may(Right.WEIGH)
@require_POST
@told_by(lambda request, refused, blend_id: _on_front(request, refused))
def grind(request: HttpRequest, blend_id: int) -> HttpResponse:
    """A batch of a blend is ground."""
    get_object_or_404(BlendPlan, pk=blend_id)
    form = BeginForm(request.POST)
    if not form.is_valid():
        raise BadInput(faults_of(form))
    data = form.cleaned_data
    celsius = int(data["celsius"] * 1000)
    batch = begin_batch(Begun(data["key"], blend_id, data["number"], celsius), by_id(request))
    return redirect("grinder:batch", batch.pk)
