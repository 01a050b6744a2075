"""Who may do what. Every view says which right it asks for; one without is closed."""

from enum import Enum
from typing import Any

CUTTER, MANAGER, APPRENTICE, AUDITOR = "cutter", "manager", "apprentice", "auditor"
ALL = frozenset({CUTTER, MANAGER, APPRENTICE, AUDITOR})


class Right(Enum):
    """What it is in words, whose it is, and whether it asks for the office's password."""

    LOOK = ("look", ALL, False)
    WEIGH = ("work at the block", frozenset({CUTTER, MANAGER, APPRENTICE}), False)
    VALUE = ("value by-products", frozenset({CUTTER, MANAGER}), False)
    RECEIVE = ("receive and move bags", frozenset({CUTTER, MANAGER}), False)
    FINISHED = ("take a finished test back to the block", frozenset({CUTTER, MANAGER}), False)
    APPROVE = ("approve a sheet", frozenset({MANAGER}), False)
    CORRECT = ("correct a finished sheet", frozenset({MANAGER}), False)
    TAKE_IN = ("take tests in from a file", frozenset({MANAGER}), False)
    LIFT = ("let a held lot go", frozenset({MANAGER}), False)
    PRICE = ("set prices and the wanted list", frozenset({MANAGER}), False)
    PLAN = ("plan the day", frozenset({MANAGER}), False)
    CATALOG = ("change the catalog", frozenset({MANAGER}), False)
    SHOP = ("change the shop's settings", frozenset({MANAGER}), False)
    PEOPLE = ("enter people and enrol tablets", frozenset({MANAGER}), True)
    OWN = ("change the own password", ALL, True)

    def __init__(self, words: str, roles: frozenset[str], office: bool) -> None:
        self.words, self.roles, self.office = words, roles, office

    def refusal(self, name: str, role: str, *, in_office: bool) -> str:
        """Why this person may not, in plain words; empty when they may."""
        if role not in self.roles:
            who = " or ".join(
                f"{'an' if one[0] in 'ao' else 'a'} {one}" for one in sorted(self.roles)
            )
            return f"To {self.words} is for {who}; {name} is {role} here."
        if self.office and not in_office:
            return f"To {self.words} asks for the office log-in with a password."
        return ""


def may(write: Right, read: Right = Right.LOOK) -> Any:
    """Mark a view: GET asks for `read`, anything that changes for `write`."""

    def mark(view: Any) -> Any:
        view.rights = (read, write)
        return view

    return mark
