"""One tub; trim that goes into a tub by one touch; what trim is worth."""

import uuid
from collections.abc import Callable

from django.conf import settings
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.utils import timezone
from django.views.decorators.http import require_GET, require_POST

from cutting.grinding.judging import How
from cutting.quantities import HUNDRED, ONE, Unit, Weight
from rooms.catalog.models import Species
from rooms.common.errors import BadInput, Refused
from rooms.common.web.forms import is_number, read_key
from rooms.common.web.refusals import Told, told_by
from rooms.grinder.actions.tubs import (
    Pulled,
    answer_lot,
    close_tub,
    hand_over,
    judge,
    pour_bag,
    pull,
    take_back_entry,
    take_back_throwing,
    throw_away,
    warm,
)
from rooms.grinder.clients.tester import read_tester
from rooms.grinder.forms import BagForm, CaseForm, LeanForm, WarmForm
from rooms.grinder.models import TrimTub, TubIn
from rooms.grinder.queries.house import house_rules
from rooms.grinder.queries.lots import with_answers
from rooms.grinder.queries.tubs import one_tub, waiting, waiting_of
from rooms.grinder.queries.worth import trim_worth
from rooms.grinder.views.asked import check, key_in, row_in
from rooms.grinder.views.grinder import front_page
from rooms.shop.models import Shop
from rooms.shop.queries.current import house
from rooms.staff.block import by_id
from rooms.staff.rights import Right, may


@may(Right.WEIGH)
def tub(request: HttpRequest, tub_id: uuid.UUID) -> HttpResponse:
    """One tub: what is in it, and what is done with it."""
    found_tub = get_object_or_404(TrimTub, pk=tub_id)
    told = Told()
    if request.method == "POST":
        with told:
            what = request.POST.get("what", "")
            if what not in DONE:
                raise BadInput("Tub: one of the buttons is right.")
            DONE[what](request, tub_id, by_id(request))
            return redirect("grinder:tub", tub_id)
    found_tub.refresh_from_db()
    rules = house_rules()
    context = {
        "tub": found_tub,
        "view": None if found_tub.closed_at else one_tub(found_tub, timezone.localdate(), rules),
        "ins": with_answers(
            found_tub.ins.select_related(
                "output__test", "bag__piece", "batch", "by", "taken_back__by"
            )
        ),
        "outs": found_tub.outs.select_related("batch", "by", "taken_back"),
        "judged": found_tub.judged.select_related("by"),
        "warmths": found_tub.warmths.select_related("by"),
        "lean": LeanForm(),
        "warm": WarmForm(),
        "has_tester": bool(settings.TESTER_URL),
        "rules": rules,
        "silver_skin": Shop.SilverSkin(house().silver_skin).label,
        "bag": BagForm(tub=found_tub),
        "case": CaseForm(
            initial={"day": timezone.localdate(), "unit": found_tub.unit},
            takes_sent_back=rules.takes_sent_back,
        ),
        "key": uuid.uuid4(),
        "refused": told.refused,
    }
    return render(request, "grinder/tub.html", context, status=told.status())


def _judge(request: HttpRequest, tub_id: uuid.UUID, at: int | None) -> None:
    form = check(LeanForm(request.POST))
    how = How(form.cleaned_data["how"] or How.EYE)
    judge(tub_id, how, form.cleaned_data["lean"] / HUNDRED, at)


def _by_tester(request: HttpRequest, tub_id: uuid.UUID, at: int | None) -> None:
    reading = read_tester()
    judge(tub_id, How.TESTER, ONE - reading.fat, at, reading.name)


def _pour(request: HttpRequest, tub_id: uuid.UUID, at: int | None) -> None:
    form = check(BagForm(request.POST, tub=get_object_or_404(TrimTub, pk=tub_id)))
    data = form.cleaned_data
    pour_bag(data["key"], tub_id, data["bag"].pk, data["lean"] / HUNDRED, at)


