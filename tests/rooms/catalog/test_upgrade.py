"""A shop of the first version gets the guides, and keeps its pieces under the same ids."""

from pathlib import Path

import pytest

pytestmark = pytest.mark.long
OLD_CATALOG = """
INSERT INTO catalog_cut (id, key, name, species, muscle) VALUES
  (7, 'beef-centre-filet', 'Centre filet', 'beef', 'psoas major'),
  (8, 'beef-filet-tips', 'Filet tips', 'beef', 'psoas major');
INSERT INTO catalog_piece (id, key, species, name, other_name, item_number, usual_weight,
  usual_unit, cautions, position) VALUES
  (3, 'beef-tenderloin', 'beef', 'Tenderloin, old name', '', '189A', '6.20', 'lb', '[]', 0);
INSERT INTO catalog_plan (id, key, name, is_sawn, position, piece_id) VALUES
  (5, 'centre-filets-7oz', 'Centre filets', 0, 0, 3), (6, 'gone', 'No longer shipped', 0, 1, 3);
INSERT INTO catalog_planoutput (id, position, name, pile, role, share, target_value, target_unit,
  is_counted, in_case, cut_id, plan_id) VALUES
  (11, 0, 'Centre filet', 'portions', 'main', '0.5', '7', 'oz', 1, 0, 7, 5),
  (12, 1, 'Tips', 'secondary', 'secondary', '0.1', NULL, '', 0, 0, 8, 5),
  (13, 0, 'Old pile', 'lean', 'credit', '0.1', NULL, '', 0, 0, NULL, 6);
"""


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
    assert one("SELECT is_dropped, share FROM catalog_planoutput WHERE id = 11") == (0, "0.48")
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
    manage("migrate", "catalog", "0004", "--verbosity", "0")
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


EDIT = """
from rooms.catalog.actions.edit import Editor, digest, save_piece
from rooms.catalog.queries.rows import document_of
piece = document_of(only="beef-knuckle")["pieces"]["beef-knuckle"]
seen = digest(piece)
piece["looks"] = "as the house likes it"
print(save_piece("beef-knuckle", piece, Editor(None, seen)))
"""


def test_a_shops_own_edits_of_the_old_guides_survive(manage):
    """From the state before products and steps were paired: tests/rooms/catalog/before_pairing.sql."""
    manage("migrate", "catalog", "0003", "--verbosity", "0")
    manage("sql", Path(__file__).with_name("before_pairing.sql").read_text(encoding="utf-8"))
    manage("migrate", "--verbosity", "0")
    assert "added" in manage("load_catalog")
    assert "0 added, 0 changed" in manage("load_catalog")

    def one(table, key, fields, more="1"):
        words = f"SELECT {fields} FROM catalog_{table} WHERE key = '{key}' AND {more}"
        return manage("sql", words)[0]

    (do, plans) = one("step", "fingers", "do, plans")
    assert do.startswith("House way")
    assert "meaty-bones" not in plans
    assert "cap-on" in plans
    name, share, pile, made_by = one("planoutput", "cap-for-mince", "name, share, pile, made_by")
    assert (name, share) == ("House mince", "0.11")
    assert (pile, made_by) == ("lean", '["outer-cap"]')
    assert one("plan", "own-smoke", "name, is_dropped") == ("House smoke bones", 0)
    assert one("piece", "beef-knuckle", "house_name") == ("The football",)
    mine = "plan_id = (SELECT id FROM catalog_plan WHERE key = 'seamed-steaks')"
    assert one("planoutput", "stir-fry", "is_dropped", mine) == (1,)
    assert one("planoutput", "centre-steak", "name", mine) == ("Center steak",)
    assert one("step", "cap-off", "is_dropped") == (1,)
    assert "changed" in manage("shell", "-c", EDIT)  # what was unpaired before stops no other edit


OLD_ADDERS = """
INSERT INTO pricebook_adder (id, name, price, minutes, material, pick_up, caution, position, is_dropped)
VALUES (1, 'Tenderize twice', '0.25', '0.5', '0', '0', '', 0, 0),
  (2, 'Tie', '0.20', '1', '0', '0', '', 1, 0), (3, 'House marinade', '0.4', '1', '0', '0.1', '', 2, 0);
"""


def test_a_step_says_by_its_name_what_it_makes(manage):
    manage("migrate", "pricebook", "0008", "--verbosity", "0")
    manage("sql", OLD_ADDERS)
    manage("migrate", "--verbosity", "0")
    found = manage("sql", "SELECT name, makes FROM pricebook_adder ORDER BY id")
    assert dict(found) == {
        "Tenderize twice": "tenderized",
        "Tie": "",
        "House marinade": "seasoned",
    }
