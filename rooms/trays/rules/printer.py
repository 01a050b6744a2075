"""Sending a label to the printer. See docs/formats/label-printer.md."""

import base64
import json
import urllib.error
import urllib.request
from dataclasses import dataclass
from uuid import UUID

from django.conf import settings

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
    request = urllib.request.Request(  # noqa: S310 (an address of the settings)
        f"{settings.PRINTER_URL}/labels/{name}",
        json.dumps(body).encode(),
        {"Content-Type": "application/json"},
        method="PUT",
    )
    try:
        with urllib.request.urlopen(request, timeout=SECONDS) as answer:  # noqa: S310
            said = json.loads(answer.read(LARGEST))
    except urllib.error.HTTPError as error:
        words = error.read(LARGEST).decode("utf-8", "replace").strip()[:150]
        raise NotPrinted(words or f"it failed ({error.code})") from None
    except (OSError, ValueError):
        raise NotPrinted("it does not answer; look at its cable and its light") from None
    if not isinstance(said, dict) or said.get("printed") is not True:
        raise NotPrinted("what it says is not understood")
