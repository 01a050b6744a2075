"""The one door: every view is asked which right it needs before it runs."""

from typing import Any
from urllib.parse import urlencode

from django.core.exceptions import ImproperlyConfigured
from django.http import HttpRequest, HttpResponseRedirect
from django.shortcuts import render
from django.urls import reverse

from rooms.common.doors import ANYBODY
from rooms.staff.block import TABLET_COOKIE, who

SAFE = ("GET", "HEAD", "OPTIONS")
NOBODY = (
    "Nobody is named here, so nothing was recorded. What was typed is still on the page before."
)


class AskWho:
    def __init__(self, get_response: Any) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> Any:
        return self.get_response(request)

    def process_view(self, request: HttpRequest, view: Any, args: Any, kwargs: Any) -> Any:
        rights = getattr(view, "rights", None)
        if rights is None:
            raise ImproperlyConfigured(f"{view.__module__}.{view.__name__} asks for no right")
        if rights == ANYBODY:
            return None
        at = who(request)
        if at is None:
            return _ask(request)
        right = rights[0] if request.method in SAFE else rights[1]
        words = at.refusal(right)
        return _refuse(request, words) if words else None


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
