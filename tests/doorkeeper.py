"""Every request of the suite is watched: what writes comes by the one door."""

import re
from collections.abc import Callable
from typing import Any

from django.db import connection
from django.http import HttpRequest, HttpResponse

from rooms.common.db.writing import is_open

WRITES = re.compile(
    r'\s*(?:INSERT(?: OR \w+)? INTO|UPDATE|DELETE FROM|REPLACE INTO)\s+"?(\w+)', re.I
)
NO_RECORD = ("django_session", "axes_")
"""Who is signed in, and tries to: no record of the shop's work."""


class WroteOutsideTheDoor(AssertionError):
    """An action wrote without `rooms.common.db.writing.write`."""


def watch(execute: Callable[..., Any], sql: str, *rest: Any) -> Any:
    """Refuse a statement that writes while no door is open."""
    written = WRITES.match(sql)
    if written and not is_open() and not _is_no_record(written[1], sql):
        raise WroteOutsideTheDoor(sql[:200])
    return execute(sql, *rest)


def _is_no_record(table: str, sql: str) -> bool:
    return table.startswith(NO_RECORD) or 'SET "last_login"' in sql


class Doorkeeper:
    def __init__(self, answer: Callable[[HttpRequest], HttpResponse]) -> None:
        self.answer = answer

    def __call__(self, request: HttpRequest) -> HttpResponse:
        with connection.execute_wrapper(watch):
            return self.answer(request)
