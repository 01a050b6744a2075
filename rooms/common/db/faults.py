"""What is wrong with the shop's machine, in words that are true: what is known to be safe, and no more."""

import errno
from dataclasses import dataclass

from django.db import Error as DatabaseError

CALL = "Call whoever looks after the shop's machine. A tablet keeps its weighings and sends them again."


@dataclass(frozen=True)
class Fault:
    """`signs`: how the database's own message tells it."""

    status: int
    message: str
    todo: str
    signs: tuple[str, ...] = ()


FULL_DISK = Fault(
    507,
    "The shop's disk is full, so nothing was recorded. What was recorded before is safe.",
    "Make room on the shop's machine. A tablet keeps its weighings and sends them again by itself.",
    ("disk is full",),
)
UNKNOWN = Fault(
    500,
    "Something went wrong here.",
    "Look whether what you sent stands there before you send it again.",
)
FAULTS = (
    FULL_DISK,
    Fault(
        503,
        "The shop's database can be read but not written, so nothing was recorded.",
        f"Do not go on typing. {CALL}",
        ("readonly database",),
    ),
    Fault(
        500,
        "The shop's database is damaged or cannot be read. Nobody knows yet what of it is whole.",
        f"Stop, and do not go on typing. {CALL} They look for the last good copy.",
        ("malformed", "not a database", "disk i/o error", "file is encrypted"),
    ),
    Fault(
        500,
        "The shop's database is of another version than the program, so nothing was recorded.",
        f"{CALL} They run “manage.py migrate”.",
        ("no such table", "no such column", "has no column named"),
    ),
    Fault(
        503,
        "The shop's database is not where it should be, so nothing was recorded.",
        f"Do not go on typing. {CALL}",
        ("unable to open database file", "there is no database at"),
    ),
    Fault(
        503,
        "The shop's database was busy for too long, so nothing was recorded.",
        "Wait a moment, then send it again.",
        ("database is locked", "database table is locked"),
    ),
)


def fault_of(fault: BaseException | None) -> Fault | None:
    """What is known of it; None for anything else, and for what is no fault of the machine."""
    if isinstance(fault, OSError):
        return FULL_DISK if fault.errno in (errno.ENOSPC, errno.EDQUOT) else None
    if not isinstance(fault, DatabaseError):
        return None
    words = str(fault).lower()
    return next((one for one in FAULTS if any(sign in words for sign in one.signs)), None)
