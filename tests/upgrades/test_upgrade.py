"""A shop of 0.2.0 becomes one of this version; others are refused and stay as they are."""

import sqlite3
import subprocess

import pytest

from tests.upgrades.conftest import contents

pytestmark = pytest.mark.long


def written_down(database):
    with sqlite3.connect(database) as connection:
        return set(connection.execute("SELECT app, name FROM django_migrations"))


TYPES = "django_content_type"
MOVED = {
    ("counter", "kept"): "planner",
    ("planner", "factor"): "demand",
    ("planner", "historicalwanted"): "demand",
    ("planner", "sold"): "demand",
    ("planner", "standingorder"): "demand",
    ("planner", "wanted"): "demand",
    ("trays", "found"): "recall",
    ("trays", "recall"): "recall",
}


def types(database):
    with sqlite3.connect(database) as connection:
        return set(connection.execute(f"SELECT id, app_label, model FROM {TYPES}"))


def has_become_this_one(database, before, types_before):
    """Every row is as it was, but for the labels of the models that moved."""
    after = contents(database)
    return types(database) == {
        (pk, MOVED.get((label, model), label), model) for pk, label, model in types_before
    } and all(after[name] == before[name] for name in before.keys() | after if name != TYPES)


def test_a_shop_of_0_2_0_keeps_every_row(shop_of_before, manage):
    before, types_before = contents(shop_of_before), types(shop_of_before)
    assert before["bench_weighing"][0] > 200
    manage("migrate", "--verbosity", "0")
    assert has_become_this_one(shop_of_before, before, types_before)
    assert "No migrations to apply" in manage("migrate")
    assert "No changes detected" in manage("makemigrations", "--check", "--dry-run")


def test_a_first_start_that_ended_half_way_goes_on(manage, tmp_path):
    manage("migrate", "catalog", "--verbosity", "0")
    manage("migrate", "--verbosity", "0")
    assert ("bench", "0001_as_of_0_2_0") in written_down(tmp_path / "shop.sqlite3")
    assert "No migrations to apply" in manage("migrate")
    assert manage("sql", "SELECT count(*) FROM shop_shop") == [(0,)]  # it is asked on its first day


STOP = f"""
    CREATE TRIGGER stop BEFORE UPDATE ON {TYPES} WHEN old.model = '%s'
    BEGIN SELECT RAISE(ABORT, 'killed'); END;
"""


@pytest.mark.parametrize("model", ["kept", "wanted", "recall"])
def test_an_upgrade_that_is_killed_goes_on_where_it_was(shop_of_before, manage, model):
    before, types_before = contents(shop_of_before), types(shop_of_before)
    with sqlite3.connect(shop_of_before) as connection:
        connection.executescript(STOP % model)
    with pytest.raises(subprocess.CalledProcessError, match="migrate"):
        manage("migrate", "--verbosity", "0")
    with sqlite3.connect(shop_of_before) as connection:
        connection.execute("DROP TRIGGER stop")
    manage("migrate", "--verbosity", "0")
    assert has_become_this_one(shop_of_before, before, types_before)


def test_an_upgrade_in_parts_is_the_same(shop_of_before, manage):
    before, types_before = contents(shop_of_before), types(shop_of_before)
    for part in (("counter",), ("planner", "0002"), ("trays",), ()):
        manage("migrate", *part, "--verbosity", "0")
    found, wanted = contents(shop_of_before), before
    assert {label for _, label, model in types(shop_of_before) if model == "wanted"} == {"demand"}
    assert len(types(shop_of_before)) == len(types_before)
    moved = {TYPES, "auth_permission", "sqlite_sequence"}
    assert all(found[name] == wanted[name] for name in wanted.keys() - moved)


def test_what_is_made_new_has_the_tables_of_the_shop_of_before(shop_of_before, manage, tmp_path):
    manage("migrate", "--verbosity", "0")
    manage("migrate", "--verbosity", "0", TALLY_DB=str(tmp_path / "new.sqlite3"))
    assert tables(tmp_path / "new.sqlite3") == tables(shop_of_before)


def tables(database):
    """Columns, references and indexes of every table: what order they stand in is no difference."""
    with sqlite3.connect(database) as connection:
        found = {}
        names = connection.execute("SELECT name FROM sqlite_master WHERE type = 'table'")
        for (name,) in names.fetchall():
            ask = connection.execute
            columns = {row[1:] for row in ask(f'PRAGMA table_info("{name}")')}
            references = {row[2:] for row in ask(f'PRAGMA foreign_key_list("{name}")')}
            indexes = {
                (
                    row[1] if not row[1].startswith("sqlite_") else "",
                    row[2],
                    tuple(sorted(str(one[2]) for one in ask(f'PRAGMA index_info("{row[1]}")'))),
                )
                for row in ask(f'PRAGMA index_list("{name}")')
            }
            found[name] = (columns, references, indexes)
    return found


OLDER = {
    "0.1.0": "name >= '0002' AND app NOT IN ('auth', 'contenttypes', 'axes', 'sessions')",
    "half of 0.2.0": "app = 'cooler' AND name LIKE '0010%'",
}


@pytest.mark.parametrize("which", OLDER)
def test_an_older_shop_is_refused_and_stays_as_it_is(shop_of_before, manage, which):
    with sqlite3.connect(shop_of_before) as connection:
        connection.execute(f"DELETE FROM django_migrations WHERE {OLDER[which]}")
    before, written = contents(shop_of_before), written_down(shop_of_before)
    with pytest.raises(subprocess.CalledProcessError) as refused:
        manage("migrate", "--verbosity", "0")
    said = refused.value.stderr
    assert "older than version 0.2.0" in said
    assert "Traceback" not in said
    assert (contents(shop_of_before), written_down(shop_of_before)) == (before, written)


def test_a_shop_of_a_later_version_is_refused_and_stays_as_it_is(shop_of_before, manage):
    with sqlite3.connect(shop_of_before) as connection:
        connection.execute(
            "INSERT INTO django_migrations (app, name, applied) VALUES ('bench', '9999_to_come', '')"
        )
    before, written = contents(shop_of_before), written_down(shop_of_before)
    with pytest.raises(subprocess.CalledProcessError) as refused:
        manage("migrate", "--verbosity", "0")
    assert "of a newer version, it has bench.9999_to_come" in refused.value.stderr
    assert (contents(shop_of_before), written_down(shop_of_before)) == (before, written)
