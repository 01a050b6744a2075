"""What must hold before the web server takes a request."""

import pkgutil
from importlib import import_module

from django.apps import apps
from django.db import DatabaseError, connection
from django.db.migrations.recorder import MigrationRecorder


class CannotStart(Exception):
    """The server must not run: its message says why, and what to do."""


Name = tuple[str, str]


def shipped_migrations() -> set[Name]:
    """Every migration of the program, by application and name; by the files, without loading them."""
    found = set()
    for app in apps.get_app_configs():
        try:
            folder = import_module(f"{app.name}.migrations")
        except ModuleNotFoundError:
            continue
        names = (one.name for one in pkgutil.iter_modules(folder.__path__))
        found |= {(app.label, name) for name in names if name[0] not in "_~"}
    return found


def check_database() -> None:
    """Raises CannotStart where the database cannot be read, or is of another version than the program."""
    try:
        applied = set(MigrationRecorder(connection).applied_migrations())
    except DatabaseError as fault:
        raise CannotStart(f"Mindful Tally does not start: {fault}") from None
    shipped = shipped_migrations()
    ours = {app for app, _ in shipped}
    if missing := sorted(shipped - applied):
        raise CannotStart(
            f"Mindful Tally does not start: {len(missing)} of its migrations not applied, the first"
            f" {'.'.join(missing[0])}. Make a copy of the database, then run “manage.py migrate”."
        )
    if newer := sorted(one for one in applied - shipped if one[0] in ours):
        raise CannotStart(
            "Mindful Tally does not start: the database is of a newer version, it has"
            f" {'.'.join(newer[0])}. Install the program that it was used with last."
        )
