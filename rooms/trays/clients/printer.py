"""Sending a label to the printer. See docs/formats/label-printer.md."""

import base64
from dataclasses import dataclass
from uuid import UUID

from django.conf import settings

from rooms.common.clients.processes import Declined, NoAnswer, Unreadable, ask_json

SECONDS = 8
LARGEST = 2048


class NotPrinted(Exception):
    """The label did not come out; the message says why, in plain words."""


@dataclass(frozen=True)
class Drawn:
    """A label as it is to come out."""

    title: str
    png: bytes
    pdf: bytes


def send(name: UUID, drawn: Drawn) -> None:
    """Once it returns the label is out. Raises NotPrinted."""
    if not settings.PRINTER_URL:
        raise NotPrinted("no printer is connected; labels are kept and can be opened as PDF")
    body = {
        "title": drawn.title,
        "png": base64.b64encode(drawn.png).decode(),
        "pdf": base64.b64encode(drawn.pdf).decode(),
    }
    try:
        said = ask_json(
            f"{settings.PRINTER_URL}/labels/{name}",
            body,
            method="PUT",
            seconds=SECONDS,
            largest=LARGEST,
        )
    except Declined as no:
        raise NotPrinted(no.words[:150] or f"it failed ({no.status})") from None
    except NoAnswer:
        raise NotPrinted("it does not answer; look at its cable and its light") from None
    except Unreadable:
        raise NotPrinted("what it says is not understood") from None
    if not isinstance(said, dict) or said.get("printed") is not True:
        raise NotPrinted("what it says is not understood")
