"""Changing a step of a guide: its words, its place, what it lights."""

from functools import partial
from typing import Any

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect
from django.utils.text import slugify
from django.views.decorators.http import require_POST

from rooms.catalog.actions.edit import (
    Editor,
    save_piece,
)
from rooms.catalog.forms import StepForm, mark_of
from rooms.catalog.queries.unsaved import guide_of
from rooms.catalog.views.editing import (
    NEW,
    drawing_or_none,
    form_page,
    free_key,
    piece_or_404,
    preview,
    save,
)
from rooms.catalog.views.pieces import as_it_is
from rooms.common.errors import BadInput
from rooms.common.web.refusals import told_by
from rooms.staff.block import by_id
from rooms.staff.rights import Right, may

NEW_STEP = {
    "title": "",
    "find": "",
    "do": "",
    "right": "",
    "mistake": "",
    "piles": [],
    "touches": [],
}


@may(Right.CATALOG, read=Right.CATALOG)
def edit_step(request: HttpRequest, key: str, step: Any) -> HttpResponse:
    """One step, or a new one at the end."""
    piece, found = _with_step(key, step)
    initial = StepForm.initial_of(found) | {"seen": mark_of(piece, found)}
    form = StepForm(piece, drawing_or_none(key, piece), request.POST or None, initial=initial)
    if request.method == "POST" and form.is_valid():
        changed, at = _step_changed(piece, step, form.change(found))
        answer = save(request, key, changed, form, partial(_step_in, key=step), f"?step={at}")
        if answer:
            return answer
    plan = next(iter(found.get("plans", [])), "")
    context = {
        "step": step,
        "guide": guide_of(key, piece, plan, step),
        "piece": piece,
        "key": key,
    }
    return form_page(request, "catalog/edit_step.html", form, context)


@may(Right.CATALOG)
@require_POST
def preview_step(request: HttpRequest, key: str, step: Any) -> HttpResponse:
    piece, found = _with_step(key, step)
    form = StepForm(piece, drawing_or_none(key, piece), request.POST)
    if not form.is_valid():
        return preview(request, key, None, form)
    changed, at = _step_changed(piece, step, form.change(found))
    plan = next(iter(form.cleaned_data["plans"]), "")
    return preview(request, key, changed, form, plan=plan, step=changed["steps"][at - 1]["key"])


@may(Right.CATALOG)
@require_POST
@told_by(as_it_is)
def move_step(request: HttpRequest, key: str, step: Any) -> HttpResponse:
    """A step one place up or down, or out."""
    piece, _ = _with_step(key, step)
    steps = list(piece["steps"])
    at = next(i for i, one in enumerate(steps) if one["key"] == step)
    moved = steps.pop(at)
    to = request.POST.get("to", "")
    if to not in ("up", "down", "out"):
        raise BadInput(f"Move: “{to[:20]}”; up, down or out is right.")
    if to != "out":
        steps.insert(max(at - 1, 0) if to == "up" else at + 1, moved)
    save_piece(
        key, {**piece, "steps": steps}, Editor(by_id(request), request.POST.get("state", ""))
    )
    return redirect("catalog:edit", key)


def _with_step(key: str, step: str) -> tuple[dict[str, Any], dict[str, Any]]:
    piece = piece_or_404(key)
    if step != NEW and all(one["key"] != step for one in piece["steps"]):
        raise Http404
    return piece, _step_in(piece, step)


def _step_in(piece: dict[str, Any], key: str) -> dict[str, Any]:
    return next((one for one in piece["steps"] if one["key"] == key), NEW_STEP)


def _step_changed(
    piece: dict[str, Any], step: str, changed: dict[str, Any]
) -> tuple[dict[str, Any], int]:
    """The piece with the changed step, and that step's number."""
    steps = list(piece["steps"])
    if step == NEW:
        changed["key"] = free_key(f"own-{slugify(changed['title'])[:40]}", steps)
        steps.append(changed)
        return {**piece, "steps": steps}, len(steps)
    at = next(i for i, one in enumerate(steps) if one["key"] == step)
    steps[at] = changed
    return {**piece, "steps": steps}, at + 1
