"""Every request runs in the shop's own time zone: what is today, and what the clock says."""

from typing import Any

from django.http import HttpRequest
from django.utils import timezone

from rooms.shop.queries.current import house


class ItsTime:
    def __init__(self, get_response: Any) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> Any:
        timezone.activate(house().zone)  # and left so: what streams goes on after this
        return self.get_response(request)
