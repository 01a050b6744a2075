"""A database of its own, to bring from an earlier state to this one."""

import json
import os
import sqlite3
import subprocess
import sys

import pytest

from mindful_tally import solver as process
from rooms.common.clients import solver
from rooms.common.errors import BadInput
from tests.journeys.conftest import ROOT


@pytest.fixture
def manage(tmp_path):
    """`manage("migrate")`: a command over a database of its own; `manage("sql", …)` asks it."""
    database = tmp_path / "shop.sqlite3"
    environment = {
        **os.environ,
        "TALLY_DB": str(database),
        "DJANGO_SETTINGS_MODULE": "mindful_tally.settings.demo",
    }

    def run(*command, **more):
        if command[0] == "sql":
            with sqlite3.connect(database) as connection:
                cursor = connection.executescript if command[1].count(";") else connection.execute
                return cursor(command[1]).fetchall()
        done = subprocess.run(
            [sys.executable, "manage.py", *command],
            cwd=ROOT,
            env=environment | more,
            capture_output=True,
            text=True,
            check=True,
        )
        return done.stdout

    return run


@pytest.fixture
def solving(monkeypatch):
    """The solver without its process: what is asked is answered by the same functions."""
    from cutting.errors import BadDocument

    def ask(path, asked, seconds=0):
        try:
            found = {
                "/choose": process.choose,
                "/worth": process.worth,
                "/order": process.order,
                "/blend": process.blend,
            }[path](asked)
            return solver.checked(path, asked, json.loads(json.dumps(found)))
        except BadDocument as bad:
            raise BadInput(solver.said([str(one) for one in bad.faults])) from None

    monkeypatch.setattr(solver, "ask", ask)
    return ask
