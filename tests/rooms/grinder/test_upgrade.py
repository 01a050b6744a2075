"""A shop of the state before the grinder's house rules keeps its tubs and batches, costs and all."""

import pytest

pytestmark = pytest.mark.long


def test_batches_of_before_keep_their_cost_and_what_came_out(manage):
    manage("migrate", "grinder", "0001", "--verbosity", "0")
    key = "0000000000000000000000000000000"
    manage(
        "sql",
        f"""
        INSERT INTO grinder_cleandown (id, key, what, at) VALUES
          (1, '{key}a', 'cleaned', '2026-11-01 06:00:00'), (2, '{key}b', 'set_up', '2026-11-01 06:10:00');
        INSERT INTO grinder_trimtub (id, name, species, kind, primal, unit, started_at)
          VALUES ('{key}1', 'Chuck', 'beef', 'lean', '', 'lb', '2026-11-01');
        INSERT INTO grinder_tubin (id, key, tub_id, source, weight, lots, cost, day, at)
          VALUES (1, '{key}2', '{key}1', 'case', '12', '[{{"lot": "L1"}}]', '3', '2026-11-01', '2026-11-01');
        INSERT INTO grinder_tublot (id, lot, entry_id) VALUES (1, 'L1', 1);
        INSERT INTO grinder_batch (id, number, name, rule, species, weight, unit, fat, fat_sd, document, answer,
            cleaned_id, set_up_id, begun_at, celsius_in, celsius_out, got, machine, finished_at)
          SELECT '{key}' || n, n, 'ground beef', 'ground_beef', 'beef', '12', 'lb', '0.15', '0.01', '{{}}',
            '{{"cost": "36.5", "cost_per_unit": "3.04", "take": []}}', 1, 2, '2026-11-01 07:00:00', 2000,
            CASE n WHEN 3 THEN 4000 END, CASE n WHEN 3 THEN '11.5' END, CASE n WHEN 3 THEN '0.3' END,
            CASE n WHEN 3 THEN '2026-11-01 08:00:00' END
          FROM (SELECT 3 AS n UNION SELECT 4);
        INSERT INTO grinder_tubout (id, key, tub_id, weight, batch_id, reason, at)
          VALUES (1, '{key}5', '{key}1', '12', '{key}3', '', '2026-11-01 07:00:00');
        """,
    )
    manage("migrate", "--verbosity", "0")
    rows = manage("sql", "SELECT number, cost, seasoned_with FROM grinder_batch ORDER BY number")
    assert rows == [(3, "36.5000", "0"), (4, "36.5000", "0")]
    assert manage("sql", "SELECT batch_id, got, machine, celsius FROM grinder_came") == [
        (f"{key}3", "11.5", "0.3", 4000)
    ]
    assert manage("sql", "SELECT again, school, lean FROM grinder_tubin") == [(0, "", None)]
    assert manage("sql", "SELECT points FROM grinder_cleandown LIMIT 1") == [("[]",)]
