"""A shop of the state before pieces went into the cooler keeps its parts, with the age of their meat."""

import pytest

pytestmark = pytest.mark.long

DELIVERY = "0000000000000000000000000000000d"


def test_a_part_packed_again_writes_down_how_old_its_meat_was(manage):
    for app, state in (("cooler", "0009"), ("bench", "0017")):
        manage("migrate", app, state, "--verbosity", "0")
    manage("migrate", "catalog", "--verbosity", "0")
    manage("load_catalog")
    manage(
        "sql",
        f"""
        INSERT INTO cooler_delivery (id, number, supplier, establishment, invoice, received_at, freight, discount,
            arrival_reason, invoice_unit, difference_reason)
          VALUES ('{DELIVERY}', 1, 'Skerry Point Packing', '', '', '2026-11-01', '0', '0', '', '', '');
        """
        + "".join(
            f"""
        INSERT INTO cooler_bag (id, delivery_id, piece_id, gtin, serial, lot, lot_key, grade, country, born, raised,
            slaughtered, pieces_inside, weight_value, weight_unit, price_per, freight, discount, own_unit, packed_on,
            was_frozen, damage, claims, seal, state, came_at, left_at, part_of_id)
          SELECT '{key:032d}', '{DELIVERY}', id, '', '', 'L1', 'l1', '', '', '', '', '', 1, '6', 'lb', 'lb', '0', '0',
            '', '{packed}', 0, '[]', '', 'tight', '{state}', '2026-11-01', {left}, {whole}
          FROM catalog_piece WHERE key = 'beef-tenderloin';
        """
            for key, packed, state, left, whole in (
                (1, "2026-10-20", "opened", "'2026-11-02'", "NULL"),
                (2, "2026-11-02", "opened", "'2026-11-06'", f"'{1:032d}'"),
                (3, "2026-11-06", "in", "NULL", f"'{2:032d}'"),
            )
        ),
    )
    manage("migrate", "--verbosity", "0")
    rows = manage(
        "sql",
        "SELECT age_before, is_unsealed, cut_of_id, sealed_on FROM cooler_bag ORDER BY id",
    )
    assert rows == [(0, 0, None, None), (13, 0, None, None), (17, 0, None, None)]
    assert manage("sql", "SELECT count(*) FROM bench_piecebag") == [(0,)]
