"""Who may do what. Every view says which right it asks for; one without is closed."""

from enum import Enum
from typing import Any

CUTTER, MANAGER, APPRENTICE, AUDITOR = "cutter", "manager", "apprentice", "auditor"
ALL = frozenset({CUTTER, MANAGER, APPRENTICE, AUDITOR})


class Asks(Enum):
    """What a right asks for where somebody signed in with a PIN."""

    NOTHING = "nothing"
    PASSWORD = "password"  # noqa: S105 (the word)
    """The own password, once in ten minutes; for what changes only."""
    OFFICE = "office"
    """The office log-in."""


class Right(Enum):
    """What it is in words, whose it is, and what it asks for beside a PIN."""

    LOOK = ("look", ALL, Asks.NOTHING)
    WEIGH = ("work at the block", frozenset({CUTTER, MANAGER, APPRENTICE}), Asks.NOTHING)
    VALUE = ("value by-products", frozenset({CUTTER, MANAGER}), Asks.NOTHING)
    RECEIVE = ("receive and move bags", frozenset({CUTTER, MANAGER}), Asks.NOTHING)
    FINISHED = (
        "take a finished test back to the block",
        frozenset({CUTTER, MANAGER}),
        Asks.NOTHING,
    )
    APPROVE = ("approve a sheet", frozenset({MANAGER}), Asks.NOTHING)
    CORRECT = ("correct a finished sheet", frozenset({MANAGER}), Asks.PASSWORD)
    TAKE_IN = ("take tests in from a file", frozenset({MANAGER}), Asks.NOTHING)
    LIFT = ("let a held lot go", frozenset({MANAGER}), Asks.PASSWORD)
    PRICE = ("set prices", frozenset({MANAGER}), Asks.PASSWORD)
    UNPRICE = ("undo a price", frozenset({MANAGER}), Asks.NOTHING)
    WANT = ("say what the case wants", frozenset({MANAGER}), Asks.NOTHING)
    PLAN = ("plan the day", frozenset({MANAGER}), Asks.NOTHING)
    CATALOG = ("change the catalog", frozenset({MANAGER}), Asks.NOTHING)
    SHOP = ("change the shop's settings", frozenset({MANAGER}), Asks.PASSWORD)
    PEOPLE = ("enter people and enrol tablets", frozenset({MANAGER}), Asks.OFFICE)
    OWN = ("change the own password", ALL, Asks.OFFICE)

    def __init__(self, words: str, roles: frozenset[str], asks: Asks) -> None:
        self.words, self.roles, self.asks = words, roles, asks

    def refusal(self, name: str, role: str, *, in_office: bool) -> str:
        """Why this person may not, in plain words; empty when they may."""
        if role not in self.roles:
            who = " or ".join(
                f"{'an' if one[0] in 'ao' else 'a'} {one}" for one in sorted(self.roles)
            )
            return f"To {self.words} is for {who}; {name} is {role} here."
        if self.asks is Asks.OFFICE and not in_office:
            return f"To {self.words} asks for the office log-in with a password."
        return ""


def may(write: Right, read: Right = Right.LOOK) -> Any:
    """Mark a view: GET asks for `read`, anything that changes for `write`."""

    def mark(view: Any) -> Any:
        view.rights = (read, write)
        return view

    return mark
