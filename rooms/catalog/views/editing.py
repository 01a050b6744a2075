"""Pages that change the catalog. Each form is a changed document, previewed before it is saved."""

from typing import Any

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.utils.text import slugify
from django.views.decorators.http import require_GET, require_POST

from cutting.errors import BadValue
from rooms.catalog.actions.edit import (
    Editor,
    digest,
    known,
    save_cut,
    save_piece,
    take_out,
)
from rooms.catalog.forms import (
    CutForm,
    OutputFormSet,
    PieceForm,
    PlanForm,
    StepForm,
    cut_choices,
    output_initial,
)
from rooms.catalog.models import Cut, Muscle, Piece
from rooms.catalog.queries.changes import all_changes, changes_of_piece
from rooms.catalog.queries.unsaved import guide_of
from rooms.catalog.rules.checking import faults
from rooms.catalog.rules.drawings import drawing_of
from rooms.catalog.rules.rows import EMPTY, cut_document, document_of
from rooms.common.errors import BadInput
from rooms.common.refusals import status_of, told_in
from rooms.staff.block import by_id
from rooms.staff.rights import Right, may

NEW = "new"
NEW_PIECE = {
    "name": "New piece",
    "species": "beef",
    "primal": "beef-chuck",
    "steps": [],
    "plans": [
        {
            "key": "own-plan",
            "name": "Plain",
            "outputs": [
                {"name": "Portions", "pile": "portions"},
                {"name": "Lean trim", "pile": "lean"},
                {"name": "Discard", "pile": "discard"},
            ],
        }
    ],
}
NEW_STEP = {
    "title": "",
    "find": "",
    "do": "",
    "right": "",
    "mistake": "",
    "piles": [],
    "touches": [],
}


# --- the piece ------------------------------------------------------------------------------


@may(Right.CATALOG, read=Right.CATALOG)
def edit_piece(request: HttpRequest, key: str) -> HttpResponse:
    """Names and facts of a piece; below, its steps and plans."""
    piece = _piece(key)
    form = PieceForm(request.POST or None, initial=PieceForm.filled(piece))
    if request.method == "POST" and form.is_valid():
        answer = _save(request, key, form.change(piece), form)
        if answer:
            return answer
    context = {"guide": guide_of(key, piece), "piece": piece, "key": key}
    return _page(request, "catalog/edit_piece.html", form, context)


@may(Right.CATALOG, read=Right.CATALOG)
def new_piece(request: HttpRequest) -> HttpResponse:
    """A piece of the shop's own, with a plain plan to start from."""
    form = PieceForm(request.POST or None, initial=PieceForm.filled(NEW_PIECE) | {"name": ""})
    if request.method == "POST" and form.is_valid():
        key = _own_key(form.cleaned_data["name"], Piece)
        answer = _save(request, key, form.change(NEW_PIECE), form)
        if answer:
            return answer
    context = {
        "guide": guide_of(NEW, NEW_PIECE),
        "piece": NEW_PIECE,
        "key": NEW,
        "is_new": True,
    }
    return _page(request, "catalog/edit_piece.html", form, context)


@may(Right.CATALOG)
@require_POST
def preview_piece(request: HttpRequest, key: str) -> HttpResponse:
    """The guide as the form would make it."""
    piece = NEW_PIECE if key == NEW else _piece(key)
    form = PieceForm(request.POST)
    return _preview(request, key, form.change(piece) if form.is_valid() else None, form)


@may(Right.CATALOG)
@require_POST
def drop_piece(request: HttpRequest, key: str) -> HttpResponse:
    """Take a piece out of use, or bring it back."""
    back = request.POST.get("back") == "1"
    take_out(key, by_id(request), back=back)
    return redirect("catalog:edit", key) if back else redirect("catalog:all_changes")


# --- a step ---------------------------------------------------------------------------------


