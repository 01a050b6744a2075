"""The database of the tests: its tables made and filled with the catalog once, then copied.

The copy is made again when a migration, a data file or Django changes. A journey that has written
gets the copy back, which takes a fraction of emptying every table and loading the catalog.
"""

import fcntl
import hashlib
import os
import sqlite3
import subprocess
import sys
from contextlib import closing
from pathlib import Path

import django

ROOT = Path(__file__).parents[1]
VAR = ROOT / "var"
MADE_OF = (
    "tests/filled.py",
    "rooms/*/models.py",
    "rooms/*/migrations/*.py",
    "rooms/*/data/**/*.toml",
    "rooms/catalog/**/*.py",
)


def base() -> Path:
    """A database with the shipped catalog; two workers that ask at once make one."""
    VAR.mkdir(exist_ok=True)
    file = VAR / f"test-base-{_digest()}.sqlite3"
    with (VAR / "test-base.lock").open("w") as lock:
        fcntl.flock(lock, fcntl.LOCK_EX)
        if not file.exists():
            for old in VAR.glob("test-base-*.sqlite3*"):
                old.unlink()
            _make(file)
    return file


def _digest() -> str:
    found = hashlib.sha256(django.__version__.encode())
    for pattern in MADE_OF:
        for path in sorted(ROOT.glob(pattern)):
            found.update(path.read_bytes())
    return found.hexdigest()[:16]


def _make(file: Path) -> None:
    making = file.with_suffix(".making")
    making.unlink(missing_ok=True)
    for settings, *step in (
        ("tests.tables", "manage.py", "migrate", "--run-syncdb", "--verbosity", "0"),
        ("mindful_tally.settings.test", "-m", "tests.filled"),
    ):
        environment = {**os.environ, "DJANGO_SETTINGS_MODULE": settings, "TALLY_DB": str(making)}
        command = [sys.executable, *step]
        subprocess.run(command, cwd=ROOT, env=environment, check=True)
    with closing(sqlite3.connect(making)) as done:
        done.execute("PRAGMA wal_checkpoint(TRUNCATE)")
    making.rename(file)


def put_back(name: str | Path) -> None:
    """The database as `base` made it, whatever was written; open connections go on."""
    with (
        closing(sqlite3.connect(base_of_this_run())) as kept,
        closing(sqlite3.connect(name, timeout=20)) as written,
    ):
        kept.backup(written)


_RUN: list[Path] = []


def base_of_this_run() -> Path:
    """As `base`, looked for once."""
    if not _RUN:
        _RUN.append(base())
    return _RUN[0]
