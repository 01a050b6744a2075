"""How long a session stays open: without a touch, and for what asks for the password beside a PIN.

Everything stands in the signed cookie, so nothing is looked up for it. A touch is a page that somebody went
to, and what `idle.js` says once a minute while a glass is touched; what a page asks for by itself is none.
"""

from collections.abc import Callable
from datetime import timedelta

from django.http import HttpRequest
from django.utils import timezone

OFFICE = timedelta(minutes=30)
"""An office log-in ends after this without a touch."""
PASSWORD_HOLDS = timedelta(minutes=10)
"""A password that was given beside a PIN holds so long."""
SELDOM = 60
"""Seconds: the moment of the last touch is written no more often."""
TOUCHED, CONFIRMED, WALL = "touched", "confirmed", "wall"
_AT_BLOCK: list[Callable[[], timedelta]] = []


def register_block_lock(after: Callable[[], timedelta]) -> None:
    """Let the shop's settings say how long a block stays open without a touch. Called once, at the start."""
    _AT_BLOCK[:] = [after]


def locks_after(*, at_block: bool) -> timedelta:
    return _AT_BLOCK[0]() if at_block and _AT_BLOCK else OFFICE


def _now() -> int:
    return int(timezone.now().timestamp())


def touch(request: HttpRequest) -> None:
    """Somebody is there."""
    if _now() - request.session.get(TOUCHED, 0) >= SELDOM:
        request.session[TOUCHED] = _now()


def is_idle(request: HttpRequest, *, at_block: bool) -> bool:
    """Whether nobody has touched it for too long. The screen on the wall is not touched: it only shows."""
    touched = request.session.get(TOUCHED)
    if touched is None or request.session.get(WALL):
        return False
    return bool(_now() - touched > locks_after(at_block=at_block).total_seconds())


def confirm(request: HttpRequest, turn: str) -> None:
    """The password was given beside the PIN of this turn."""
    request.session[CONFIRMED] = [turn, _now()]


def is_confirmed(request: HttpRequest, turn: str) -> bool:
    of, at = request.session.get(CONFIRMED) or ("", 0)
    return bool(of == turn and 0 <= _now() - at <= PASSWORD_HOLDS.total_seconds())


def is_page(request: HttpRequest) -> bool:
    """Whether somebody went to a page: no part of one, and nothing that a script asks for."""
    return bool(
        request.method == "GET"
        and request.headers.get("Sec-Fetch-Mode", "navigate") == "navigate"
        and not request.headers.get("HX-Request")
    )
