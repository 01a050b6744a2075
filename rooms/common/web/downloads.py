"""Files that a page gives."""

from typing import IO

from django.http import FileResponse, HttpResponse

TYPES = {
    "csv": "text/csv; charset=utf-8",
    "xlsx": "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet",
    "pdf": "application/pdf",
    "json": "application/json; charset=utf-8",
    "svg": "image/svg+xml; charset=utf-8",
    "png": "image/png",
}


def download(name: str, content: str | bytes | IO[bytes]) -> HttpResponse | FileResponse:
    """A file by its name; its ending says what it is. An open file is sent in parts and closed."""
    kind = TYPES[name.rpartition(".")[2]]
    if not isinstance(content, str | bytes):
        return FileResponse(content, as_attachment=True, filename=name, content_type=kind)
    response = HttpResponse(content, content_type=kind)
    response["Content-Disposition"] = f'attachment; filename="{name}"'
    return response
