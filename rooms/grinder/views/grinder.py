"""The grinder: tubs, blends, batches, the log, clean-downs."""

import uuid
from datetime import date
from typing import Any

from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.utils import timezone
from django.utils.dateparse import parse_date
from django.views.decorators.http import require_GET, require_POST

from cutting.errors import BadValue
from cutting.grinding.judging import How
from cutting.quantities import HUNDRED, Unit, Weight
from rooms.common import solver
from rooms.common.errors import BadInput, Refused
from rooms.common.refusals import Told, told_by
from rooms.grinder.actions.batch import (
    Begun,
    begin_batch,
    carry_over,
    clean_down,
    finish_batch,
    keep_blend,
    pack,
    test_batch,
)
from rooms.grinder.actions.tubs import (
    NewTub,
    close_tub,
    hand_over,
    judge,
    pour_bag,
    put_in,
    start_tub,
    throw_away,
)
from rooms.grinder.forms import (
    BagForm,
    BeginForm,
    BlendForm,
    CaseForm,
    FatForm,
    FinishForm,
    LeanForm,
    PackForm,
    TubForm,
    blend_forms,
)
from rooms.grinder.models import Batch, BlendPlan, TrimTub
from rooms.grinder.queries.blending import blend_document, blend_view, lines_of, with_names
from rooms.grinder.queries.log import batch_view, found
from rooms.grinder.queries.tubs import eyes, eyes_in_words, tubs_now, waiting
from rooms.grinder.rules.machine import FOR_ADULTS, machine_now
from rooms.shop.rules.current import house
from rooms.staff.block import by_id
from rooms.staff.rights import Right, may

BATCHES = 3
"""So many products at once."""


@may(Right.WEIGH)
def front(request: HttpRequest) -> HttpResponse:
    """Tubs with the last blend over them; a new blend."""
    told, today = Told(), timezone.localdate()
    posted = request.POST if request.method == "POST" else None
    forms = blend_forms(BATCHES, posted)
    if posted is not None:
        with told:
            plan = _blend(request, forms, today)
            return redirect(f"{request.path}?blend={plan.pk}")
        forms = [
            empty if form.is_left else form
            for form, empty in zip(forms, blend_forms(BATCHES), strict=True)
        ]
    return _front(request, told, forms)


def _blend(request: HttpRequest, forms: list[BlendForm], today: date) -> BlendPlan:
    asked = [form for form in forms if not form.is_left]
    if not all(form.is_valid() for form in asked):
        raise BadInput(" ".join(_faults(form) for form in asked if form.errors))
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
        raise BadInput(with_names(bad.message, document)) from None
    return keep_blend(asked[0].cleaned_data["key"], document, answer, by_id(request))


LONGEST_NUMBER = 17


def is_number(text: str) -> bool:
    """Whether it may be the number of a row."""
    return text.isascii() and text.isdecimal() and len(text) <= LONGEST_NUMBER


def _key(request: HttpRequest, name: str = "key") -> uuid.UUID:
    """Raises BadInput for a damaged one."""
    try:
        return uuid.UUID(request.POST.get(name, ""))
    except ValueError:
        what = (
            "choose one of those shown" if name != "key" else "the page is damaged; open it again"
        )
        raise BadInput(f"{name.capitalize()}: {what}.") from None


def _faults(form: Any) -> str:
    return " ".join(
        f"{form.fields[name].label if name in form.fields else ''}: {' '.join(each)}"
        for name, each in form.errors.items()
    )


