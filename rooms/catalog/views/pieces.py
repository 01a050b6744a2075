"""Changing a piece, with a preview; a new one; one that goes."""

from typing import Any

from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect
from django.views.decorators.http import require_POST

from rooms.catalog.actions.edit import digest, take_out
from rooms.catalog.forms import PieceForm, mark_of
from rooms.catalog.models import Piece
from rooms.catalog.queries.unsaved import guide_of
from rooms.catalog.views.editing import NEW, form_page, own_key, piece_or_404, preview, save
from rooms.common.errors import Refused
from rooms.staff.block import by_id
from rooms.staff.rights import Right, may

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


def facts_of(piece: dict[str, Any]) -> dict[str, Any]:
    """All but its steps and plans, which have forms of their own."""
    return {name: value for name, value in piece.items() if name not in ("steps", "plans")}


@may(Right.CATALOG, read=Right.CATALOG)
def edit_piece(request: HttpRequest, key: str) -> HttpResponse:
    """Names and facts of a piece; below, its steps and plans."""
    piece = piece_or_404(key)
    form = PieceForm(request.POST or None, initial=_initial(piece))
    if request.method == "POST" and form.is_valid():
        answer = save(request, key, form.change(piece), form, facts_of)
        if answer:
            return answer
    return _page(request, key, piece, form)


def _initial(piece: dict[str, Any]) -> dict[str, Any]:
    return PieceForm.initial_of(piece) | {"seen": mark_of(piece, facts_of(piece))}


def _page(
    request: HttpRequest, key: str, piece: dict[str, Any], form: PieceForm, told: str = ""
) -> HttpResponse:
    """`state`: what moving a step or taking a plan out rests on."""
    context = {
        "guide": guide_of(key, piece),
        "piece": piece,
        "key": key,
        "state": digest(piece),
        "told": told,
    }
    return form_page(request, "catalog/edit_piece.html", form, context)


def as_it_is(request: HttpRequest, refused: Refused, key: str, **_part: str) -> HttpResponse:
    """The piece as it is now, with why one of its parts was not moved or taken out."""
    piece = piece_or_404(key)
    page = _page(request, key, piece, PieceForm(initial=_initial(piece)), refused.message)
    page.status_code = refused.status
    return page


@may(Right.CATALOG, read=Right.CATALOG)
def new_piece(request: HttpRequest) -> HttpResponse:
    """A piece of the shop's own, with a plain plan to start from."""
    form = PieceForm(request.POST or None, initial=PieceForm.initial_of(NEW_PIECE) | {"name": ""})
    if request.method == "POST" and form.is_valid():
        key = own_key(form.cleaned_data["name"], Piece)
        answer = save(request, key, form.change(NEW_PIECE), form, facts_of)
        if answer:
            return answer
    context = {
        "guide": guide_of(NEW, NEW_PIECE),
        "piece": NEW_PIECE,
        "key": NEW,
        "is_new": True,
    }
    return form_page(request, "catalog/edit_piece.html", form, context)


@may(Right.CATALOG)
@require_POST
def preview_piece(request: HttpRequest, key: str) -> HttpResponse:
    """The guide as the form would make it."""
    piece = NEW_PIECE if key == NEW else piece_or_404(key)
    form = PieceForm(request.POST)
    return preview(request, key, form.change(piece) if form.is_valid() else None, form)


@may(Right.CATALOG)
@require_POST
def drop_piece(request: HttpRequest, key: str) -> HttpResponse:
    """Take a piece out of use, or bring it back."""
    back = request.POST.get("back") == "1"
    take_out(key, by_id(request), back=back)
    return redirect("catalog:edit", key) if back else redirect("catalog:all_changes")
