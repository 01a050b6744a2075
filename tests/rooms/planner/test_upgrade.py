"""A shop of the state before the planner keeps its wanted list, its tests and its measured pieces."""

import pytest

pytestmark = pytest.mark.long


def test_the_wanted_list_moves_with_its_rows_and_a_measured_piece_is_of_the_whole(manage):
    for app, state in (
        ("planner", "zero"),
        ("today", "0001"),
        ("bench", "0011"),
        ("layout", "0001"),
    ):
        manage("migrate", app, state, "--verbosity", "0")
    manage("migrate", "catalog", "--verbosity", "0")
    manage("load_catalog")
    manage(
        "sql",
        """
        INSERT INTO pricebook_product (id, name, per, is_sold, cut_id, tray_unit, carries_labour,
            carries_packaging, counter, shows_both, shrink, story, tax)
          SELECT 1, 'Flat iron', 'lb', 1, id, '', 0, 0, '', 0, '0', '', '0' FROM catalog_cut WHERE key = 'beef-flat-iron';
        INSERT INTO today_wanted (product_id, weekday, least, most) VALUES (1, 3, '2', '6');
        INSERT INTO layout_measured (key, piece_id, weight_value, weight_unit, length, width, height, at)
          SELECT '0000000000000000000000000000000c', id, '14.5', 'lb', '394', '178', '102', '2026-11-01'
          FROM catalog_piece WHERE key = 'beef-ribeye';
        """,
    )
    manage("migrate", "--verbosity", "0")
    assert manage("sql", "SELECT weekday, least, most FROM today_wanted") == [(3, "2", "6")]
    assert manage("sql", "SELECT part, length FROM layout_measured") == [("", "394")]
    assert manage("sql", "SELECT count(*) FROM planner_dayplan") == [(0,)]
