"""What a tray may become, and how long it may be sold."""

from datetime import date, timedelta

import pytest
from hypothesis import given
from hypothesis import strategies as st

from cutting.errors import BadValue
from cutting.labels.tray_life import NEXT, Life, may_become, sell_by

DAY = date(2026, 11, 26)


@pytest.mark.parametrize(
    ("now", "to", "may"),
    [
        (Life.PACKED, Life.IN_CASE, True),
        (Life.PACKED, Life.UNDONE, True),
        (Life.IN_CASE, Life.SOLD, True),
        (Life.IN_CASE, Life.UNDONE, False),
        (Life.MARKED_DOWN, Life.SOLD, True),
        (Life.MARKED_DOWN, Life.MARKED_DOWN, True),
        (Life.MARKED_DOWN, Life.IN_CASE, False),
        (Life.SOLD, Life.THROWN, True),
        (Life.SOLD, Life.IN_CASE, False),
        (Life.THROWN, Life.SOLD, False),
        (Life.TO_TUB, Life.SOLD, False),
        (Life.UNDONE, Life.PACKED, False),
    ],
)
def test_what_a_tray_may_become(now, to, may):
    assert may_become(now, to) is may


def test_nothing_becomes_packed_again_and_what_is_gone_stays_gone():
    assert not any(Life.PACKED in after for after in NEXT.values())
    assert {Life.THROWN, Life.TO_TUB, Life.UNDONE}.isdisjoint(NEXT)
    assert NEXT[Life.TO_BLOCK] == {Life.THROWN, Life.TO_TUB}


@given(st.integers(0, 60), st.lists(st.integers(0, 60), max_size=4))
def test_a_tray_never_outlives_its_bag_nor_the_shops_days(keeps, ends):
    last = sell_by(DAY, keeps, [DAY + timedelta(days=one) for one in ends])
    assert last == DAY + timedelta(days=min([keeps, *ends]))


def test_meat_past_its_end_gets_no_label():
    with pytest.raises(BadValue, match="within its days"):
        sell_by(DAY, 3, [DAY - timedelta(days=1)])
    with pytest.raises(BadValue, match="0 or more"):
        sell_by(DAY, -1, [])
