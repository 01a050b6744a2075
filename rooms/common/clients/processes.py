"""Asking one of the processes beside the web server: the solver, the fat tester, the label printer. One client,
one map of what can go wrong."""

import json
import urllib.error
import urllib.request
from http.client import HTTPException
from time import monotonic
from typing import Any

BLOCK = 65536


class NoAnswer(Exception):
    """Nobody answers in time."""


class Unreadable(Exception):
    """What it says is no answer: garbage, cut off, or of another version."""


class Declined(Exception):
    """It says why not, with an HTTP status of its own."""

    def __init__(self, status: int, words: str) -> None:
        super().__init__(words)
        self.status, self.words = status, words


def ask_json(
    url: str,
    sent: dict[str, Any] | None = None,
    *,
    method: str = "",
    seconds: float,
    largest: int,
) -> Any:
    """What a process answers, as JSON. `sent`: None to get; `seconds`: for the whole of it; `largest`: bytes
    that are read of an answer.

    Raises Declined, NoAnswer, Unreadable.
    """
    body = None if sent is None else json.dumps(sent).encode()
    headers = {} if body is None else {"Content-Type": "application/json"}
    verb = method or ("GET" if body is None else "POST")
    request = urllib.request.Request(url, body, headers, method=verb)  # noqa: S310 (of the settings)
    ends = monotonic() + seconds
    try:
        with urllib.request.urlopen(request, timeout=seconds) as answer:  # noqa: S310
            return json.loads(_read(answer, largest, ends))
    except urllib.error.HTTPError as error:
        raise Declined(error.code, _words_of(error, largest, ends)) from None
    except (HTTPException, ValueError):
        raise Unreadable from None
    except OSError:
        raise NoAnswer from None


def _read(answer: Any, largest: int, ends: float) -> bytes:
    """At most `largest` bytes. Raises TimeoutError where they still come at `ends`: a socket's own time-out
    begins anew with every byte."""
    found = b""
    while len(found) < largest and (more := answer.read1(min(BLOCK, largest - len(found)))):
        if monotonic() > ends:
            raise TimeoutError
        found += more
    return found


def _words_of(error: urllib.error.HTTPError, largest: int, ends: float) -> str:
    with error:
        try:
            return _read(error, largest, ends).decode("utf-8", "replace").strip()
        except (HTTPException, OSError):
            return ""
