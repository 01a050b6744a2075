"""A press that came again: what is told of it, and how the same thing is recorded as another.

A tablet that sends again what waited is answered as the first time and told nothing.
"""

import uuid
from collections.abc import Iterable
from datetime import datetime
from typing import Any

from django.core import signing
from django.http import HttpRequest, HttpResponse, QueryDict
from django.shortcuts import render

from rooms.common.db.writing import repeated_at
from rooms.common.errors import KeyTaken

COOKIE, SALT = "repeated", "repeated"
LARGEST_COOKIE = 3000
SECONDS = 60
BESIDE = frozenset({"csrfmiddlewaretoken"})


def as_another(posted: QueryDict) -> list[tuple[str, str]]:
    """Return the fields of a form with a key of their own, to record the same content once more."""
    pairs: Iterable[tuple[str, list[str]]] = posted.lists()
    return [
        (name, str(uuid.uuid4()) if _is_key(name) else value)
        for name, values in pairs
        if name not in BESIDE
        for value in values
    ]


def _is_key(name: str) -> bool:
    return name == "key" or name.endswith("-key")


def is_by_hand(request: HttpRequest) -> bool:
    """Return whether a person pressed a plain button: not a tablet that sends what waited."""
    return request.method == "POST" and "Tally-Glass" not in request.headers


def tell_repeat(request: HttpRequest, response: HttpResponse) -> HttpResponse:
    """Let the page that a repeated press leads to say so, with a button to record it as another."""
    at = repeated_at()
    if at is not None and is_by_hand(request) and response.status_code in (301, 302, 303):
        told = {"at": at.isoformat(), "path": request.get_full_path()}
        whole = told | {"fields": as_another(request.POST)}
        text = signing.dumps(whole, salt=SALT, compress=True)
        if len(text) > LARGEST_COOKIE:
            text = signing.dumps(told, salt=SALT, compress=True)
        response.set_cookie(COOKIE, text, max_age=SECONDS, httponly=True, samesite="Lax")
    elif COOKIE in request.COOKIES and _is_page(request, response):
        response.delete_cookie(COOKIE)
    return response


def _is_page(request: HttpRequest, response: HttpResponse) -> bool:
    """Return whether this answer is a whole page, which has told what there was to tell."""
    is_html = "text/html" in response.get("Content-Type", "")
    is_read = request.method == "GET" and response.status_code == 200
    return is_read and is_html and not _is_fragment(request)


def repeated(request: HttpRequest) -> dict[str, Any] | None:
    """Return what the page tells of a repeat: when it was recorded, and the form to record it as another."""
    text = request.COOKIES.get(COOKIE, "")
    if not text:
        return None
    try:
        told = signing.loads(text, salt=SALT, max_age=SECONDS)
    except signing.BadSignature:
        return None
    return told | {"at": datetime.fromisoformat(told["at"])}


def _is_fragment(request: HttpRequest) -> bool:
    return bool(request.headers.get("HX-Request") or request.headers.get("Tally-Glass"))


def tell_taken(request: HttpRequest, taken: KeyTaken) -> HttpResponse:
    """Answer a key that came with other content: what was recorded, and what can be done about it."""
    page = getattr(taken.row, "get_absolute_url", None)
    context = {
        "taken": taken,
        "correct": page() if page is not None else "",
        "path": request.get_full_path(),
        "fields": [] if request.FILES else as_another(request.POST),
    }
    part = _is_fragment(request)
    template = "_key_taken.html" if part else "key_taken.html"
    return render(request, template, context, status=taken.status)
