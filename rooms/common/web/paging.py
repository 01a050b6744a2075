"""A long list, page by page: one way for every room."""

from collections.abc import Sequence
from typing import Any

from django.core.paginator import Page, Paginator
from django.db.models import QuerySet
from django.http import HttpRequest

LINES_A_PAGE = 100
WHOLE = 100_000


def paged(
    lines: "QuerySet[Any] | Sequence[Any]",
    number: str | None,
    size: int = LINES_A_PAGE,
    count: int | None = None,
) -> Page:
    """The page with this number; the first or the last for one that is not there.

    `count`: how many lines there are, where that is known already.
    """
    pages = Paginator(lines, size)
    if count is not None:
        pages.count = count
    return pages.get_page(number)


def page_of(
    request: HttpRequest, lines: "QuerySet[Any] | Sequence[Any]", size: int = LINES_A_PAGE
) -> Page:
    """The page that was asked for; the whole list with `all=1`, to print."""
    return paged(lines, request.GET.get("page"), WHOLE if request.GET.get("all") == "1" else size)
