"""The invented shop is believable, the same every time, and made once."""

import random
from decimal import Decimal
from types import SimpleNamespace

import pytest
from django.core.management import call_command
from django.utils import timezone
from hypothesis import given, settings
from hypothesis import strategies as st

from cutting.quantities import Unit, Weight
from cutting.sheet.cutting_test import figures
from rooms.bench.models import CuttingTest, Weighing
from rooms.bench.queries.rows import load_all
from rooms.catalog.queries import shipped
from rooms.catalog.queries.rows import output_fields
from rooms.demo.cutting_room import cut
from rooms.demo.generator import make_shop
from rooms.demo.shop import INVOICE

PIECES = {key: shipped.document()["pieces"][key] for key in INVOICE}
OUTPUTS = {
    key: [output_fields(output, at) for at, output in enumerate(piece["plans"][0]["outputs"])]
    for key, piece in PIECES.items()
}


@pytest.mark.long
@pytest.mark.django_db
def test_the_demo_has_twenty_sheets_and_two_tests_on_the_block_and_is_made_once(shop, capsys):
    from rooms.pricebook.models import Price, Product

    Price.objects.all().delete()
    Product.objects.all().delete()
    now = timezone.now()
    assert make_shop(now) == 22
    before = Weighing.objects.count()
    assert make_shop(now) == 0
    call_command("demo_data")
    assert "demo shop: there" in capsys.readouterr().out
    assert Weighing.objects.count() == before
    assert (CuttingTest.objects.finished().count(), CuttingTest.objects.open().count()) == (20, 2)
    sheets = load_all(list(CuttingTest.objects.finished().order_by("number")))
    assert {rows.test.piece_name for rows in sheets} == {piece["name"] for piece in PIECES.values()}
    balances = [figures(rows.weighed).balance for rows in sheets]
    assert [b.in_balance for b in balances].count(False) == 1  # a tub captured twice
    assert all(rows.test.started_at < now for rows in sheets)
    assert Price.objects.exclude(from_test=None).values("from_test").distinct().count() == 4


@settings(max_examples=60)
@given(st.integers(0, 10_000), st.sampled_from(sorted(OUTPUTS)))
def test_a_cut_piece_comes_back_to_its_weight_with_the_scatter_of_real_cutting(seed, key):
    outputs = [SimpleNamespace(**fields) for fields in OUTPUTS[key]]
    shown = cut(outputs, Decimal("12.00"), random.Random(seed))
    by_pile = [Decimal(0)] * len(outputs)
    for reading in shown:
        assert reading.value > 0
        assert reading.value % reading.division == 0
        by_pile[reading.output] += Weight(reading.value, Unit(reading.unit)).to(Unit.LB)
    assert Decimal("11.85") < sum(by_pile) < Decimal("12.10")
    if key == "beef-tenderloin":  # silver skin takes 2 to 5 %, not 18
        assert Decimal("0.02") < by_pile[4] / 12 < Decimal("0.055")
