"""What every page shows: the rooms that exist, the theme, the scale."""

from typing import Any

from django.apps import apps
from django.conf import settings
from django.http import HttpRequest
from django.urls import reverse

from rooms.common.web.repeats import repeated

ROOMS = (
    ("today", "Today", "today:today"),
    ("cooler", "Cooler", "cooler:cooler"),
    ("catalog", "Pieces", "catalog:animals"),
    ("planner", "Planner", "planner:day"),
    ("layout", "Layout", "layout:front"),
    ("bench", "Bench", "bench:front"),
    ("grinder", "Grinder", "grinder:front"),
    ("trays", "Trays", "trays:front"),
    ("pricing", "Counter", "pricing:prices"),
)
ROOM_OF = {
    "pricebook": "pricing",
    "demand": "planner",
    "recall": "trays",
    "planner:ad": "pricing",
    "planner:kept": "pricing",
}
"""Rooms, and single pages, that stand under another door in the head of the page."""
THEMES = ("light", "dark")


def rooms(request: HttpRequest) -> Any:
    match = request.resolver_match
    here = ""
    if match is not None:
        room = ROOM_OF.get(match.app_name, match.app_name)
        here = ROOM_OF.get(match.view_name, room)
    theme = request.COOKIES.get("theme", "")
    return {
        "rooms": [
            {"name": name, "url": reverse(view), "here": here == label}
            for label, name, view in ROOMS
            if apps.is_installed(f"rooms.{label}")
        ],
        "repeated": repeated(request),
        "theme": theme if theme in THEMES else "",
        "scale_url": settings.SCALE_URL,
        "scale_is_simulated": settings.SCALE_IS_SIMULATED,
        "scanner_is_simulated": settings.SCALE_IS_SIMULATED,
    }
