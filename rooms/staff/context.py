"""Who is asking, for every page: their name, and what they may do."""

from typing import Any

from django.conf import settings
from django.http import HttpRequest

from rooms.staff.block import AtTheBlock, who
from rooms.staff.sessions import locks_after


def _locks_after(at: AtTheBlock | None) -> float:
    """Minutes without a touch; 0 where nothing locks."""
    if at is None or at.is_wall:
        return 0
    return locks_after(at_block=bool(at.turn)).total_seconds() / 60


def people(request: HttpRequest) -> Any:
    at = who(request)
    return {
        "cutter": at,
        "may": at.may if at else {},
        "locks_after": _locks_after(at),
        "demo_pins": getattr(settings, "DEMO_PINS", ""),
        "demo_login": getattr(settings, "DEMO_LOGIN", ""),
    }
