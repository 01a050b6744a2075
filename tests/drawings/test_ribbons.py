"""Ribbons by weight."""

import re
from decimal import Decimal as D
from itertools import pairwise

from hypothesis import given
from hypothesis import strategies as st

from drawings.ribbons import BOX, FINGER, LOWEST, MOST, TALL, TOP, Thing, ribbons

TITLES = ("supplier lots", "bags", "trays")


def thing(key, column, weight, **more):
    return Thing(key, column, D(weight), f"L{key}", f"{weight} lb", **more)


def test_boxes_are_as_tall_as_their_weight_and_bands_as_thick_as_what_moved():
    things = [thing("a", 0, 60), thing("b", 0, 40), thing("c", 2, 100, is_focus=True)]
    found = ribbons(TITLES, things, {("a", "c"): D(60), ("b", "c"): D(40)}, 600.0)
    a, b, c = found.boxes
    assert (a.height, b.height, c.height) == (TALL * 0.6, TALL * 0.4, TALL)
    assert [head for _, head in found.heads] == ["supplier lots", "trays"]
    ends = [
        float(y) for y in re.findall(r" [\d.]+,([\d.]+)V", " ".join(b.path for b in found.bands))
    ]
    assert ends == [TOP, TOP + TALL * 0.6]


def test_what_is_touched_is_no_lower_than_a_finger():
    things = [thing("a", 0, 100, link="/a/"), thing("b", 0, 1, link="/b/"), thing("c", 0, 1)]
    assert [box.height for box in ribbons(TITLES, things, {}, 600.0).boxes] == [
        round(TALL * 100 / 102, 1),
        FINGER,
        LOWEST,
    ]


def test_a_way_back_to_an_earlier_column_is_not_drawn():
    things = [thing("a", 0, 10), thing("b", 1, 10)]
    assert ribbons(TITLES, things, {("b", "a"): D(10)}, 600.0).bands == ()


def test_many_things_stand_together_in_one_box_and_none_is_lost():
    things = [thing(f"{at}", 0, at + 1, trays=1) for at in range(40)]
    boxes = ribbons(TITLES, [*things, thing("c", 1, 820)], {}, 600.0).boxes
    own = [box for box in boxes if box.x == 0]
    assert len(own) == MOST + 1
    assert sum(box.of for box in own) == 40
    assert sum(box.thing.weight for box in own) == 820
    assert own[-1].name == f"{40 - MOST} more"


@given(st.lists(st.tuples(st.integers(0, 2), st.integers(0, 5000)), min_size=1, max_size=30))
def test_no_box_lies_on_another_and_each_can_be_read(some):
    things = [thing(str(at), column, weight) for at, (column, weight) in enumerate(some)]
    found = ribbons(TITLES, things, {}, 700.0)
    for column in {box.x for box in found.boxes}:
        own = sorted((box.y, box.height) for box in found.boxes if box.x == column)
        assert all(height >= LOWEST for _, height in own)
        assert all(a[0] + a[1] < b[0] for a, b in pairwise(own))
    assert all(box.x + BOX <= found.width + 0.2 for box in found.boxes)
    assert all(box.y + box.height <= found.height for box in found.boxes)


def test_every_tray_has_a_square_where_there_is_room():
    big, small = thing("a", 0, 100, trays=12), thing("b", 0, 5, trays=12)
    boxes = ribbons(TITLES, [big, small], {}, 600.0).boxes
    assert [len(box.squares) for box in boxes] == [12, 0]
    assert all(box.y < y < box.y + box.height for box in boxes for _, y in box.squares)
