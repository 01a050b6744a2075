"""Who is asking, for every page: their name, and what they may do."""

from typing import Any

from django.conf import settings
from django.http import HttpRequest

from rooms.staff.block import who


def people(request: HttpRequest) -> Any:
    at = who(request)
    return {
        "cutter": at,
        "may": at.may if at else {},
        "demo_pins": getattr(settings, "DEMO_PINS", ""),
        "demo_login": getattr(settings, "DEMO_LOGIN", ""),
    }
