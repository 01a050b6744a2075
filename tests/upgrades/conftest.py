"""A shop's database as an earlier version left it."""

import gzip
import hashlib
import sqlite3
from pathlib import Path

import pytest

from tests.rooms.conftest import manage

__all__ = ["manage"]
DUMP = Path(__file__).with_name("shop-0.2.0.sql.gz")
WRITTEN_BY_MIGRATE = {"django_migrations", "sqlite_sequence"}


@pytest.fixture
def shop_of_before(tmp_path, manage):
    """The demo shop of 0.2.0; `manage` works on it."""
    text = gzip.decompress(DUMP.read_bytes()).decode()
    with sqlite3.connect(tmp_path / "shop.sqlite3") as connection:
        connection.executescript(text)
    return tmp_path / "shop.sqlite3"


def contents(database):
    """The count and the checksum of the rows of every table."""
    with sqlite3.connect(database) as connection:
        tables = connection.execute("SELECT name FROM sqlite_master WHERE type = 'table'")
        names = sorted({name for (name,) in tables} - WRITTEN_BY_MIGRATE)
        rows = {
            name: sorted(map(repr, connection.execute(f'SELECT * FROM "{name}"'))) for name in names
        }
    return {
        name: (len(some), hashlib.sha256("\n".join(some).encode()).hexdigest())
        for name, some in rows.items()
    }
