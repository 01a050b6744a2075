"""Changing a plan and its outputs."""

from functools import partial
from typing import Any

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect
from django.utils.text import slugify
from django.views.decorators.http import require_POST

from rooms.catalog.actions.edit import (
    Editor,
    save_piece,
    standing_faults,
)
from rooms.catalog.forms import (
    OutputFormSet,
    PlanForm,
    cut_choices,
    mark_of,
    output_initial,
    place_choices,
    plan_choices,
)
from rooms.catalog.queries.unsaved import guide_of
from rooms.catalog.views.editing import (
    NEW,
    form_page,
    free_key,
    piece_or_404,
    preview,
    save,
)
from rooms.catalog.views.pieces import as_it_is
from rooms.common.web.refusals import told_by
from rooms.staff.block import by_id
from rooms.staff.rights import Right, may


@may(Right.CATALOG, read=Right.CATALOG)
def edit_plan(request: HttpRequest, key: str, plan: Any) -> HttpResponse:
    """One plan with its outputs, or a new one."""
    piece, found = _with_plan(key, plan)
    form, outputs = _plan_forms(request.POST or None, key, piece, found)
    if request.method == "POST" and form.is_valid() and outputs.is_valid():
        changed, plan_key = _plan_changed(piece, plan, found, form, outputs)
        answer = save(request, key, changed, form, partial(_plan_in, key=plan), f"?plan={plan_key}")
        if answer:
            return answer
        if not _outputs(request.POST, key, piece, form.seen_before(found)).is_changed():
            outputs = _outputs(None, key, piece, _plan_in(piece_or_404(key), plan))
    context = {
        "standing": [] if plan == NEW else standing_faults(key, piece, plan),
        "is_compared": any(output.get("part") for output in found["outputs"]),
        "plan": plan,
        "outputs": outputs,
        "guide": guide_of(key, piece, plan=plan),
        "piece": piece,
        "key": key,
    }
    return form_page(request, "catalog/edit_plan.html", form, context)


@may(Right.CATALOG)
@require_POST
def preview_plan(request: HttpRequest, key: str, plan: Any) -> HttpResponse:
    piece, found = _with_plan(key, plan)
    form, outputs = _plan_forms(request.POST, key, piece, found)
    if not (form.is_valid() and outputs.is_valid()):
        return preview(request, key, None, form)
    changed, plan_key = _plan_changed(piece, plan, found, form, outputs)
    return preview(request, key, changed, form, plan=plan_key)


@may(Right.CATALOG)
@require_POST
@told_by(as_it_is)
def drop_plan(request: HttpRequest, key: str, plan: Any) -> HttpResponse:
    """A plan out of use; what was cut by it keeps it."""
    piece, _ = _with_plan(key, plan)
    rest = [one for one in piece["plans"] if one["key"] != plan]
    steps = [
        {**step, "plans": [p for p in step["plans"] if p != plan]} if "plans" in step else step
        for step in piece["steps"]
        if step.get("plans") != [plan]
    ]
    seen = request.POST.get("state", "")
    save_piece(key, {**piece, "plans": rest, "steps": steps}, Editor(by_id(request), seen))
    return redirect("catalog:edit", key)


def _with_plan(key: str, plan: str) -> tuple[dict[str, Any], dict[str, Any]]:
    piece = piece_or_404(key)
    if plan != NEW and all(one["key"] != plan for one in piece["plans"]):
        raise Http404
    return piece, _plan_in(piece, plan)


def _plan_in(piece: dict[str, Any], key: str) -> dict[str, Any]:
    empty = {"name": "", "outputs": []}
    return next((one for one in piece["plans"] if one["key"] == key), empty)


def step_choices(piece: dict[str, Any]) -> list[tuple[str, str]]:
    return [(step["key"], step["title"]) for step in piece["steps"]]


def _plan_forms(posted: Any, key: str, piece: dict[str, Any], plan: dict[str, Any]) -> Any:
    initial = PlanForm.initial_of(plan) | {"seen": mark_of(piece, plan)}
    return PlanForm(posted, initial=initial), _outputs(posted, key, piece, plan)


def _outputs(posted: Any, key: str, piece: dict[str, Any], plan: dict[str, Any]) -> Any:
    return OutputFormSet(
        posted,
        initial=[output_initial(output) for output in plan.get("outputs", [])],
        prefix="out",
        form_kwargs={
            "cuts": cut_choices(),
            "steps": step_choices(piece),
            "places": place_choices(key),
            "plans": plan_choices(key, piece["species"]),
        },
    )


def _plan_changed(
    piece: Any, key: str, plan: Any, form: Any, outputs: Any
) -> tuple[dict[str, Any], str]:
    changed = {**plan, "outputs": outputs.documents()}
    pace = form.typed["minutes_per_lb"]
    typed = form.typed | {"minutes_per_lb": "" if pace is None else f"{pace:f}"}
    for name, value in typed.items():
        if value and not (name == "school" and value == "plain"):
            changed[name] = value
        else:
            changed.pop(name, None)
    plans = list(piece["plans"])
    if key == NEW:
        changed["key"] = free_key(f"own-{slugify(changed['name'])[:40]}", plans)
        plans.append(changed)
    else:
        plans = [changed if one["key"] == key else one for one in plans]
    return {**piece, "plans": plans}, changed["key"]