def _pull(request: HttpRequest, tub_id: uuid.UUID, at: int | None) -> None:
    data = check(CaseForm(request.POST)).cleaned_data
    weight = Weight(data["weight"], Unit(data["unit"]))
    pulled = Pulled(weight, data["lot"], data["day"], data["is_sent_back"])
    pull(data["key"], tub_id, pulled, at)


def _warm(request: HttpRequest, tub_id: uuid.UUID, at: int | None) -> None:
    form = check(WarmForm(request.POST))
    warm(tub_id, int(form.cleaned_data["celsius"] * 1000), at)


DONE: dict[str, Callable[[HttpRequest, uuid.UUID, int | None], object]] = {
    "judge": _judge,
    "tester": _by_tester,
    "bag": _pour,
    "case": _pull,
    "warm": _warm,
    "lot": lambda request, tub, at: answer_lot(
        key_in(request), row_in(request), request.POST.get("lot", ""), at
    ),
    "back": lambda request, tub, at: take_back_entry(key_in(request), row_in(request), at),
    "not_thrown": lambda request, tub, at: take_back_throwing(key_in(request), row_in(request), at),
    "throw": lambda request, tub, at: throw_away(
        key_in(request), tub, request.POST.get("reason", ""), at
    ),
    "close": lambda request, tub, at: close_tub(tub),
}
"""What is done with a tub, by its button."""


def _on_sheet(request: HttpRequest, refused: Refused) -> HttpResponse:
    told, test = Told(), request.POST.get("test", "")
    told.refused = refused
    try:
        return _handed_over(request, uuid.UUID(test), told) if test else front_page(request, told)
    except ValueError:
        return front_page(request, told)


@may(Right.WEIGH)
@require_POST
@told_by(_on_sheet)
def take_trim(request: HttpRequest) -> HttpResponse:
    """A pile of the block goes into a tub: one touch."""
    key, tub = key_in(request), key_in(request, "tub")
    output = request.POST.get("output", "")
    if not is_number(output):
        raise BadInput("Pile: choose one of the piles shown.")
    hand_over(uuid.uuid5(key, output), tub, int(output), by_id(request))
    test = request.POST.get("test", "")
    if test:
        return _handed_over(request, read_key(test, "Test"))
    return redirect("grinder:front")


def _handed_over(
    request: HttpRequest, test_id: uuid.UUID, told: Told | None = None
) -> HttpResponse:
    told = told or Told()
    tubs = TrimTub.objects.filter(closed_at=None)
    context = {
        "waiting": waiting_of(test_id),
        "in_tubs": TubIn.objects.standing()
        .filter(output__test=test_id)
        .select_related("tub", "output"),
        "tubs": tubs,
        "test_id": test_id,
        "key": uuid.uuid4(),
        "refused": told.refused,
    }
    return render(request, "grinder/_hand_over.html", context, status=told.status())


@may(Right.LOOK)
@require_GET
def trim_of(request: HttpRequest, test_id: uuid.UUID) -> HttpResponse:
    """For the sheet of a test: its trim, with a touch into a tub."""
    return _handed_over(request, test_id)


@may(Right.LOOK)
@require_GET
def trim_waiting(request: HttpRequest) -> HttpResponse:
    """For the page of the tubs: trim of the last days that lies in none yet."""
    context = {
        "waiting": waiting(),
        "tubs": TrimTub.objects.filter(closed_at=None),
        "key": uuid.uuid4(),
    }
    return render(request, "grinder/_waiting.html", context)


@may(Right.LOOK)
@require_GET
def trim_value(request: HttpRequest) -> HttpResponse:
    """For who values trim in a test: what the last batches made of it. Offered, never used by itself."""
    species = request.GET.get("species", "")
    worth = trim_worth(species) if species in Species.values else None
    context = {"worth": worth, "unit": house().unit}
    return render(request, "grinder/_trim_value.html", context)