@may(Right.CATALOG, read=Right.CATALOG)
def edit_step(request: HttpRequest, key: str, step: Any) -> HttpResponse:
    """One step, or a new one at the end."""
    piece, found = _with_step(key, step)
    form = StepForm(piece, _drawing(key, piece), request.POST or None, initial=found)
    if request.method == "POST" and form.is_valid():
        changed, at = _step_changed(piece, step, form.change(found))
        answer = _save(request, key, changed, form, f"?step={at}")
        if answer:
            return answer
    plan = next(iter(found.get("plans", [])), "")
    context = {
        "step": step,
        "guide": guide_of(key, piece, plan, step),
        "piece": piece,
        "key": key,
    }
    return _page(request, "catalog/edit_step.html", form, context)


@may(Right.CATALOG)
@require_POST
def preview_step(request: HttpRequest, key: str, step: Any) -> HttpResponse:
    piece, found = _with_step(key, step)
    form = StepForm(piece, _drawing(key, piece), request.POST)
    if not form.is_valid():
        return _preview(request, key, None, form)
    changed, at = _step_changed(piece, step, form.change(found))
    plan = next(iter(form.cleaned_data["plans"]), "")
    return _preview(request, key, changed, form, plan=plan, step=changed["steps"][at - 1]["key"])


@may(Right.CATALOG)
@require_POST
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
    save_piece(key, {**piece, "steps": steps}, Editor(by_id(request), digest(piece)))
    return redirect("catalog:edit", key)


def _with_step(key: str, step: str) -> tuple[dict[str, Any], dict[str, Any]]:
    piece = _piece(key)
    found = next((one for one in piece["steps"] if one["key"] == step), None)
    if found is None and step != NEW:
        raise Http404
    return piece, found or NEW_STEP


def _step_changed(
    piece: dict[str, Any], step: str, changed: dict[str, Any]
) -> tuple[dict[str, Any], int]:
    """The piece with the changed step, and that step's number."""
    steps = list(piece["steps"])
    if step == NEW:
        changed["key"] = _free(f"own-{slugify(changed['title'])[:40]}", steps)
        steps.append(changed)
        return {**piece, "steps": steps}, len(steps)
    at = next(i for i, one in enumerate(steps) if one["key"] == step)
    steps[at] = changed
    return {**piece, "steps": steps}, at + 1


# --- a plan ---------------------------------------------------------------------------------


@may(Right.CATALOG, read=Right.CATALOG)
def edit_plan(request: HttpRequest, key: str, plan: Any) -> HttpResponse:
    """One plan with its outputs, or a new one."""
    piece, found = _with_plan(key, plan)
    form, outputs = _plan_forms(request.POST or None, found)
    if request.method == "POST" and form.is_valid() and outputs.is_valid():
        changed, plan_key = _plan_changed(piece, plan, found, form, outputs)
        answer = _save(request, key, changed, form, f"?plan={plan_key}")
        if answer:
            return answer
    context = {
        "plan": plan,
        "outputs": outputs,
        "guide": guide_of(key, piece, plan=plan),
        "piece": piece,
        "key": key,
    }
    return _page(request, "catalog/edit_plan.html", form, context)


@may(Right.CATALOG)
@require_POST
def preview_plan(request: HttpRequest, key: str, plan: Any) -> HttpResponse:
    piece, found = _with_plan(key, plan)
    form, outputs = _plan_forms(request.POST, found)
    if not (form.is_valid() and outputs.is_valid()):
        return _preview(request, key, None, form)
    changed, plan_key = _plan_changed(piece, plan, found, form, outputs)
    return _preview(request, key, changed, form, plan=plan_key)


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
    piece = _piece(key)
    found = next((one for one in piece["plans"] if one["key"] == plan), None)
    if found is None and plan != NEW:
        raise Http404
    return piece, found or {"name": "", "outputs": []}


