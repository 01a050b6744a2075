"""The one door: every view is asked which right it needs before it runs."""

from typing import Any
from urllib.parse import urlencode

from django.core.exceptions import ImproperlyConfigured
from django.http import HttpRequest, HttpResponseRedirect
from django.shortcuts import render
from django.urls import reverse

from rooms.common.errors import Refused
from rooms.common.web.doors import ANYBODY
from rooms.staff import sessions
from rooms.staff.actions.confirming import confirm_password
from rooms.staff.actions.events import note_refusal
from rooms.staff.block import TABLET_COOKIE, AtTheBlock, who
from rooms.staff.rights import Asks, Right

SAFE = ("GET", "HEAD", "OPTIONS")
NOBODY = (
    "Nobody is named here, so nothing was recorded. What was typed is still on the page before."
)
PASSWORD = "own_password"  # noqa: S105 (the name of a field)
NOT_CARRIED = frozenset({PASSWORD, "csrfmiddlewaretoken"})


class AskWho:
    def __init__(self, get_response: Any) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> Any:
        response = self.get_response(request)
        if getattr(request, "at_the_block", None) is not None:
            response.headers.setdefault("Cache-Control", "no-store")
        return response

    def process_view(self, request: HttpRequest, view: Any, args: Any, kwargs: Any) -> Any:
        rights = getattr(view, "rights", None)
        if rights is None:
            raise ImproperlyConfigured(f"{view.__module__}.{view.__name__} asks for no right")
        if rights == ANYBODY:
            return None
        if sessions.is_page(request):
            _is_wall(request)
        at = who(request)
        if at is None:
            return _ask(request)
        if sessions.is_page(request) and not at.is_wall:
            sessions.touch(request)
        right = rights[0] if request.method in SAFE else rights[1]
        words = at.refusal(right)
        if words:
            note_refusal(request, at, words)
            return _refuse(request, words)
        if request.method not in SAFE and right.asks is Asks.PASSWORD and at.turn:
            return _confirmed(request, at, right)
        return None


def _is_wall(request: HttpRequest) -> None:
    """A screen on the wall stays open and shows only; whoever leaves it must not be away too long. Nothing is
    written for the pages of others."""
    is_wall = request.GET.get("wall") == "1"
    if is_wall and who(request) is not None:
        request.session[sessions.WALL] = True
        request.__dict__.pop("at_the_block", None)
    elif not is_wall and request.session.get(sessions.WALL):
        del request.session[sessions.WALL]


def _confirmed(request: HttpRequest, at: AtTheBlock, right: Right) -> Any:
    """None where the password was given in the last ten minutes, or comes along; else the page that asks for
    it, with everything that was sent."""
    password, refused = request.POST.get(PASSWORD), None
    request.POST = _without_password(request.POST)
    if password:
        try:
            confirm_password(request, at, password)
        except Refused as wrong:
            refused = wrong
    if sessions.is_confirmed(request, at.turn):
        return None
    status = refused.status if refused else 403
    context = {
        "words": right.words,
        "refused": refused,
        "name": PASSWORD,
        "path": request.get_full_path(),
        "fields": [
            (key, value)
            for key, values in request.POST.lists()
            for value in values
            if key not in NOT_CARRIED
        ],
        "has_files": bool(request.FILES),
    }
    response = render(request, "staff/confirm.html", context, status=status)
    if request.headers.get("HX-Request"):
        # It takes the page's place: a part of it would hide where the password goes.
        response.status_code = 422
        response.headers["HX-Retarget"] = "#main"
        response.headers["HX-Reswap"] = "innerHTML"
        response.headers["HX-Reselect"] = "#main > *"
    return response


def _without_password(sent: Any) -> Any:
    """What the view gets: a page that shows it again must not show the password."""
    if PASSWORD not in sent:
        return sent
    sent = sent.copy()
    del sent[PASSWORD]
    return sent


def door(request: HttpRequest) -> str:
    """Where one says who one is: names and PINs on a tablet, else the office log-in."""
    name = "staff:who" if TABLET_COOKIE in request.COOKIES else "staff:office"
    return f"{reverse(name)}?{urlencode({'back': request.get_full_path()})}"


def _ask(request: HttpRequest) -> Any:
    wants_page = "text/html" in request.headers.get("Accept", "text/html")
    if wants_page and request.method in SAFE and not request.headers.get("HX-Request"):
        return HttpResponseRedirect(door(request))
    context = {
        "message": NOBODY,
        "todo": "Say who you are, then send it again.",
        "door": door(request),
    }
    return render(request, "refused.html", context, status=401)


def _refuse(request: HttpRequest, words: str) -> Any:
    context = {"message": words, "todo": "Nothing was changed.", "door": door(request)}
    return render(request, "refused.html", context, status=403)
