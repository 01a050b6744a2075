"""The seam that is moved: where it lies, where it may go, what is taken."""

from decimal import Decimal

import pytest
from hypothesis import given
from hypothesis import strategies as st

from cutting.errors import BadValue
from drawings.giving_seam import HEIGHT, WIDTH, Way, seam_picture

KINDS = ("layer", "pieces", "weight")
amounts = st.decimals(0, 20, places=3)


@given(st.sampled_from(KINDS), amounts, amounts)
def test_more_moved_takes_more_of_the_picture_and_never_leaves_it(kind, one, other):
    less, more = (
        seam_picture(kind, amount, most=Decimal(12), step=Decimal("0.5"))
        for amount in sorted((one, other))
    )
    x, y, width, height = less.taken
    assert 0 <= x <= x + width <= WIDTH
    assert 0 <= y <= y + height <= HEIGHT
    assert more.taken[2] * more.taken[3] >= width * height
    assert less.is_beyond is (min(one, other) > 12)


@given(st.sampled_from(KINDS), st.integers(1, 40), st.decimals(1, 4, places=2))
def test_stops_lie_in_order_and_a_seam_at_a_stop_lies_on_it(kind, steps, step):
    most = step * steps
    picture = seam_picture(kind, Decimal(0), most=most, step=step)
    places = [stop.at for stop in picture.stops]
    assert [stop.amount for stop in picture.stops] == [step * i for i in range(steps + 1)]
    assert places == sorted(places, reverse=picture.way is Way.UP)
    for stop in picture.stops:
        assert seam_picture(kind, stop.amount, most=most, step=step).at == stop.at


@pytest.mark.parametrize(
    ("kind", "amount", "most", "step", "says"),
    [
        ("moon", "1", "4", "1", "kind"),
        ("layer", "-1", "4", "1", "amount"),
        ("layer", "1", "4", "0", "step"),
        ("pieces", "1", "4", "5", "step"),
        ("pieces", "0", "0.5", "0.5", "most"),
    ],
)
def test_what_cannot_be_drawn_is_refused(kind, amount, most, step, says):
    with pytest.raises(BadValue, match=says):
        seam_picture(kind, Decimal(amount), most=Decimal(most), step=Decimal(step))


@pytest.mark.parametrize("taken", [0, 1, 7, 12])
def test_a_rack_is_cut_between_ribs_never_through_one(taken):
    picture = seam_picture("pieces", Decimal(taken), most=Decimal(12), step=Decimal(1))
    assert len(picture.bones) == 12
    left_of = 0
    for bone in picture.bones:
        across = [x for x, _ in sides_of(bone)]
        assert max(across) <= picture.at or min(across) >= picture.at
        left_of += max(across) <= picture.at
    assert left_of == taken


def sides_of(path):
    """Both sides of a slat: where it starts, and its width from there."""
    start = path[1:].split("a")[0].split()
    width = path.split("0 0 1 ")[1].split()[0]
    return [(float(start[0]), 0.0), (float(start[0]) + float(width), 0.0)]
