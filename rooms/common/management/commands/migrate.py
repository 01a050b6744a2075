"""Django's migrate, and the one way to a new shop's database."""

from argparse import ArgumentParser
from pathlib import Path
from typing import Any

from django.conf import settings
from django.core.management.base import CommandError
from django.core.management.commands import migrate
from django.db import connections
from django.db.migrations.recorder import MigrationRecorder

from rooms.common.db.sqlite.base import MAY_MAKE
from rooms.common.db.versions import OtherVersion, check_version


class Command(migrate.Command):
    def add_arguments(self, parser: ArgumentParser) -> None:
        super().add_arguments(parser)
        words = "make the database of a new shop; refused where there is one"
        parser.add_argument("--new", action="store_true", help=words)

    def execute(self, *args: Any, new: bool = False, **options: Any) -> Any:
        if new:  # before the checks, which open the database
            self._may_make(Path(settings.DATABASES["default"]["NAME"]))
        return super().execute(*args, **options)

    def handle(self, *args: Any, **options: Any) -> Any:
        try:
            check_version(MigrationRecorder(connections[options["database"]]).applied_migrations())
        except OtherVersion as other:
            raise CommandError(f"Not migrated: {other}") from None
        return super().handle(*args, **options)

    def _may_make(self, path: Path) -> None:
        if path.exists():
            raise CommandError(f"There is a database at {path} already; leave --new out.")
        path.parent.mkdir(parents=True, exist_ok=True)
        MAY_MAKE.add(str(path))
