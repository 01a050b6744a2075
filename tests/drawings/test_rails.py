"""The drawings: to scale, nothing unnamed, nothing overlapping, at any number of outputs."""

from decimal import Decimal
from itertools import combinations, pairwise

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from cutting.quantities import Weight
from drawings import band, rails
from drawings.bar import BarPart
from drawings.lettering import text_width
from tests.cutting.build import weight

D = Decimal
FRAMES = {"wide": rails.WIDE, "phone": rails.NARROW, "bench": rails.BENCH}


def part(name, size, money=None):
    size = D(size)
    return BarPart(
        name,
        size,
        f"{size} · 12.3 %",
        "lean",
        None if money is None else D(money),
        "" if money is None else str(money),
        "12.99 / lb",
        short=str(size),
    )


@st.composite
def pieces(draw):
    """One to sixteen parts, some very thin, some of them sold."""
    sizes = draw(st.lists(st.integers(1, 4000), min_size=1, max_size=16))
    return [
        part(
            f"output number {i}"[: draw(st.integers(6, 17))] + str(i),
            D(size) / 100,
            draw(st.none() | st.integers(1, 300)),
        )
        for i, size in enumerate(sizes)
    ]


def spans(rail, size):
    """Every text outside the bar as (x, end, baseline)."""
    for line in rail.lines:
        wide = text_width(line.text, size)
        start = {"start": 0.0, "middle": wide / 2, "end": wide}[line.anchor]
        yield line.x - start, line.x - start + wide, line.y
    for entry in rail.key:
        yield entry.x, entry.text_x + text_width(entry.text, size), entry.y


def check(rail, frame):
    named = {i for i, box in enumerate(rail.boxes) if box.inside}
    texts = [line.text for line in rail.lines] + [entry.text for entry in rail.key]
    for i, box in enumerate(rail.boxes):
        assert i in named or any(box.name.split()[0] in text or "…" in text for text in texts)
    for (x, end, y), (other_x, other_end, other_y) in combinations(spans(rail, frame.size), 2):
        if y == other_y:
            assert end <= other_x + 0.2 or other_end <= x + 0.2
    for x, end, _ in spans(rail, frame.size):
        assert x >= -4.2
        assert end <= frame.width + 4.2
    for left, right in pairwise(rail.boxes):
        assert abs(left.x + left.width - right.x) <= 0.15
    for box in rail.boxes:
        if box.inside:
            assert max(text_width(t, frame.size) for t in box.lines) + 12 <= box.width


@settings(max_examples=80, deadline=None)
@given(pieces(), st.sampled_from(sorted(FRAMES)), st.decimals(D("0.5"), D(2), places=2))
def test_every_part_is_named_and_no_lettering_overlaps(parts, frame, paid_share):
    frame = FRAMES[frame]
    paid = sum(p.size for p in parts) * paid_share
    drawn = rails.pound_rail(parts, paid, "paid for", frame)
    check(drawn.rail, frame)
    assert (drawn.post is not None) == (sum(p.size for p in parts) > paid)
    both = rails.two_rails(parts, paid, D(90), ("cost 90.00", "gross profit 10.00 = 9.9 %"), frame)
    check(both.pounds, frame)
    if both.dollars:
        check(both.dollars, frame)
        assert all(0 <= words.x <= frame.width for words in both.cost_words)
        lowest = max(words.y for words in both.cost_words)
        assert all(entry.y > lowest for entry in both.dollars.key)
        assert both.height >= max([lowest, *(entry.y for entry in both.dollars.key)])
        assert len(both.ribbons) == sum(p.money is not None for p in parts)


def test_widths_are_to_scale_and_the_post_stands_at_the_cost():
    parts = [part("filet", "4", "80"), part("tips", "1", "20"), part("fat", "5")]
    drawn = rails.two_rails(parts, D(10), D(60), ("cost 60.00", "gross profit 40.00"))
    assert [box.width for box in drawn.pounds.boxes] == [352.0, 88.0, 440.0]
    assert [box.width for box in drawn.dollars.boxes] == [704.0, 176.0]
    assert drawn.cost_x == 528.0
    assert (drawn.loss, drawn.loss_width) == (False, 0.0)


def test_a_loss_leaves_an_open_end_up_to_the_cost():
    drawn = rails.two_rails([part("a", "8", "30")], D(8), D(40), ("cost 40", "loss 10"))
    assert drawn.loss
    assert drawn.cost_x == 880.0
    assert drawn.loss_width == 220.0


def test_without_prices_there_is_no_dollar_rail():
    drawn = rails.two_rails([part("a", "8")], D(8), D(40), ("cost 40", ""))
    assert (drawn.dollars, drawn.ribbons) == (None, ())


def test_a_gain_is_drawn_past_a_post_at_the_weight_paid_for():
    drawn = rails.pound_rail([part("a", "8.8")], D(8), "8 lb paid for")
    assert drawn.post == pytest.approx(1240 * 8 / 8.8, abs=0.1)


def test_leader_labels_do_not_cover_the_post():
    parts = [part("steak", "8", "50"), *(part(f"thin {i}", "0.1", "2") for i in range(4))]
    drawn = rails.two_rails(parts, D(9), D(55), ("cost", "profit"))
    for x, end, _ in spans(drawn.dollars, rails.WIDE.size):
        assert not x < drawn.cost_x < end or drawn.dollars.key


@pytest.mark.parametrize("paid", ["0.5", "6.17", "19.04", "100", "900"])
def test_ticks_are_round_and_stay_clear_of_the_words_at_the_end(paid):
    drawn = rails.pound_rail([part("a", paid)], D(paid), f"{paid} lb paid for")
    *ticks, end = drawn.ticks
    assert end.text == f"{paid} lb paid for"
    assert all(b.x - a.x >= 60 for a, b in pairwise(ticks))
    assert all(tick.x < 1240 - text_width(end.text, 13) for tick in ticks)


def test_portions_lie_on_the_strip_where_their_weight_is():
    taken = [
        weight("8.0 oz"),
        weight("8.5 oz"),
        weight("8.6 oz"),
        weight("20 oz"),
        weight("0.5 lb"),
    ]
    drawn = band.strip(taken, Weight(D(8), weight("8 oz").unit))
    assert [dot.within for dot in drawn.dots] == [True, True, False, False, True]
    assert drawn.dots[0].x == drawn.target_x == drawn.dots[4].x
    assert drawn.dots[0].y > drawn.dots[4].y  # stacked, not hidden
    assert drawn.dots[1].x == drawn.band_end
    assert drawn.dots[3].x == drawn.width - 9
    assert (drawn.low_text, drawn.high_text) == ("7.5", "8.5 oz")
