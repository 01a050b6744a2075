"""The catalog as files: JSON whole, CSV for tables; and reading them back."""

import json

from django.http import Http404, HttpResponse
from django.shortcuts import render
from django.views.decorators.http import require_GET

from rooms.catalog import tables
from rooms.catalog.actions.edit import import_document
from rooms.catalog.forms import FileForm
from rooms.catalog.rows import document_of
from rooms.common.errors import BadInput
from rooms.staff.block import by_id
from rooms.staff.rights import Right, may


@may(Right.CATALOG)
def files(request):
    """Export and import. A file with a fault changes nothing and says where the fault is."""
    form, loaded = FileForm(request.POST or None, request.FILES or None), None
    if request.method == "POST" and form.is_valid():
        upload = form.cleaned_data["file"]
        try:
            loaded = import_document(_read(upload.name, upload.read()), by_id(request))
        except BadInput as refused:
            form.add_error("file", refused.message)
    context = {"form": form, "loaded": loaded, "tables": tables.TABLES}
    return render(request, "catalog/files.html", context, status=422 if form.errors else 200)


def _read(name: str, raw: bytes) -> dict:
    """The document in a file, whichever its form."""
    try:
        text = raw.decode("utf-8-sig")
    except UnicodeDecodeError:
        raise BadInput(f"File: {name} is not text in UTF-8; export one here to see.") from None
    if name.lower().endswith(".csv"):
        return tables.read(text)
    try:
        document = json.loads(text)
        json.dumps(document, ensure_ascii=False).encode()
    except json.JSONDecodeError as wrong:
        raise BadInput(
            f"File: {name}, line {wrong.lineno}: {wrong.msg}; a catalog exported here is right."
        ) from None
    except (ValueError, RecursionError) as wrong:
        raise BadInput(
            f"File: {name}: {type(wrong).__name__}; a catalog exported here is right."
        ) from None
    return document


@may(Right.LOOK)
@require_GET
def export_json(request):
    """The whole catalog of the shop, as docs/formats/catalog.md says."""
    text = json.dumps(document_of(), indent=2, ensure_ascii=False) + "\n"
    return _file(text, "catalog.json", "application/json")


@may(Right.LOOK)
@require_GET
def export_csv(request, table):
    """One table of the catalog."""
    if table not in tables.TABLES:
        raise Http404
    return _file(tables.write(table, document_of()), f"{table}.csv", "text/csv")


def _file(text: str, name: str, kind: str) -> HttpResponse:
    response = HttpResponse(text, content_type=f"{kind}; charset=utf-8")
    response["Content-Disposition"] = f'attachment; filename="{name}"'
    return response
