"""A shop of 0.2.0 becomes one of this version; others are refused and stay as they are."""

import sqlite3
import subprocess

import pytest

from tests.upgrades.conftest import contents

pytestmark = pytest.mark.long


def written_down(database):
    with sqlite3.connect(database) as connection:
        return set(connection.execute("SELECT app, name FROM django_migrations"))


def test_a_shop_of_0_2_0_keeps_every_row(shop_of_before, manage):
    before = contents(shop_of_before)
    assert before["bench_weighing"][0] > 200
    manage("migrate", "--verbosity", "0")
    assert contents(shop_of_before) == before
    assert "No migrations to apply" in manage("migrate")
    assert "No changes detected" in manage("makemigrations", "--check", "--dry-run")


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
