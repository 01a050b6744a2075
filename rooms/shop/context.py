"""The shop's settings, for every page."""

from typing import Any

from django.http import HttpRequest

from rooms.shop.queries.current import house


def shop(request: HttpRequest) -> Any:
    return {"shop": house()}
