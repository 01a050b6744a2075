"""Django's SQLite, but for one thing: a path where no database is stays empty.

A misspelt path would be a new empty shop. `manage.py migrate --new` makes one, and nothing else does.
"""

from pathlib import Path
from typing import Any

from django.db import OperationalError
from django.db.backends.sqlite3 import base

MAY_MAKE: set[str] = set()
"""Paths at which a new database was asked for."""


class DatabaseWrapper(base.DatabaseWrapper):
    def get_new_connection(self, conn_params: dict[str, Any]) -> Any:
        """Raises OperationalError where there is no database."""
        path = str(conn_params["database"])
        if path not in MAY_MAKE and not Path(path).is_file():
            raise OperationalError(
                f"there is no database at {path}. TALLY_DB says where the shop's is; for a new shop run"
                " “manage.py migrate --new”."
            )
        return super().get_new_connection(conn_params)
