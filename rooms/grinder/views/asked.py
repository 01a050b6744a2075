"""What the pages of the grinder are asked: keys, rows, forms."""

import uuid
from typing import Any

from django.http import HttpRequest

from rooms.common.errors import BadInput
from rooms.common.web.forms import faults_of, is_number


def key_in(request: HttpRequest, name: str = "key") -> uuid.UUID:
    """Raises BadInput for a damaged one."""
    try:
        return uuid.UUID(request.POST.get(name, ""))
    except ValueError:
        what = (
            "choose one of those shown" if name != "key" else "the page is damaged; open it again"
        )
        raise BadInput(f"{name.capitalize()}: {what}.") from None


def row_in(request: HttpRequest) -> int:
    """The number of a row that a button names."""
    text = request.POST.get("row", "")
    if not is_number(text):
        raise BadInput("Entry: choose one of those shown.")
    return int(text)


def check(form: Any) -> Any:
    """The form, where all of it is right. Raises BadInput with what is not."""
    if not form.is_valid():
        raise BadInput(faults_of(form))
    return form
