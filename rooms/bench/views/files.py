"""Tests out by the year, and in from a file."""

import json

from django.db.models import Count
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import render
from django.views.decorators.http import require_GET, require_http_methods

from cutting.errors import BadDocument
from formats.decoding import LARGEST_FILE, parse_json
from rooms.bench.actions.import_tests import SET, bring_in
from rooms.bench.models import CuttingTest
from rooms.bench.queries.document import documents
from rooms.common.web.downloads import download
from rooms.staff.block import by_id
from rooms.staff.rights import Right, may

FAULTS_SHOWN = 100


@may(Right.LOOK)
@require_GET
def export(request: HttpRequest, year: int) -> HttpResponse:
    """The finished tests of a year, oldest first."""
    tests = CuttingTest.objects.finished().filter(started_at__year=year).order_by("number")
    found = documents(list(tests))
    if not found:
        raise Http404
    text = json.dumps(
        {"format": SET, "version": 1, "tests": list(found.values())}, indent=1, ensure_ascii=False
    )
    return download(f"cutting-tests-{year}.json", text + "\n")


@may(Right.TAKE_IN)
@require_http_methods(["GET", "POST"])
def files(request: HttpRequest) -> HttpResponse:
    """Tests out by the year, and in from a JSON file: all or nothing, with a report by path."""
    years = CuttingTest.objects.finished().values_list("started_at__year").annotate(Count("pk"))
    context = {"text": request.POST.get("text", ""), "years": years.order_by("-started_at__year")}
    status = 200
    if request.method == "POST":
        file = request.FILES.get("file")
        raw = file.read(LARGEST_FILE + 1) if file else context["text"].encode()
        try:
            context["taken"] = bring_in(parse_json(raw), by_id(request))
        except BadDocument as bad:
            status = 422
            context |= {"faults": bad.faults[:FAULTS_SHOWN], "count": len(bad.faults)}
    return render(request, "bench/files.html", context, status=status)