def _front(
    request: HttpRequest, told: Told, forms: list[BlendForm] | None = None, **more: Any
) -> HttpResponse:
    today = timezone.localdate()
    biases, asked = eyes(), request.GET.get("blend", "")
    tubs = tubs_now(today, biases)
    plan = BlendPlan.objects.filter(pk=asked).first() if is_number(asked) else None
    if plan is not None and Batch.objects.filter(begun_at__gte=plan.at).exists():
        plan = None  # tubs are not any more what it was made of
    view = blend_view(plan, today) if plan else None
    context = {
        "lines": lines_of(tubs, plan),
        "view": view,
        "begin": BeginForm(),
        "forms": forms or blend_forms(BATCHES),
        "machine": machine_now(),
        "open": Batch.objects.filter(finished_at=None),
        "waiting": waiting(),
        "eyes": eyes_in_words(biases),
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
    return _front(request, told)


@may(Right.WEIGH)
@require_POST
@told_by(_on_front)
def new_tub(request: HttpRequest) -> HttpResponse:
    """A tub stands ready."""
    form = TubForm(request.POST)
    if not form.is_valid():
        raise BadInput(_faults(form))
    data = form.cleaned_data
    name, primal = " ".join(data["name"].split()), data["primal"].strip().lower()
    tub = start_tub(
        NewTub(data["key"], name, data["species"], data["kind"], primal), by_id(request)
    )
    return redirect("grinder:tub", tub.pk)


@may(Right.WEIGH)
@require_POST
@told_by(_on_front)
def take_trim(request: HttpRequest) -> HttpResponse:
    """A pile of the block goes into a tub: one touch."""
    key, tub = _key(request), _key(request, "tub")
    output = request.POST.get("output", "")
    if not is_number(output):
        raise BadInput("Pile: choose one of the piles shown.")
    hand_over(uuid.uuid5(key, output), tub, int(output), by_id(request))
    return redirect("grinder:front")


@may(Right.WEIGH)
@require_POST
@told_by(_on_front)
def clean(request: HttpRequest) -> HttpResponse:
    """The grinder is cleaned, or set up."""
    clean_down(_key(request), request.POST.get("what", ""), by_id(request))
    return redirect("grinder:front")


@may(Right.WEIGH)
@require_POST
@told_by(lambda request, refused, blend_id: _on_front(request, refused))
def grind(request: HttpRequest, blend_id: int) -> HttpResponse:
    """A batch of a blend is ground."""
    get_object_or_404(BlendPlan, pk=blend_id)
    form = BeginForm(request.POST)
    if not form.is_valid():
        raise BadInput(_faults(form))
    data = form.cleaned_data
    celsius = int(data["celsius"] * 1000)
    batch = begin_batch(Begun(data["key"], blend_id, data["number"], celsius), by_id(request))
    return redirect("grinder:batch", batch.pk)


@may(Right.WEIGH)
def tub(request: HttpRequest, tub_id: uuid.UUID) -> HttpResponse:
    """One tub: what is in it, and what is done with it."""
    found_tub = get_object_or_404(TrimTub, pk=tub_id)
    told = Told()
    if request.method == "POST":
        with told:
            _to_tub(request, found_tub)
            return redirect("grinder:tub", tub_id)
    found_tub.refresh_from_db()
    context = {
        "tub": found_tub,
        "view": next((one for one in tubs_now(timezone.localdate()) if one.tub == found_tub), None),
        "ins": found_tub.ins.select_related("output__test", "bag__piece", "batch", "by"),
        "outs": found_tub.outs.select_related("batch", "by"),
        "judged": found_tub.judged.select_related("by"),
        "lean": LeanForm(),
        "bag": BagForm(tub=found_tub),
        "case": CaseForm(initial={"day": timezone.localdate(), "unit": found_tub.unit}),
        "key": uuid.uuid4(),
        "refused": told.refused,
    }
    return render(request, "grinder/tub.html", context, status=told.status())


def _to_tub(request: HttpRequest, found_tub: TrimTub) -> None:
    """What is done with a tub, by its button."""
    what, at = request.POST.get("what", ""), by_id(request)
    if what == "judge":
        form: Any = LeanForm(request.POST)
        _check(form)
        how = How(form.cleaned_data["how"] or How.EYE)
        judge(found_tub.pk, how, form.cleaned_data["lean"] / HUNDRED, at)
    elif what == "bag":
        form = BagForm(request.POST, tub=found_tub)
        _check(form)
        data = form.cleaned_data
        pour_bag(data["key"], found_tub.pk, data["bag"].pk, data["lean"] / HUNDRED, at)
    elif what == "case":
        form = CaseForm(request.POST)
        _check(form)
        data = form.cleaned_data
        weight = Weight(data["weight"], Unit(data["unit"]))
        lots = [{"lot": data["lot"].strip(), "piece": "from the case"}]
        put_in(data["key"], found_tub.pk, weight, lots, data["day"], at)
    elif what == "throw":
        throw_away(_key(request), found_tub.pk, request.POST.get("reason", ""), at)
    elif what == "close":
        close_tub(found_tub.pk)
    else:
        raise BadInput("Tub: one of the buttons is right.")


def _check(form: Any) -> None:
    if not form.is_valid():
        raise BadInput(_faults(form))


@may(Right.WEIGH)
def batch(request: HttpRequest, batch_id: uuid.UUID) -> HttpResponse:
    """One batch of the log."""
    one = get_object_or_404(
        Batch.objects.select_related("cleaned", "set_up", "begun_by"), pk=batch_id
    )
    told = Told()
    if request.method == "POST":
        with told:
            _to_batch(request, one)
            return redirect("grinder:batch", batch_id)
    one.refresh_from_db()
    context = {
        "view": batch_view(one),
        "finish": FinishForm(),
        "pack": PackForm(),
        "fat": FatForm(),
        "tubs": TrimTub.objects.filter(closed_at=None, species=one.species),
        "key": uuid.uuid4(),
        "refused": told.refused,
    }
    return render(request, "grinder/batch.html", context, status=told.status())


def _to_batch(request: HttpRequest, one: Batch) -> None:
    what, at = request.POST.get("what", ""), by_id(request)
    if what == "finish":
        form: Any = FinishForm(request.POST)
        _check(form)
        data = form.cleaned_data
        finish_batch(one.pk, data["got"], data["machine"], int(data["celsius"] * 1000), at)
    elif what == "pack":
        form = PackForm(request.POST)
        _check(form)
        data = form.cleaned_data
        pack(data["key"], one.pk, data["trays"], data["weight"], at)
    elif what == "fat":
        form = FatForm(request.POST)
        _check(form)
        test_batch(form.cleaned_data["key"], one.pk, form.cleaned_data["fat"] / HUNDRED, at)
    elif what == "carry":
        carry_over(_key(request), one.pk, _key(request, "tub"), at)
    else:
        raise BadInput("Batch: one of the buttons is right.")


@may(Right.LOOK)
@require_GET
def log(request: HttpRequest) -> HttpResponse:
    """The log, found by day, lot, name or number."""
    text, asked = request.GET.get("text", ""), request.GET.get("day", "")
    try:
        day = parse_date(asked) if asked else None
    except ValueError:
        day = None
    context = {"batches": found(text, day), "text": text, "day": asked}
    return render(request, "grinder/log.html", context)


@may(Right.LOOK)
@require_GET
def due(request: HttpRequest) -> HttpResponse:
    """For the morning's page: tubs past their day, batches still in the grinder."""
    tubs = [one for one in tubs_now(timezone.localdate()) if one.is_due and one.left > 0]
    context = {"due": tubs, "open": Batch.objects.filter(finished_at=None)}
    return render(request, "grinder/_due.html", context)
