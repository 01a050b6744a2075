"""A shop of the first version gets the guides, and keeps its pieces under the same ids."""

import os
import sqlite3
import subprocess
import sys

import pytest

from tests.journeys.conftest import ROOT

pytestmark = pytest.mark.long
OLD_CATALOG = """
INSERT INTO catalog_cut (id, key, name, species, muscle) VALUES
  (7, 'beef-centre-filet', 'Center filet', 'beef', 'psoas major'),
  (8, 'beef-filet-tips', 'Filet tips', 'beef', 'psoas major');
INSERT INTO catalog_piece (id, key, species, name, other_name, item_number, usual_weight,
  usual_unit, cautions, position) VALUES
  (3, 'beef-tenderloin', 'beef', 'Tenderloin, old name', '', '189A', '6.20', 'lb', '[]', 0);
INSERT INTO catalog_plan (id, key, name, is_sawn, position, piece_id) VALUES
  (5, 'centre-filets-7oz', 'Center filets', 0, 0, 3), (6, 'gone', 'No longer shipped', 0, 1, 3);
INSERT INTO catalog_planoutput (id, position, name, pile, role, share, target_value, target_unit,
  is_counted, in_case, cut_id, plan_id) VALUES
  (11, 0, 'Center filet', 'portions', 'main', '0.5', '7', 'oz', 1, 0, 7, 5),
  (12, 1, 'Tips', 'secondary', 'secondary', '0.1', NULL, '', 0, 0, 8, 5),
  (13, 0, 'Old pile', 'lean', 'credit', '0.1', NULL, '', 0, 0, NULL, 6);
"""


@pytest.fixture
def manage(tmp_path):
    database = tmp_path / "shop.sqlite3"
    environment = {
        **os.environ,
        "TALLY_DB": str(database),
        "DJANGO_SETTINGS_MODULE": "mindful_tally.settings.demo",
    }

    def run(*command):
        if command[0] == "sql":
            with sqlite3.connect(database) as connection:
                cursor = connection.executescript if command[1].count(";") else connection.execute
                return cursor(command[1]).fetchall()
        done = subprocess.run(
            [sys.executable, "manage.py", *command],
            cwd=ROOT,
            env=environment,
            capture_output=True,
            text=True,
            check=True,
        )
        return done.stdout

    return run


def test_the_first_version_becomes_this_one(manage):
    manage("migrate", "catalog", "0001", "--verbosity", "0")
    manage("sql", OLD_CATALOG)
    manage("migrate", "--verbosity", "0")
    assert "added" in manage("load_catalog")
    assert "0 added, 0 changed" in manage("load_catalog")

    def one(words):
        return manage("sql", words)[0]

    assert one("SELECT id, name FROM catalog_piece WHERE key = 'beef-tenderloin'") == (
        3,
        "Tenderloin, side muscle on, defatted",
    )
    assert one("SELECT is_dropped FROM catalog_plan WHERE id = 6") == (1,)
    assert one("SELECT is_dropped, share FROM catalog_planoutput WHERE id = 11") == (0, "0.56")
    assert one(
        "SELECT m.latin FROM catalog_cut c JOIN catalog_muscle m ON m.id = c.muscle_id"
        " WHERE c.id = 7"
    ) == ("psoas major",)
    assert one("SELECT count(*) FROM catalog_step WHERE piece_id = 3")[0] >= 6


OLD_PRICES = """
INSERT INTO catalog_cut (id, key, name, other_name, house_name, synonyms, search, species,
  item_number, cooking, counter, tray, is_cut_across, is_cubed, is_tenderized, is_ground, doubt,
  is_dropped) VALUES (7, 'own-stew', 'Stew', '', '', '[]', 'stew', 'beef', '', '', 'self', '',
  0, 0, 0, 0, '', 0);
INSERT INTO pricebook_product (id, name, per, tray_unit, is_sold, cut_id) VALUES
  (4, 'Stew', 'lb', 'lb', 1, 7);
INSERT INTO pricebook_price (id, amount, made_at, from_test, school, product_id) VALUES
  (1, '7.49', '2026-01-05 12:00:00', NULL, '', 4),
  (2, '7.99', '2026-02-05 12:00:00', '00000000000000000000000000000001', 'flat', 4);
"""


def test_earlier_prices_become_versions(manage):
    manage("migrate", "pricebook", "0002", "--verbosity", "0")
    manage("migrate", "catalog", "--verbosity", "0")
    manage("sql", OLD_PRICES)
    manage("migrate", "--verbosity", "0")
    assert manage("sql", "SELECT number, kind, school, effective_on FROM pricebook_version") == [
        (1, "hand", "", "2026-01-05"),
        (2, "test", "flat", "2026-02-05"),
    ]
    assert manage("sql", "SELECT amount, version_id FROM pricebook_price ORDER BY id") == [
        ("7.49", 1),
        ("7.99", 2),
    ]