def _plan_forms(posted: Any, plan: dict[str, Any]) -> Any:
    form = PlanForm(posted, initial=plan)
    outputs = OutputFormSet(
        posted,
        initial=[output_initial(output) for output in plan["outputs"]],
        prefix="out",
        form_kwargs={"cuts": cut_choices()},
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
        changed["key"] = _free(f"own-{slugify(changed['name'])[:40]}", plans)
        plans.append(changed)
    else:
        plans = [changed if one["key"] == key else one for one in plans]
    return {**piece, "plans": plans}, changed["key"]


# --- a cut ----------------------------------------------------------------------------------


@may(Right.CATALOG, read=Right.CATALOG)
def edit_cut(request: HttpRequest, key: str) -> HttpResponse:
    """One cut, or a new one of the shop's own."""
    row = None
    if key != NEW:
        row = get_object_or_404(Cut.objects.select_related("muscle"), key=key)
    cut = cut_document(row) if row else {}
    form = CutForm(request.POST or None, initial={"counter": "self", **cut})
    if request.method == "POST" and form.is_valid():
        key = key if row else _own_key(form.cleaned_data["name"], Cut)
        with told_in(form):
            save_cut(key, form.change(cut), Editor(by_id(request), request.POST.get("seen", "")))
            return redirect("catalog:cut", key)
    context = {"form": form, "cut": row, "key": key, "seen": digest(cut)}
    return render(request, "catalog/edit_cut.html", context, status=status_of(form))


@may(Right.CATALOG)
@require_POST
def preview_cut(request: HttpRequest, key: str) -> HttpResponse:
    """The cut's card as the form would make it."""
    form = CutForm(request.POST)
    if not form.is_valid():
        return render(request, "catalog/_preview.html", {"form": form})
    data = form.cleaned_data
    row = Cut(**{name: value for name, value in data.items() if name != "muscle"})
    row.muscle = Muscle.objects.get(key=data["muscle"])
    return render(request, "catalog/_preview.html", {"cut": row})


# --- who changed what -----------------------------------------------------------------------


@may(Right.LOOK)
@require_GET
def piece_changes(request: HttpRequest, key: str) -> HttpResponse:
    piece = get_object_or_404(Piece.everything, key=key)
    context = {"lines": changes_of_piece(piece), "piece": piece}
    return render(request, "catalog/changes.html", context)


@may(Right.LOOK)
@require_GET
def changes(request: HttpRequest) -> HttpResponse:
    dropped = Piece.everything.filter(is_dropped=True)
    context = {"lines": all_changes(), "dropped": dropped}
    return render(request, "catalog/changes.html", context)


# --- the small change -----------------------------------------------------------------------


def _piece(key: str) -> dict[str, Any]:
    found = document_of(only=key)["pieces"].get(key)
    if found is None:
        raise Http404
    return found


def _drawing(key: str, piece: dict[str, Any]) -> Any:
    try:
        return drawing_of(key, piece["drawing"]) if piece.get("drawing") else None
    except BadValue:
        return None


def _free(key: str, others: list[dict[str, Any]]) -> str:
    """A key no other has."""
    taken = {one["key"] for one in others}
    key, tried = key.strip("-"), 1
    free = key
    while free in taken:
        tried += 1
        free = f"{key}-{tried}"
    return free


def _own_key(name: str, model: Any) -> str:
    """A key that no shipped row will ever have."""
    key = f"house-{slugify(name)[:40]}".strip("-")
    taken = set(model.everything.filter(key__startswith=key).values_list("key", flat=True))
    return _free(key, [{"key": one} for one in taken])


def _save(request: HttpRequest, key: str, piece: Any, form: Any, query: str = "") -> HttpResponse:
    """Save and lead to the guide; None, with the fault in the form, when it was refused."""
    with told_in(form):
        save_piece(key, piece, Editor(by_id(request), request.POST.get("seen", "")))
        response = redirect("catalog:guide", key)
        response["Location"] += query
        return response
    return None


def _page(request: HttpRequest, template: str, form: Any, context: Any) -> HttpResponse:
    """The page of a form; `context` holds the piece's key and document as they are."""
    context |= {"form": form, "seen": digest(context["piece"])}
    return render(request, template, context, status=status_of(form))


def _preview(request: HttpRequest, key: str, piece: Any, form: Any, **shown: Any) -> HttpResponse:
    """The guide of an unsaved document, or what keeps it from being one.

    `shown`: the keys of the plan and the step to show.
    """
    context = {"form": form}
    if piece is not None:
        found = faults({**EMPTY, "pieces": {key: piece}}, known())
        context = {"faults": found} if found else {"guide": guide_of(key, piece, **shown)}
    return render(request, "catalog/_preview.html", context)
