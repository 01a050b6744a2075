"""One batch of the log."""

import uuid
from collections.abc import Callable

from django.conf import settings
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render

from cutting.errors import BadValue
from cutting.quantities import HUNDRED, parse_decimal
from rooms.common.errors import BadInput
from rooms.common.web.refusals import Told
from rooms.grinder.actions.batch import (
    CameOut,
    Packing,
    carry_over,
    finish_batch,
    pack,
    relabel,
    take_back_packed,
    take_back_tested,
    tell_fat,
    undo_batch,
)
from rooms.grinder.clients.tester import read_tester
from rooms.grinder.forms import FatForm, FinishForm, PackForm
from rooms.grinder.models import Batch, Packed
from rooms.grinder.queries.log import batch_view
from rooms.grinder.queries.tubs import carries_into
from rooms.grinder.views.asked import check, key_in, row_in
from rooms.staff.block import by_id
from rooms.staff.rights import Right, may


def _known(batch_id: uuid.UUID) -> Batch:
    people = ("cleaned__by", "set_up__by", "begun_by", "undone_by")
    return get_object_or_404(
        Batch.objects.select_related(*people, "seasoning", "product"), pk=batch_id
    )


@may(Right.WEIGH)
def batch(request: HttpRequest, batch_id: uuid.UUID) -> HttpResponse:
    """One batch of the log."""
    one = _known(batch_id)
    told = Told()
    if request.method == "POST":
        with told:
            what = request.POST.get("what", "")
            if what not in DONE:
                raise BadInput("Batch: one of the buttons is right.")
            DONE[what](request, batch_id, by_id(request))
            return redirect("grinder:batch", batch_id)
        one = _known(batch_id)  # another tablet may have been faster
    view = batch_view(one)
    context = {
        "view": view,
        "finish": FinishForm(initial={"seen": len(view.came)}),
        "has_tester": bool(settings.TESTER_URL),
        "pack": PackForm(),
        "fat": FatForm(),
        "tubs": carries_into(one),
        "key": uuid.uuid4(),
        "refused": told.refused,
    }
    return render(request, "grinder/batch.html", context, status=told.status())


def _finish(request: HttpRequest, batch_id: uuid.UUID, at: int | None) -> None:
    data = check(FinishForm(request.POST)).cleaned_data
    celsius = int(data["celsius"] * 1000)
    finish_batch(batch_id, CameOut(data["got"], data["machine"], celsius, data["seen"] or 0), at)


def _pack(request: HttpRequest, batch_id: uuid.UUID, at: int | None) -> None:
    data = check(PackForm(request.POST)).cleaned_data
    shape = data["shape"] or Packed.Shape.LOOSE
    pack(data["key"], batch_id, Packing(data["trays"], data["weight"], shape, data["pieces"]), at)


def _fat(request: HttpRequest, batch_id: uuid.UUID, at: int | None) -> None:
    data = check(FatForm(request.POST)).cleaned_data
    tell_fat(data["key"], batch_id, data["fat"] / HUNDRED, at)


def _by_tester(request: HttpRequest, batch_id: uuid.UUID, at: int | None) -> None:
    reading = read_tester()
    tell_fat(key_in(request), batch_id, reading.fat, at, reading.name)


def _relabel(request: HttpRequest, batch_id: uuid.UUID, at: int | None) -> None:
    try:
        stated = parse_decimal(request.POST.get("stated", ""), "Fat")
    except BadValue as bad:
        raise BadInput(f"{bad}.") from bad
    relabel(key_in(request), batch_id, stated, at)


DONE: dict[str, Callable[[HttpRequest, uuid.UUID, int | None], object]] = {
    "finish": _finish,
    "pack": _pack,
    "fat": _fat,
    "tester": _by_tester,
    "relabel": _relabel,
    "carry": lambda request, batch, at: carry_over(
        key_in(request), batch, key_in(request, "tub"), at
    ),
    "not_packed": lambda request, batch, at: take_back_packed(
        key_in(request), batch, row_in(request), at
    ),
    "not_tested": lambda request, batch, at: take_back_tested(
        key_in(request), batch, row_in(request), at
    ),
    "undo": lambda request, batch, at: undo_batch(batch, at),
}
"""What is done with a batch, by its button."""
