"""The price book's pages: versions, comparing, the shelf list, files out and in."""

import hashlib
from datetime import timedelta
from typing import Any

from django.http import Http404, HttpRequest, HttpResponse, StreamingHttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.utils import timezone
from django.views.decorators.http import require_GET, require_http_methods, require_POST

from rooms.common.errors import BadInput, Refused
from rooms.common.tables.files import LARGEST_FILE
from rooms.common.web.downloads import download
from rooms.common.web.forms import read_day
from rooms.common.web.paging import page_of
from rooms.common.web.refusals import Told, told_by
from rooms.pricebook.actions.files import OlderRows, RowFault, read_prices
from rooms.pricebook.actions.undo import undo
from rooms.pricebook.models import Version
from rooms.pricebook.queries.book import (
    bases_of,
    changed,
    compare,
    made_wrong,
    prices_in,
    reprint,
    shelf_list,
)
from rooms.pricebook.queries.files import as_csv, as_xlsx, history_lines
from rooms.staff.block import by_id
from rooms.staff.rights import Right, may

A_PAGE = 30


@may(Right.LOOK)
@require_GET
def versions(request: HttpRequest) -> HttpResponse:
    """Every change of the book, the newest first."""
    rows = Version.objects.select_related("made_by", "undoes", "undone_by").order_by("-number")
    page = page_of(request, rows, A_PAGE)
    counts = prices_in([one.pk for one in page])
    context = {
        "page": page,
        "lines": [(one, counts.get(one.pk, 0)) for one in page],
        "today": timezone.localdate(),
    }
    return render(request, "pricebook/versions.html", context)


@may(Right.LOOK)
@require_GET
def version(request: HttpRequest, number: int) -> HttpResponse:
    """One version: who, why, which prices, which tags to print again."""
    return _version(request, number)


def _version(
    request: HttpRequest, number: int, refused: Refused | None = None, left: Any = ()
) -> Any:
    one = get_object_or_404(
        Version.objects.select_related("made_by", "undoes", "undone_by"), number=number
    )
    page = page_of(request, made_wrong(one))
    context = {
        "version": one,
        "count": one.prices.count(),
        "tags": reprint(one, page.object_list),
        "page": page,
        "refused": refused,
        "left": left,
        "today": timezone.localdate(),
        "bases": bases_of(one),
    }
    status = refused.status if refused else 200
    return render(request, "pricebook/version.html", context, status=status)


@may(Right.UNPRICE)
@require_POST
@told_by(lambda request, refused, number: _version(request, number, refused))
def undo_version(request: HttpRequest, number: int) -> HttpResponse:
    """Take a version back, as a new one."""
    one = get_object_or_404(Version, number=number)
    done = undo(one, by_id(request))
    if done.left:
        return _version(request, done.version.number, left=done.left)
    return redirect("pricebook:version", done.version.number)


@may(Right.LOOK)
@require_GET
def compare_dates(request: HttpRequest) -> HttpResponse:
    """What changed between two days; printed, it is the list of tags to print again."""
    today = timezone.localdate()
    told, first, second = Told(), today - timedelta(days=7), today
    with told:
        first = read_day(request.GET.get("first", ""), "First day", first) or first
        second = read_day(request.GET.get("second", ""), "Second day", second) or second
        if second < first:
            raise BadInput(f"Second day: {second} is before the first; {first} or later is right.")
    page = page_of(request, [] if told.refused else changed(first, second))
    context = {
        "first": first,
        "second": second,
        "refused": told.refused,
        "page": page,
        "days": f"first={first}&second={second}",
        "tags": compare(first, second, page.object_list) if page.object_list else [],
        "typed_first": request.GET.get("first", first.isoformat()),
        "typed_second": request.GET.get("second", second.isoformat()),
    }
    return render(request, "pricebook/compare.html", context, status=told.status())


@may(Right.LOOK)
@require_GET
def shelf(request: HttpRequest) -> HttpResponse:
    """The price list to hang up, for a day."""
    today = timezone.localdate()
    day = read_day(request.GET.get("on", ""), "Day", today) or today
    context = {"day": day, "tags": shelf_list(day), "today": today}
    return render(request, "pricebook/shelf.html", context)


@may(Right.LOOK)
@require_GET
def export(request: HttpRequest, kind: str) -> HttpResponse:
    """The book as a file: today's prices, in the spreadsheet a year's too; or its history."""
    today = timezone.localdate()
    if kind == "history":
        lines = StreamingHttpResponse(history_lines(), content_type="text/csv; charset=utf-8")
        name = f"price-history-{today:%Y-%m-%d}.csv"
        lines["Content-Disposition"] = f'attachment; filename="{name}"'
        return lines
    if kind not in ("csv", "xlsx"):
        raise Http404
    content = as_csv(today) if kind == "csv" else as_xlsx(today)
    return download(f"price-book-{today:%Y-%m-%d}.{kind}", content)


@may(Right.PRICE)
@require_http_methods(["GET", "POST"])
def import_prices(request: HttpRequest) -> HttpResponse:
    """Prices from a CSV or XLSX file: all or nothing, with a report by row and column."""
    faults: list[RowFault] = []
    told = Told()
    if request.method == "POST":
        with told:
            file = request.FILES.get("file")
            raw = file.read(LARGEST_FILE + 1) if file else request.POST.get("text", "").encode()
            if not raw.strip():
                raise BadInput("File: there is none; choose one, or paste its rows.")
            digest = hashlib.sha256(raw).hexdigest()
            made, faults = read_prices(raw, digest, by_id(request), request.POST.get("from", ""))
            if not faults:
                if made is None:
                    return render(request, "pricebook/import.html", {"unchanged": True})
                return redirect("pricebook:version", made.number)
    older = told.refused if isinstance(told.refused, OlderRows) else None
    context = {
        "faults": faults,
        "refused": told.refused,
        "older": older,
        "text": request.POST.get("text", ""),
        "from": request.POST.get("from", ""),
    }
    status = told.status(is_wrong=bool(faults))
    return render(request, "pricebook/import.html", context, status=status)
