"""Files that a page gives."""

from django.http import HttpResponse

TYPES = {
    "csv": "text/csv; charset=utf-8",
    "xlsx": "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet",
    "pdf": "application/pdf",
    "json": "application/json; charset=utf-8",
}


def download(name: str, content: str | bytes) -> HttpResponse:
    """A file by its name; its ending says what it is."""
    response = HttpResponse(content, content_type=TYPES[name.rpartition(".")[2]])
    response["Content-Disposition"] = f'attachment; filename="{name}"'
    return response
