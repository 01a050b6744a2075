"""The sheet of a test: reading, approving, correcting, and its document."""

import json
from typing import Any
from uuid import UUID

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.views.decorators.http import require_GET, require_http_methods, require_POST

from cutting.costing.schools import CostingSchool
from rooms.bench.actions.correct import Correcting, correct
from rooms.bench.actions.finishing import approve, reopen
from rooms.bench.actions.pieces import into_cooler, out_of_cooler
from rooms.bench.forms import PieceForm
from rooms.bench.queries.choices import chosen_and_seen, chosen_for, opened_as
from rooms.bench.queries.clock import step_strip
from rooms.bench.queries.corrections import (
    as_it_was,
    changes_of,
    correction_form,
    corrections_of,
)
from rooms.bench.queries.document import cut_keys, document, told_corrections
from rooms.bench.queries.facts import FACTS
from rooms.bench.queries.own_prices import set_from, to_come, with_own_prices
from rooms.bench.queries.pdf import as_pdf
from rooms.bench.queries.piece_bags import moved_since, pieces_on
from rooms.bench.queries.rows import TestRows
from rooms.bench.queries.scale_checks import failed_on
from rooms.bench.queries.sheet import sheet_view
from rooms.bench.queries.steps import checks_of, standing_checks
from rooms.bench.queries.tables import as_csv, as_xlsx
from rooms.bench.queries.time_spent import time_spent
from rooms.bench.queries.unplaced import waiting_of
from rooms.bench.views.weighing import rows_or_404
from rooms.common.db.keys import own_key
from rooms.common.errors import BadInput, Refused
from rooms.common.web.downloads import download
from rooms.common.web.formsets import by_number
from rooms.common.web.refusals import Told, told_by
from rooms.staff.block import by_id
from rooms.staff.rights import Right, may


@may(Right.LOOK)
def sheet(request: HttpRequest, test_id: UUID) -> HttpResponse:
    """The finished test; an open one shows how it stands."""
    return _sheet(request, rows_or_404(test_id, people=True))


@may(Right.APPROVE)
@require_POST
@told_by(
    lambda request, refused, test_id: _sheet(
        request, rows_or_404(test_id, people=True), refused, reason=request.POST.get("reason", "")
    )
)
def approve_sheet(request: HttpRequest, test_id: UUID) -> HttpResponse:
    reason = request.POST.get("reason", "")
    approve(test_id, reason, by_id(request), seen=request.POST.get("seen", ""))
    return redirect("bench:sheet", test_id)


@may(Right.FINISHED)
@require_POST
@told_by(
    lambda request, refused, test_id: _sheet(request, rows_or_404(test_id, people=True), refused)
)
def reopen_test(request: HttpRequest, test_id: UUID) -> HttpResponse:
    """Back to the block with a test that was finished too early."""
    reopen(test_id, by_id(request))
    return redirect("bench:test", test_id)


@may(Right.WEIGH)
@require_POST
@told_by(
    lambda request, refused, test_id: _sheet(
        request, rows_or_404(test_id, people=True), refused, typed_piece=request.POST
    )
)
def piece_into_cooler(request: HttpRequest, test_id: UUID) -> HttpResponse:
    """A whole piece of the sheet goes into the cooler as a bag."""
    form = PieceForm(request.POST)
    if not form.is_valid():
        wrong = "; ".join(f"{name}: {' '.join(told)}" for name, told in form.errors.items())
        raise BadInput(f"Whole piece: {wrong}")
    into_cooler(test_id, form.keeping(), by_id(request))
    return redirect(f"{reverse('bench:sheet', args=[test_id])}#pieces")


@may(Right.WEIGH)
@require_POST
@told_by(
    lambda request, refused, test_id: _sheet(request, rows_or_404(test_id, people=True), refused)
)
def piece_out_of_cooler(request: HttpRequest, test_id: UUID) -> HttpResponse:
    """A whole piece comes back onto the sheet."""
    out_of_cooler(own_key(request.POST.get("bag", ""), "Bag"), by_id(request))
    return redirect(f"{reverse('bench:sheet', args=[test_id])}#pieces")


