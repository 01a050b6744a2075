"""Every test as one file, and tests from a file."""

import json

from django.shortcuts import render
from django.utils import timezone
from django.views.decorators.http import require_GET, require_http_methods

from cutting.decoding import parse_json
from cutting.errors import BadDocument
from rooms.bench.actions.bring_in import SET, bring_in
from rooms.bench.models import CuttingTest
from rooms.bench.readings.document import documents
from rooms.common.downloads import download
from rooms.staff.block import by_id
from rooms.staff.rights import Right, may

FAULTS_SHOWN = 100


@may(Right.LOOK)
@require_GET
def export(request):
    """All finished tests, oldest first."""
    found = documents(list(CuttingTest.objects.finished().order_by("number")))
    text = json.dumps({"format": SET, "version": 1, "tests": list(found.values())}, indent=1,
                      ensure_ascii=False)  # fmt: skip
    return download(f"cutting-tests-{timezone.localdate():%Y-%m-%d}.json", text + "\n")


@may(Right.TAKE_IN)
@require_http_methods(["GET", "POST"])
def take_in(request):
    """Tests from a JSON file: all or nothing, with a report by path."""
    context = {"text": request.POST.get("text", "")}
    status = 200
    if request.method == "POST":
        file = request.FILES.get("file")
        raw = file.read() if file else context["text"].encode()
        try:
            context["taken"] = bring_in(parse_json(raw), by_id(request))
        except BadDocument as bad:
            status = 422
            context |= {"faults": bad.faults[:FAULTS_SHOWN], "count": len(bad.faults)}
    return render(request, "bench/take_in.html", context, status=status)
