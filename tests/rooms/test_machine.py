"""What is wrong with the machine is told as it is: the database, its place and version, the clock."""

import os
import sqlite3
import subprocess
import sys
from datetime import timedelta
from decimal import Decimal

import pytest
from django.db import OperationalError, connection
from django.db.migrations.recorder import MigrationRecorder
from django.urls import reverse
from django.utils import timezone

from rooms.bench.actions.weighings import take_weight
from rooms.bench.models import Weighing
from rooms.bench.queries.rows import load
from rooms.common.db import faults
from rooms.common.db.sqlite import base
from rooms.common.web.starting import CannotStart, check_database
from rooms.planner.models import DayPlan
from rooms.planner.queries.day import newest
from tests.conftest import capture, words_of
from tests.journeys.conftest import ROOT

pytestmark = pytest.mark.django_db


def faulty(path, what):
    """What SQLite says of a database that is read-only, garbage, missing, of another version or busy."""
    if what == "malformed":
        with sqlite3.connect(path) as made:
            made.execute("CREATE TABLE a (b)")
            made.executemany("INSERT INTO a VALUES (?)", [("x" * 900,)] * 200)
        with path.open("r+b") as raw:
            raw.seek(8192)
            raw.write(b"\xff" * 40_000)
        return path, "SELECT sum(length(b)) FROM a"
    if what == "not a database":
        path.write_bytes(b"garbage" * 2000)
        return path, "SELECT 1 FROM a"
    sqlite3.connect(path).execute("CREATE TABLE a (b)").connection.close()
    if what == "read-only":
        return f"file:{path}?mode=ro", "INSERT INTO a VALUES (1)"
    if what == "missing":
        return f"file:{path.with_name('other')}?mode=rw", "SELECT 1"
    return path, "SELECT c FROM a" if what == "another column" else "SELECT 1 FROM b"


@pytest.mark.parametrize(
    ("what", "status", "says"),
    [
        ("read-only", 503, "can be read but not written"),
        ("malformed", 500, "damaged"),
        ("not a database", 500, "damaged"),
        ("missing", 503, "not where it should be"),
        ("another table", 500, "another version"),
        ("another column", 500, "another version"),
    ],
)
def test_a_database_that_fails_is_told_as_it_fails(
    client, tmp_path, monkeypatch, what, status, says
):
    """By what SQLite itself says of such a file; nowhere that something is safe where nobody knows."""
    path, statement = faulty(tmp_path / "shop", what)
    with pytest.raises(sqlite3.DatabaseError) as known:  # noqa: PT012 (opening it may fail too)
        opened = sqlite3.connect(path, uri=True)
        try:
            opened.execute(statement).fetchall()
        finally:
            opened.close()

    def fails(*_args, **_more):
        raise OperationalError(str(known.value))

    monkeypatch.setattr("rooms.staff.block._who", fails)
    client.raise_request_exception = False
    answer = client.get("/")
    words = words_of(answer)
    assert answer.status_code == status
    assert says in words
    assert "safe" not in words


def test_what_nobody_knows_is_not_said_to_be_safe():
    assert faults.fault_of(ValueError("x")) is None
    assert faults.fault_of(OperationalError("something else")) is None
    for fault in (*faults.FAULTS[1:], faults.UNKNOWN):
        assert "safe" not in fault.message + fault.todo


def run(*command, path):
    environment = {
        **os.environ,
        "DJANGO_SETTINGS_MODULE": "mindful_tally.settings.production",
        "SECRET_KEY": "x" * 50,
        "ALLOWED_HOSTS": "localhost",
        "TALLY_DB": str(path),
    }
    return subprocess.run(
        [sys.executable, *command],
        cwd=ROOT,
        env=environment,
        check=False,
        capture_output=True,
        text=True,
    )


@pytest.mark.long
def test_a_path_where_no_database_is_stays_empty(tmp_path):
    path = tmp_path / "sho.sqlite3"
    for command in (["manage.py", "migrate"], ["-c", "import mindful_tally.wsgi"]):
        done = run(*command, path=path)
        assert done.returncode
        assert f"there is no database at {path}" in done.stderr
        assert "Traceback" not in done.stderr
    assert list(tmp_path.iterdir()) == []


def test_a_new_database_is_made_where_it_is_asked_for_and_nowhere_twice(tmp_path, monkeypatch):
    from rooms.common.management.commands.migrate import Command

    path = tmp_path / "new" / "shop.sqlite3"
    monkeypatch.setattr(base, "MAY_MAKE", set())
    monkeypatch.setattr("rooms.common.management.commands.migrate.MAY_MAKE", base.MAY_MAKE)
    wrapper = base.DatabaseWrapper({**connection.settings_dict, "NAME": str(path)})
    with pytest.raises(OperationalError, match="no database"):
        wrapper.get_new_connection(wrapper.get_connection_params())
    Command()._may_make(path)
    wrapper.get_new_connection(wrapper.get_connection_params()).close()
    with pytest.raises(Exception, match="already"):
        Command()._may_make(path)


def test_the_server_does_not_start_on_a_database_of_another_version():
    rows = MigrationRecorder(connection).migration_qs
    check_database()
    last = rows.filter(app="bench").latest("id")
    last.delete()
    with pytest.raises(CannotStart, match=rf"migrations not applied, the first bench\.{last.name}"):
        check_database()
    rows.create(app="bench", name=last.name, applied=timezone.now())
    rows.create(app="bench", name="9999_to_come", applied=timezone.now())
    with pytest.raises(CannotStart, match="newer version"):
        check_database()
    rows.filter(name="9999_to_come").delete()


def test_a_clock_that_goes_back_is_told_and_turns_no_order_round(client, opened):
    """The first weighing is of an hour from now, as it looks after the clock was set back."""
    rows = opened()
    rows = take_weight(rows.test.pk, capture(rows.outputs[0], "0.50"), None)
    Weighing.objects.update(taken_at=timezone.now() + timedelta(hours=1))
    rows = take_weight(rows.test.pk, capture(rows.outputs[0], "0.60"), None)
    assert [f"{one.value:.2f}" for one in load(rows.test.pk).standing] == ["0.50", "0.60"]
    words = words_of(client.get(reverse("bench:test", args=[rows.test.pk])))
    assert "went back" in words
    assert "Weighings keep their order" in words


def test_the_plan_made_last_is_the_newest_whatever_the_clock_said():
    now, today = timezone.now(), timezone.localdate()
    plans = [
        DayPlan.objects.create(
            key=f"00000000-0000-4000-8000-00000000000{n}",
            day=today,
            hands=1,
            minutes=Decimal(60),
            document={},
            answer={},
            made_at=now - timedelta(hours=n),
        )
        for n in range(2)
    ]
    assert newest(today) == plans[1]
