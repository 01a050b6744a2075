"""A lot is held and looked for; drills; the notice to print."""

import uuid
from urllib.parse import urlencode

from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.http import require_GET, require_http_methods, require_POST

from rooms.common.errors import BadInput, Refused
from rooms.common.web.forms import read_key
from rooms.common.web.paging import paged
from rooms.common.web.refusals import Told, told_by
from rooms.recall.actions.recalls import end_looking, find_tray, hold_and_look, lift, start_drill
from rooms.recall.models import Recall
from rooms.recall.queries.finding import found
from rooms.recall.queries.trace_page import TRAYS_A_PAGE
from rooms.recall.queries.whereabouts import whereabouts
from rooms.staff.block import by_id
from rooms.staff.rights import Right, may
from rooms.trays.models import Tray
from rooms.trays.queries.labelling import label_rules


def _key(request: HttpRequest) -> uuid.UUID:
    return read_key(request.POST.get("key", ""))


def _again(request: HttpRequest, refused: Refused) -> HttpResponse:
    """What was typed stays on the page."""
    context = {
        "lot": request.POST.get("lot", "")[:60],
        "reason": request.POST.get("reason", "")[:200],
        "key": request.POST.get("key", ""),
        "refused": refused,
    }
    return render(request, "recall/hold.html", context, status=refused.status)


@may(Right.WEIGH)
@require_POST
@told_by(_again)
def hold(request: HttpRequest) -> HttpResponse:
    """The lot is held at once."""
    words, lot = request.POST.get("reason", ""), request.POST.get("lot", "")
    recall = hold_and_look(_key(request), lot, words, by_id(request))
    return redirect("recall:recall", recall.pk)


@may(Right.WEIGH)
@require_POST
@told_by(_again)
def drill(request: HttpRequest) -> HttpResponse:
    """The same, and nothing is held."""
    recall = start_drill(_key(request), request.POST.get("lot", ""), by_id(request))
    return redirect("recall:recall", recall.pk)


@may(Right.LOOK)
@require_GET
def ask(request: HttpRequest) -> HttpResponse:
    """Why a lot is held."""
    return render(request, "recall/hold.html", {"lot": request.GET.get("lot", "")[:60]})


@may(Right.WEIGH)
@require_http_methods(["GET", "POST"])
def recall(request: HttpRequest, recall_id: int) -> HttpResponse:
    """Everything of the lot: what can still be stopped, what cannot, what was found."""
    told, said = Told(), ""
    if request.method == "POST":
        with told:
            said = _do(request, recall_id)
            if not said:
                return redirect("recall:recall", recall_id)
    return _page(request, recall_id, told.refused, said)


def _page(
    request: HttpRequest, recall_id: int, refused: Refused | None = None, said: str = ""
) -> HttpResponse:
    """What was typed and refused stays on the page."""
    rows = Recall.objects.select_related("hold__lifted__by", "by", "ended_by")
    own = get_object_or_404(rows, pk=recall_id)
    where = whereabouts(own.lot_key, own)
    missing = paged(where.missing, request.GET.get("page"), TRAYS_A_PAGE)
    context = {
        "recall": own,
        "where": where,
        "missing": missing,
        "way": f"{reverse('recall:trace_lot')}?{urlencode({'lot': own.lot})}",
        "code": request.POST.get("code", "") if refused else "",
        "reason": request.POST.get("reason", "") if refused else "",
        "said": said,
        "refused": refused,
    }
    status = refused.status if refused else 200
    return render(request, "recall/recall.html", context, status=status)


def _do(request: HttpRequest, recall_id: int) -> str:
    """What there is to say; empty where the page says it."""
    what, at = request.POST.get("what", ""), by_id(request)
    if what == "found":
        return _found(request.POST.get("code", ""), recall_id, at)
    if what == "end":
        end_looking(recall_id, at)
    else:
        raise BadInput("Recall: one of the buttons is right.")
    return ""


def _found(code: str, recall_id: int, at: int | None) -> str:
    matches = [one for one in found(code) if one.kind == "tray"]
    if len(matches) != 1:
        right = "the number or the QR of one tray is right"
        raise BadInput(f"Code: “{code[:60]}” is {len(matches)} trays; {right}.")
    tray = Tray.objects.get(pk=matches[0].name)
    row, was_there = find_tray(recall_id, tray, at)
    if was_there:
        return (
            f"Tray {tray.number} was found already, by {row.by or 'nobody named'}; nothing changed."
        )
    return f"Tray {tray.number}: found. Keep it apart."


@may(Right.LIFT)
@require_POST
@told_by(lambda request, refused, recall_id: _page(request, recall_id, refused))
def let_go(request: HttpRequest, recall_id: int) -> HttpResponse:
    """The hold is lifted."""
    lift(_key(request), recall_id, request.POST.get("reason", ""), by_id(request))
    return redirect("recall:recall", recall_id)


@may(Right.LOOK)
@require_GET
def notice(request: HttpRequest, recall_id: int) -> HttpResponse:
    """To print and hang up: what is called back."""
    own = get_object_or_404(Recall.objects.select_related("hold"), pk=recall_id)
    context = {
        "recall": own,
        "where": whereabouts(own.lot_key, own),
        "has_link": bool(label_rules().link),
    }
    return render(request, "recall/notice.html", context)
