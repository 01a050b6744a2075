"""What must hold before the web server takes a request."""

from django.db import DatabaseError, connection
from django.db.migrations.recorder import MigrationRecorder

from rooms.common.db.versions import OtherVersion, check_version, shipped_migrations


class CannotStart(Exception):
    """The server must not run: its message says why, and what to do."""


def check_database() -> None:
    """Raise CannotStart where the database cannot be read, or is of another version than the program."""
    try:
        applied = set(MigrationRecorder(connection).applied_migrations())
        check_version(applied)
    except (DatabaseError, OtherVersion) as fault:
        raise CannotStart(f"Mindful Tally does not start: {fault}") from None
    if missing := sorted(shipped_migrations() - applied):
        raise CannotStart(
            f"Mindful Tally does not start: {len(missing)} of its migrations not applied, the first"
            f" {'.'.join(missing[0])}. Make a copy of the database, then run “manage.py migrate”."
        )
