"""The catalog as files: JSON whole, CSV for tables; and reading them back."""

import json
from typing import Any

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import render
from django.views.decorators.http import require_GET

from cutting.errors import BadDocument
from formats.decoding import parse_json
from rooms.catalog.actions.edit import import_document
from rooms.catalog.forms import FileForm
from rooms.catalog.queries import tables
from rooms.catalog.queries.rows import document_of
from rooms.common.errors import BadInput
from rooms.common.web.downloads import download
from rooms.common.web.refusals import status_of, told_in
from rooms.staff.block import by_id
from rooms.staff.rights import Right, may


@may(Right.CATALOG)
def files(request: HttpRequest) -> HttpResponse:
    """Export and import. A file with a fault changes nothing and says where the fault is."""
    form, loaded = FileForm(request.POST or None, request.FILES or None), None
    if request.method == "POST" and form.is_valid():
        upload = form.cleaned_data["file"]
        with told_in(form, "file"):
            loaded = import_document(_read(upload.name, upload.read()), by_id(request))
    context = {"form": form, "loaded": loaded, "tables": tables.TABLES}
    return render(request, "catalog/files.html", context, status=status_of(form))


def _read(name: str, raw: bytes) -> dict[str, Any]:
    """The document in a file, whichever its form."""
    if name.lower().endswith((".csv", ".xlsx")):
        return tables.read(raw)
    try:
        return parse_json(raw)
    except BadDocument as bad:
        wrong = bad.faults[0]
        raise BadInput(f"File: {name}: {wrong.wrong}; a catalog exported here is right.") from None


@may(Right.LOOK)
@require_GET
def export_json(request: HttpRequest) -> HttpResponse:
    """The whole catalog of the shop, as docs/formats/catalog.md says."""
    text = json.dumps(document_of(), indent=2, ensure_ascii=False) + "\n"
    return download("catalog.json", text)


@may(Right.LOOK)
@require_GET
def export_csv(request: HttpRequest, table: Any) -> HttpResponse:
    """One table of the catalog."""
    if table not in tables.TABLES:
        raise Http404
    return download(f"{table}.csv", tables.write(table, document_of()))
