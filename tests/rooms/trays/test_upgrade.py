"""A shop of the state before the way back: its bags, tubs and trays are followed like new ones."""

from decimal import Decimal
from importlib import import_module

import pytest
from django.apps import apps
from django.utils import timezone

from cutting.grinding.judging import How
from cutting.labels.tray_life import Life
from rooms.bench.models import CuttingTest
from rooms.cooler.models import Bag
from rooms.grinder.actions.batch import carry_over
from rooms.grinder.actions.tubs import Pulled, judge, pull
from rooms.grinder.models import Sample, TubIn, TubLot
from rooms.trays.actions.life import becomes, not_so, to_tub
from rooms.trays.models import Tray, TrayEvent
from rooms.trays.queries.lot_graph import Start, backwards, forwards
from tests.rooms.grinder.helpers import tub
from tests.rooms.trays.helpers import KEY, lb, pack

FILLS = (
    "rooms.cooler.migrations.0007_fill_lot_keys",
    "rooms.bench.migrations.0014_fill_lot_keys",
    "rooms.grinder.migrations.0006_fill_the_way_back",
    "rooms.trays.migrations.0003_fill_the_way_back",
)
COLUMNS = (
    (Bag, ("lot_key",)),
    (CuttingTest, ("lot_key",)),
    (TubLot, ("lot_key",)),
    (TubIn, ("from_test", "from_batch")),
    (Tray, ("from_test", "from_batch")),
    (TrayEvent, ("entry",)),
)


def state():
    return {
        model.__name__: list(model.objects.order_by("pk").values_list("pk", *names))
        for model, names in COLUMNS
    }


@pytest.mark.django_db
def test_what_is_recorded_now_is_worked_out_once_for_what_was_there(chain, size):
    other = tub("Other", pounds="4.0", lot="l 9")
    first, second = chain.trays
    to_tub(KEY(), first.pk, other.pk, None)
    carry_over(KEY(), chain.batch.pk, other.pk, None)
    pull(KEY(), other.pk, Pulled(lb("1"), "G-1", timezone.localdate()), None)
    pull(
        KEY(),
        other.pk,
        Pulled(lb("1"), f"test {chain.rows.test.number}", timezone.localdate()),
        None,
    )
    becomes(KEY(), second.pk, Life.TO_BLOCK, None)
    pack(chain.product, size, "0.54", f"tray:{second.pk}")
    before = state()
    way = forwards(Start(lot="l40")), backwards(Start(tub=other.pk))
    for model, names in COLUMNS:
        model.objects.update(**{name: "" if name == "lot_key" else None for name in names})
    for name in FILLS:
        import_module(name).fill(apps, None)
    assert state() == before
    again = forwards(Start(lot="l40")), backwards(Start(tub=other.pk))
    for one, other_one in zip(way, again, strict=True):
        assert one.names(one.trays) == other_one.names(other_one.trays)


@pytest.mark.django_db
def test_codes_undos_and_samples_of_a_shop_of_before_are_kept(chain, size, numbered):
    tray, other = pack(numbered, size, "1.04"), chain.trays[0]
    for life in (Life.IN_CASE, Life.SOLD):
        becomes(KEY(), tray.pk, life, None)
    for _ in range(2):
        not_so(KEY(), tray.pk, None)
    becomes(KEY(), other.pk, Life.SOLD, None)
    not_so(KEY(), other.pk, None)
    judge(chain.tub.pk, How.TESTER, Decimal("0.80"), None, "a-1")
    kept = (
        list(Tray.objects.order_by("pk").values_list("pk", "code")),
        list(TrayEvent.objects.order_by("pk").values_list("pk", "undoes")),
        list(Sample.objects.values_list("reading", "judged")),
    )
    assert tray.code
    Tray.objects.update(code="")
    TrayEvent.objects.update(undoes=None)
    Sample.objects.all()._raw_delete("default")
    trays = import_module("rooms.trays.migrations.0004_codes_and_undo")
    trays.keep_codes(apps, None)
    trays.link_undos(apps, None)
    import_module("rooms.grinder.migrations.0007_samples_and_relabeled").keep_samples(apps, None)
    assert kept == (
        list(Tray.objects.order_by("pk").values_list("pk", "code")),
        list(TrayEvent.objects.order_by("pk").values_list("pk", "undoes")),
        list(Sample.objects.values_list("reading", "judged")),
    )


@pytest.mark.long
def test_a_shop_of_before_becomes_this_one(manage):
    manage("migrate", "trays", "0001", "--verbosity", "0")
    key = "0000000000000000000000000000000"
    manage(
        "sql",
        f"""
        INSERT INTO cooler_delivery (id, number, supplier, establishment, invoice, received_at, freight, discount,
            arrival_reason, difference_reason, invoice_unit)
          VALUES ('{key}1', 1, 'Low Holm Provisions', '', '', '2026-11-01', '0', '0', '', '', '');
        INSERT INTO cooler_bag (id, gtin, serial, lot, grade, country, pieces_inside, weight_value, weight_unit,
            price_per, freight, discount, own_unit, packed_on, was_frozen, seal, state, came_at, delivery_id, claims,
            damage)
          VALUES ('{key}2', '1', '', 'L-9427', '', '', 1, '9', 'lb', 'lb', '0', '0', '', '2026-11-01', 0, 'tight',
            'in', '2026-11-01', '{key}1', '', '[]');
        INSERT INTO grinder_trimtub (id, name, species, kind, primal, unit, started_at)
          VALUES ('{key}3', 'Chuck', 'beef', 'lean', '', 'lb', '2026-11-01');
        INSERT INTO grinder_tubin (id, key, tub_id, source, weight, lots, cost, day, at, bag_id, again, school)
          VALUES (1, '{key}4', '{key}3', 'bought', '9', '[{{"lot": "L-9427"}}]', '3', '2026-11-01', '2026-11-01',
            '{key}2', 0, '');
        INSERT INTO grinder_tublot (id, lot, entry_id) VALUES (1, 'L-9427', 1);
        """,
    )
    manage("migrate", "--verbosity", "0")
    assert manage("sql", "SELECT lot, lot_key FROM cooler_bag") == [("L-9427", "l9427")]
    assert manage("sql", "SELECT lot_key FROM grinder_tublot") == [("l9427",)]
    assert manage("sql", "SELECT from_test_id, from_batch_id FROM grinder_tubin") == [(None, None)]
    assert manage("sql", "SELECT count(*) FROM cooler_lothold") == [(0,)]
