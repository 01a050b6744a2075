"""Which version of the program a database is of, by the migrations that are written down in it."""

import pkgutil
from collections.abc import Collection
from importlib import import_module

from django.apps import apps

Name = tuple[str, str]
UP_TO = "0001_as_of_0_2_0"
"""The migration of each application that stands for all of those up to version 0.2.0."""


class OtherVersion(Exception):
    """The database is of a version that this program cannot take: its message says which."""


def shipped_migrations() -> set[Name]:
    """Return every migration of the program, by application and name, from the names of the files."""
    found = set()
    for app in apps.get_app_configs():
        try:
            folder = import_module(f"{app.name}.migrations")
        except ModuleNotFoundError:
            continue
        names = (one.name for one in pkgutil.iter_modules(folder.__path__))
        found |= {(app.label, name) for name in names if name[0] not in "_~"}
    return found


def replaced_migrations() -> list[set[Name]]:
    """Return the migrations of versions up to 0.2.0, no files any more, by what stands for them."""
    found = []
    for app in apps.get_app_configs():
        try:
            module = import_module(f"{app.name}.migrations.{UP_TO}")
        except ModuleNotFoundError:
            continue
        found.append(set(module.Migration.replaces))
    return found


def check_version(applied: Collection[Name]) -> None:
    """Raise OtherVersion for a database older than 0.2.0, or newer than the program.

    An application that has none of its migrations fits: the shop is new, or its first start ended
    between two applications and goes on.
    """
    shipped, replaced = shipped_migrations(), replaced_migrations()
    applied = set(applied)
    begun = (names for names in replaced if names & applied)
    if missing := sorted(one for names in begun for one in names - applied):
        raise OtherVersion(
            f"the database is older than version 0.2.0, or its upgrade to that was not finished:"
            f" {len(missing)} migrations are missing, the first {'.'.join(missing[0])}. Nothing was"
            " changed. Make a copy of it and run “manage.py migrate” of version 0.2.0, then this one."
        )
    ours = {app for app, _ in shipped}
    if newer := sorted(one for one in applied - shipped.union(*replaced) if one[0] in ours):
        raise OtherVersion(
            f"the database is of a newer version, it has {'.'.join(newer[0])}. Nothing was changed."
            " Install the program that it was used with last."
        )
