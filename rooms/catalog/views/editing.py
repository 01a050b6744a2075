"""What every page that changes the catalog needs: saving, showing again, previewing."""

from collections.abc import Callable
from typing import Any

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.utils.text import slugify

from cutting.errors import BadValue
from rooms.catalog.actions.edit import (
    Editor,
    known,
    newly_wrong,
    save_piece,
)
from rooms.catalog.queries.checking import faults
from rooms.catalog.queries.drawings import drawing_of
from rooms.catalog.queries.rows import EMPTY, document_of
from rooms.catalog.queries.unsaved import guide_of
from rooms.common.errors import Overtaken
from rooms.common.web.refusals import status_of, told_in
from rooms.staff.block import by_id

NEW = "new"


def piece_or_404(key: str) -> dict[str, Any]:
    found = document_of(only=key)["pieces"].get(key)
    if found is None:
        raise Http404
    return found


def drawing_or_none(key: str, piece: dict[str, Any]) -> Any:
    try:
        return drawing_of(key, piece["drawing"]) if piece.get("drawing") else None
    except BadValue:
        return None


def free_key(key: str, others: list[dict[str, Any]]) -> str:
    """A key no other has."""
    taken = {one["key"] for one in others}
    key, tried = key.strip("-"), 1
    free = key
    while free in taken:
        tried += 1
        free = f"{key}-{tried}"
    return free


def own_key(name: str, model: Any) -> str:
    """A key that no shipped row will ever have."""
    key = f"house-{slugify(name)[:40]}".strip("-")
    taken = set(model.everything.filter(key__startswith=key).values_list("key", flat=True))
    return free_key(key, [{"key": one} for one in taken])


Part = Callable[[dict[str, Any]], dict[str, Any]]
"""What a form edits of a piece's document."""


def save(
    request: HttpRequest, key: str, piece: Any, form: Any, part: Part, query: str = ""
) -> HttpResponse:
    """Save and lead to the guide; None, with the fault in the form, when it was refused."""
    with told_in(form):
        try:
            save_piece(key, piece, Editor(by_id(request), form.digest))
        except Overtaken as late:
            raise form.overtaken(late.row, part(late.row)) from None
        response = redirect("catalog:guide", key)
        response["Location"] += query
        return response
    return None


def form_page(request: HttpRequest, template: str, form: Any, context: Any) -> HttpResponse:
    """The page of a form; `context` holds the piece's key and document as they are."""
    context |= {"form": form, "seen": form["seen"].value()}
    rows = context.get("outputs")
    is_wrong = rows is not None and rows.is_bound and not rows.is_valid()
    status = max(status_of(form), 422 if is_wrong else 200)
    return render(request, template, context, status=status)


def preview(request: HttpRequest, key: str, piece: Any, form: Any, **shown: Any) -> HttpResponse:
    """The guide of an unsaved document, or what keeps it from being one.

    `shown`: the keys of the plan and the step to show.
    """
    context = {"form": form}
    if piece is not None:
        document = {**EMPTY, "pieces": {key: piece}}
        now = document_of(only=key)["pieces"].get(key)
        found = faults(document, known()) or newly_wrong(document, now)
        context = {"faults": found} if found else {"guide": guide_of(key, piece, **shown)}
    return render(request, "catalog/_preview.html", context)
