"""Pages for requests that cannot be answered. They need neither session nor database."""

import sys
from typing import Any

from django.core.exceptions import ValidationError
from django.db import Error as DatabaseError
from django.http import HttpRequest, HttpResponse
from django.template.loader import render_to_string

from cutting.errors import CuttingError
from rooms.common.db.faults import UNKNOWN, Fault, fault_of
from rooms.common.db.writing import forget_repeats
from rooms.common.errors import KeyTaken, Refused
from rooms.common.web.refusals import refusal
from rooms.common.web.repeats import tell_repeat, tell_taken
from rooms.common.web.uploads import LARGEST


def page(status: int, message: str, todo: str) -> HttpResponse:
    """The plain page, by a template that asks no context processor."""
    html = render_to_string("plain.html", {"message": message, "todo": todo})
    return HttpResponse(html, status=status)


def page_of_fault(fault: Fault) -> HttpResponse:
    return page(fault.status, fault.message, fault.todo)


class Plainly:
    """Turns what a view could not do, and did not render itself, into a plain page with 4xx.

    A refusal, a value that the core or a column does not take, and text that cannot be stored
    are the sender's; what is wrong with the disk or the database is the shop's, and told as it is.
    """

    def __init__(self, get_response: Any) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        length = request.META.get("CONTENT_LENGTH") or "0"
        if length.isdecimal() and int(length[:12]) > LARGEST:
            return page(
                413,
                f"The file has {int(length[:12]):,} bytes, so it was not read.",
                f"At most {LARGEST:,} are right; send it in parts.",
            )
        forget_repeats()
        return tell_repeat(request, self.get_response(request))

    def process_exception(self, request: HttpRequest, fault: Any) -> HttpResponse:
        if (known := fault_of(fault)) is not None:
            return page_of_fault(known)
        if isinstance(fault, Refused):
            return _refused(request, fault)
        if isinstance(fault, CuttingError):
            return page(422, str(fault), "Nothing was changed.")
        if isinstance(fault, ValidationError):
            return page(422, " ".join(fault.messages), "Nothing was changed.")
        if isinstance(fault, UnicodeEncodeError):
            message = "Text: it has a character that is none (half of a pair); type it again."
            return page(422, message, "Nothing was changed.")
        return None


def _refused(request: HttpRequest, fault: Refused) -> HttpResponse:
    try:
        if isinstance(fault, KeyTaken):
            return tell_taken(request, fault)
        return refusal(request, fault)
    except DatabaseError:  # the page asks who is there
        return page(fault.status, fault.message, "Nothing was changed.")


# --- Django's handlers --------------------------------------------------------------------


def bad_request(request: HttpRequest, exception: Any = None) -> HttpResponse:
    return page(400, "The request could not be read.", "Go back and try once more.")


def forbidden(request: HttpRequest, exception: Any = None, reason: str = "") -> HttpResponse:
    return page(
        403,
        "The page was too old to be sent.",
        "Nothing was changed. Load the page again and repeat the step.",
    )


def not_found(request: HttpRequest, exception: Any = None) -> HttpResponse:
    return page(404, "There is no such page.", "Look for it from the start page.")


def server_error(request: HttpRequest) -> HttpResponse:
    return page_of_fault(fault_of(sys.exc_info()[1]) or UNKNOWN)
