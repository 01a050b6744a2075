"""A shop of the state before it had settings on screen becomes this one."""

import json

import pytest

pytestmark = pytest.mark.long
BEFORE = """
INSERT INTO staff_person (id, password, is_superuser, username, last_name, email, is_staff,
  is_active, date_joined, first_name, role, is_under_18, pin)
  VALUES (1, 'x', 0, 'ada', '', '', 0, 1, '2026-01-01', 'Ada', 'manager', 0, '');
INSERT INTO cooler_delivery (id, number, supplier, establishment, invoice, received_at, freight,
  discount, arrival_reason, difference_reason, closed_at)
  VALUES ('0000000000000000000000000000000a', 1, 'Low Holm', '', '', '2026-01-02', '0', '0', '', '', '2026-01-02'),
         ('0000000000000000000000000000000b', 2, 'Low Holm', '', '', '2026-01-02', '0', '0', '', '', NULL);
"""
SCALES = [{"name": "trim", "label": "Trim scale", "url": "http://trim", "division": "0.02"}]


def to_the_state_before(manage):
    for app, state in (("staff", "0003"), ("cooler", "0004"), ("bench", "0011")):
        manage("migrate", app, state, "--verbosity", "0")


def test_what_the_environment_said_is_kept_and_nobody_is_led_again(manage):
    to_the_state_before(manage)
    manage("sql", BEFORE)
    manage(
        "migrate",
        "--verbosity",
        "0",
        SHOP_NAME="Far Holm Meats",
        CURRENCY="NZD",
        NAMES_FIRST="commonwealth",
        MORE_SCALES=json.dumps(SCALES),
    )
    names = "name, own_short_name, currency, names_first, is_set_up, labour_rate, time_zone"
    (row,) = manage("sql", f"SELECT {names} FROM shop_shop")
    assert row == ("Far Holm Meats", "", "NZD", "commonwealth", 1, "24.00", "America/New_York")
    (scales,) = manage("sql", "SELECT scales FROM shop_shop")[0]
    assert [(one["name"], one["division"]) for one in json.loads(scales)] == [
        ("block", "0.01"),
        ("trim", "0.02"),
    ]
    assert manage("sql", "SELECT name, history_type FROM shop_historicalshop") == [
        ("Far Holm Meats", "+")
    ]
    units = manage("sql", "SELECT invoice_unit FROM cooler_delivery ORDER BY number")
    assert units == [("lb",), ("",)]


def test_an_empty_shop_is_asked_on_its_first_day(manage):
    to_the_state_before(manage)
    manage("migrate", "--verbosity", "0")
    assert manage("sql", "SELECT count(*) FROM shop_shop") == [(0,)]
