"""Who changed what."""

from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, render
from django.views.decorators.http import require_GET

from rooms.catalog.models import Piece
from rooms.catalog.queries.changes import all_changes, changes_of_piece
from rooms.staff.rights import Right, may


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
