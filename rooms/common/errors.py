"""Refusals that a view turns into a plain message with the right status.

Refused
├── BadInput    a value that is wrong (422)
├── NotAllowed  a right that whoever asks has not (403)
├── KeyTaken    the key of the request came before, with other content (409)
└── Overtaken   the row changed since the page was shown (409)
"""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any


class Refused(Exception):
    """An action that cannot be done now. `status` is the HTTP status that fits."""

    status = 409

    def __init__(self, message: str, **details: object) -> None:
        super().__init__(message)
        self.message = message
        self.details = details


class BadInput(Refused):
    """A value that is wrong; the message names field, value and what would be right."""

    status = 422


class NotAllowed(Refused):
    """Whoever asks has not the right to it (403)."""

    status = 403


class KeyTaken(Refused):
    """The key of this request was recorded before with other content. Told by one page for all actions,
    which offers to correct what was recorded or to record this as another."""

    def __init__(
        self, at: datetime | None, recorded: str, row: Any = None, *, sent: str = ""
    ) -> None:
        super().__init__(f"Already recorded from this page: {recorded}. Nothing was changed.")
        self.at, self.recorded, self.row, self.sent = at, recorded, row, sent


@dataclass(frozen=True)
class Difference:
    """A field of a row: as the page showed it, and as it is now."""

    name: str
    was: str
    now: str


class Overtaken(Refused):
    """Somebody changed the row since the page was shown. `differences` say what; `seen` is the row's mark
    now, for a page that shows it anew."""

    def __init__(self, row: Any, differences: Sequence[Difference], seen: str) -> None:
        told = "; ".join(
            f"{one.name} {one.was or 'empty'} → {one.now.rstrip('.') or 'empty'}"
            for one in differences
        )
        super().__init__(
            f"Changed by somebody else since this page was shown: {told}. Nothing was saved. Your own"
            " changes are still here; save again to keep them with the rest as it is now."
        )
        self.row, self.differences, self.seen = row, differences, seen
