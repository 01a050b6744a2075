"""Asking the solver's process. It may be away: then that is said, and the last plan stands."""

import json
import urllib.error
import urllib.request
from typing import Any

from django.conf import settings

from rooms.common.errors import BadInput, Refused

SECONDS, LONG_SECONDS = 25, 90
"""For a plan, and for what things are worth, which the page does not wait for."""


class Away(Refused):
    """The solver does not answer."""


def ask(path: str, asked: dict[str, Any], seconds: int = SECONDS) -> dict[str, Any]:
    """Raises BadInput with what cannot be met, Away where nobody answers in time."""
    request = urllib.request.Request(  # noqa: S310 (an address of the settings)
        settings.SOLVER_URL + path,
        json.dumps(asked).encode(),
        {"Content-Type": "application/json"},
    )
    try:
        with urllib.request.urlopen(request, timeout=seconds) as answer:  # noqa: S310
            found: dict[str, Any] = json.loads(answer.read())
            return found
    except urllib.error.HTTPError as error:
        if error.code == 422:
            raise BadInput(said(json.loads(error.read())["faults"])) from None
        raise Away(f"The solver failed ({error.code}); the last plan stands. Try again.") from None
    except OSError:
        raise Away(
            "The solver does not answer; the last plan stands. It is started with the shop; see"
            " docs/running.md."
        ) from None


def said(faults: list[str]) -> str:
    """What cannot be met, without the paths of the document."""
    return " ".join(fault.split(": ", 1)[-1].strip().rstrip(".") + "." for fault in faults[:4])
