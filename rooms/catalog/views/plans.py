"""Changing a plan and its outputs."""

from typing import Any

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect
from django.utils.text import slugify
from django.views.decorators.http import require_POST

from rooms.catalog.actions.edit import (
    Editor,
    digest,
    save_piece,
)
from rooms.catalog.forms import (
    OutputFormSet,
    PlanForm,
    cut_choices,
    output_initial,
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
from rooms.staff.block import by_id
from rooms.staff.rights import Right, may


@may(Right.CATALOG, read=Right.CATALOG)
def edit_plan(request: HttpRequest, key: str, plan: Any) -> HttpResponse:
    """One plan with its outputs, or a new one."""
    piece, found = _with_plan(key, plan)
    form, outputs = _plan_forms(request.POST or None, piece, found)
    if request.method == "POST" and form.is_valid() and outputs.is_valid():
        changed, plan_key = _plan_changed(piece, plan, found, form, outputs)
        answer = save(request, key, changed, form, f"?plan={plan_key}")
        if answer:
            return answer
    context = {
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
    form, outputs = _plan_forms(request.POST, piece, found)
    if not (form.is_valid() and outputs.is_valid()):
        return preview(request, key, None, form)
    changed, plan_key = _plan_changed(piece, plan, found, form, outputs)
    return preview(request, key, changed, form, plan=plan_key)


@may(Right.CATALOG)
@require_POST
def drop_plan(request: HttpRequest, key: str, plan: Any) -> HttpResponse:
    """A plan out of use; what was cut by it keeps it."""
    piece, _ = _with_plan(key, plan)
    rest = [one for one in piece["plans"] if one["key"] != plan]
    steps = [
        {**step, "plans": [p for p in step["plans"] if p != plan]} if "plans" in step else step
        for step in piece["steps"]
        if step.get("plans") != [plan]
    ]
    save_piece(key, {**piece, "plans": rest, "steps": steps}, Editor(by_id(request), digest(piece)))
    return redirect("catalog:edit", key)


def _with_plan(key: str, plan: str) -> tuple[dict[str, Any], dict[str, Any]]:
    piece = piece_or_404(key)
    found = next((one for one in piece["plans"] if one["key"] == plan), None)
    if found is None and plan != NEW:
        raise Http404
    return piece, found or {"name": "", "outputs": []}


def step_choices(piece: dict[str, Any]) -> list[tuple[str, str]]:
    return [(step["key"], step["title"]) for step in piece["steps"]]


def _plan_forms(posted: Any, piece: dict[str, Any], plan: dict[str, Any]) -> Any:
    form = PlanForm(posted, initial=plan)
    outputs = OutputFormSet(
        posted,
        initial=[output_initial(output) for output in plan["outputs"]],
        prefix="out",
        form_kwargs={"cuts": cut_choices(), "steps": step_choices(piece)},
    )
    return form, outputs


def _plan_changed(
    piece: Any, key: str, plan: Any, form: Any, outputs: Any
) -> tuple[dict[str, Any], str]:
    changed = {**plan, "outputs": outputs.documents()}
    for name, value in form.cleaned_data.items():
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