@may(Right.LOOK)
@require_GET
def sheet_document(request: HttpRequest, test_id: UUID) -> HttpResponse:
    """The sheet's document, as `mindful-tally compute` reads it."""
    (rows,) = with_own_prices([rows_or_404(test_id, people=True)])
    notes = [note.text for note in rows.test.notes.all()]
    text = json.dumps(
        document(
            rows,
            notes,
            standing_checks(rows.test).values(),
            cut_keys(rows.outputs),
            told_corrections(rows.test),
        ),
        indent=2,
        ensure_ascii=False,
    )
    return download(f"cutting-test-{rows.test.number}.json", text + "\n")


@may(Right.LOOK)
@require_GET
def sheet_file(request: HttpRequest, test_id: UUID, kind: str) -> HttpResponse:
    """The sheet as CSV, as a spreadsheet, or on one printed page."""
    (rows,) = with_own_prices([rows_or_404(test_id, people=True)])
    view = sheet_view(rows, _school(request))
    content: str | bytes
    if kind == "csv":
        content = as_csv(view)
    elif kind == "xlsx":
        content = as_xlsx(view)
    elif kind == "pdf":
        content = as_pdf(view, [note.text for note in rows.test.notes.all()])
    else:
        raise Http404
    return download(f"cutting-test-{rows.test.number}.{kind}", content)


def _school(request: HttpRequest) -> CostingSchool | None:
    """As chosen; None where the sheet opens by itself."""
    wanted = request.GET.get("school", "")
    return CostingSchool(wanted) if wanted in list(CostingSchool) else None


@may(Right.CORRECT, read=Right.CORRECT)
@require_http_methods(["GET", "POST"])
def correct_sheet(request: HttpRequest, test_id: UUID) -> HttpResponse:
    """The form of a correction, filled with the sheet as it stands, and keeping it."""
    rows = rows_or_404(test_id, people=True)
    refused = None
    if request.method == "POST":
        with Told() as told:
            correct(test_id, _correcting(request), by_id(request))
            return redirect("bench:sheet", test_id)
        refused = told.refused
    context = {
        "test": rows.test,
        "refused": refused,
        "seen": rows.revision,
        "form": correction_form(rows, request.POST),
        "reason": request.POST.get("reason", ""),
    }
    return render(request, "bench/correct.html", context, status=refused.status if refused else 200)


def _correcting(request: HttpRequest) -> Correcting:
    posted = request.POST
    return Correcting(
        key=posted.get("key", ""),
        reason=posted.get("reason", ""),
        seen=posted.get("seen", ""),
        weighings=by_number(posted, "weighing"),
        added=by_number(posted, "missed"),
        values=by_number(posted, "value"),
        facts={name: posted[f"fact-{name}"] for name in FACTS if f"fact-{name}" in posted},
    )


def _version(request: HttpRequest, corrections: Any) -> int:
    """The version asked for: 0 as finished, up to the last correction, which is the usual one."""
    asked = request.GET.get("version", "")
    newest = len(corrections)
    return (
        min(int(asked), newest)
        if asked.isascii() and asked.isdecimal() and len(asked) < 5
        else newest
    )


def _sheet(
    request: HttpRequest, rows: TestRows, refused: Refused | None = None, **typed: Any
) -> HttpResponse:
    corrections = corrections_of(rows.test)
    version = _version(request, corrections)
    prices = set_from([rows])
    (priced,) = with_own_prices([rows], prices)
    shown = as_it_was(priced, corrections, version)
    spent = time_spent(rows)
    bags = rows.test.bags.select_related("bag")
    context = {
        "view": sheet_view(shown, _school(request)),
        "test": shown.test,
        "notes": rows.test.notes.select_related("by"),
        "checks": checks_of(rows.test),
        "unplaced": waiting_of(rows.test.pk) if rows.test.unplaced_waits else [],
        "bags": bags,
        "pieces": pieces_on(rows, [row.bag for row in bags]),
        "moved_since": moved_since(rows.test, [row.bag for row in bags]),
        "corrections": [(one, changes_of(rows, corrections, one)) for one in corrections],
        "version": version,
        "scale_faults": failed_on(rows),
        "spent": spent,
        "strip": step_strip(rows.test, spent),
        "refused": refused,
        "saved": request.GET.get("saved") == "1",
        "to_come": to_come(prices),
        "opened_as": opened_as(rows.test),
        "chosen": chosen_for(rows.test),
        "chosen_words": chosen_and_seen(rows.test),
        **typed,
    }
    return render(request, "bench/sheet.html", context, status=refused.status if refused else 200)
