"""Changing a cut, or entering one of the shop's own."""

from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_POST

from rooms.catalog.actions.edit import (
    Editor,
    save_cut,
)
from rooms.catalog.forms import CutForm, mark_of
from rooms.catalog.models import Cut, Muscle
from rooms.catalog.queries.rows import cut_document
from rooms.catalog.views.editing import NEW, own_key
from rooms.common.errors import Overtaken
from rooms.common.web.refusals import status_of, told_in
from rooms.staff.block import by_id
from rooms.staff.rights import Right, may


@may(Right.CATALOG, read=Right.CATALOG)
def edit_cut(request: HttpRequest, key: str) -> HttpResponse:
    """One cut, or a new one of the shop's own."""
    row = None
    if key != NEW:
        row = get_object_or_404(Cut.objects.select_related("muscle"), key=key)
    cut = cut_document(row) if row else {}
    initial = CutForm.initial_of(cut) | {"seen": mark_of(cut, cut)}
    form = CutForm(request.POST or None, initial=initial)
    if request.method == "POST" and form.is_valid():
        key = key if row else own_key(form.cleaned_data["name"], Cut)
        with told_in(form):
            try:
                save_cut(key, form.change(cut), Editor(by_id(request), form.digest))
            except Overtaken as late:
                raise form.overtaken(late.row, late.row) from None
            return redirect("catalog:cut", key)
    context = {"form": form, "cut": row, "key": key, "seen": form["seen"].value()}
    return render(request, "catalog/edit_cut.html", context, status=status_of(form))


@may(Right.CATALOG)
@require_POST
def preview_cut(request: HttpRequest, key: str) -> HttpResponse:
    """The cut's card as the form would make it."""
    form = CutForm(request.POST)
    if not form.is_valid():
        return render(request, "catalog/_preview.html", {"form": form})
    data = form.kept()
    muscle = Muscle.objects.get(key=data.pop("muscle"))
    row = Cut(**{**data, "serves": form.cleaned_data["serves"]}, muscle=muscle)
    return render(request, "catalog/_preview.html", {"cut": row})
