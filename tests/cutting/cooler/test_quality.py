"""Damage and marbling of a supplier's bags; the lower limit of a cooler."""

from datetime import UTC, datetime, timedelta

import pytest
from hypothesis import given
from hypothesis import strategies as st

from cutting.cooler.ageing import Window, too_young
from cutting.cooler.quality import Damage, Quality, of_supplier
from cutting.cooler.temperature import LEAST, LIMIT, Reading, excursions, too_cold
from cutting.errors import BadValue
from wording.cooler import quality_words, supplier_words, young_words

NOW = datetime(2026, 11, 26, 8, tzinfo=UTC)
qualities = st.builds(
    Quality, st.frozensets(st.sampled_from(Damage)), st.none() | st.integers(1, 9)
)


@given(st.lists(qualities, max_size=12))
def test_a_suppliers_sum_counts_every_bag_once(bags):
    found = of_supplier(bags)
    assert found.bags == len(bags)
    assert found.damaged <= found.bags
    assert max(found.each.values()) <= found.damaged <= sum(found.each.values())
    assert found.marbling is None or 1 <= found.marbling <= 9


def test_quality_is_said_in_the_order_it_is_looked_for():
    one = Quality(frozenset({Damage.TAKEN, Damage.SLAUGHTER}), 5)
    said = quality_words(one, "Angus")
    assert said == ["slaughter damage", "parts already taken", "marbling 5 of 9 by eye", "Angus"]
    assert supplier_words(of_supplier([one, Quality()])).startswith("1 of 2 bags damaged: 1 slau")
    with pytest.raises(BadValue, match="1 to 9"):
        Quality(frozenset(), 0)


def test_what_is_too_young_comes_with_its_day_the_longest_wait_first():
    packed = NOW.date()
    found = too_young(packed, packed + timedelta(days=8), Window(7, 20, 30, 40), {"A": 10, "B": 14})
    assert [(one.name, one.missing) for one in found] == [("B", 6), ("A", 2)]
    assert young_words(found[1]) == "A: 2 days too young, old enough from 6 December"
    assert too_young(packed, packed + timedelta(days=14), Window(7, 20, 30, 40), {"A": 10}) == []


values = st.lists(st.none() | st.integers(-3000, 9000), max_size=30)


@given(values)
def test_too_cold_is_too_warm_upside_down(numbers):
    """What lies below the lower limit, read upside down, lies above a limit."""
    readings = [Reading(NOW + timedelta(minutes=i), v) for i, v in enumerate(numbers)]
    turned = [
        Reading(one.at, None if one.value is None else LEAST + LIMIT - one.value)
        for one in readings
    ]
    cold, warm = too_cold(readings), excursions(turned)
    assert [(one.start, one.end, one.last) for one in cold] == [
        (one.start, one.end, one.last) for one in warm
    ]
    assert all(one.peak < LEAST for one in cold)
