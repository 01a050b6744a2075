"""Jobs onto lanes: each once, none at the same time, a washed board between species."""

from decimal import Decimal
from itertools import pairwise

import pytest
from hypothesis import given
from hypothesis import strategies as st

from cutting.errors import BadValue
from cutting.planning.hands import WASH
from cutting.planning.lanes import Job, Losses, in_order, lanes
from drawings.day_view import case_bar, lanes_view

D = Decimal
jobs = st.lists(
    st.builds(
        lambda species, minutes, sawn, must: (species, D(minutes), sawn, must),
        st.sampled_from(["beef", "pork", "lamb"]),
        st.integers(1, 90),
        st.booleans(),
        st.booleans(),
    ),
    max_size=12,
).map(lambda rows: [Job(f"j{i}", *row) for i, row in enumerate(rows)])


@given(jobs, st.integers(1, 4))
def test_every_job_stands_once_and_never_beside_another_on_its_lane(some, hands):
    found = lanes(some, hands)
    assert len(found) == hands
    assert sorted(p.job.key for lane in found for p in lane) == sorted(job.key for job in some)
    for lane in found:
        for one, other in pairwise(lane):
            gap = other.start - one.end
            assert gap == (WASH if one.job.species != other.job.species else 0)
            assert ("board" in other.before) == (one.job.species != other.job.species)
        species = [p.job.species for p in lane]
        assert len([a for a, b in pairwise(species) if a != b]) == max(len(set(species)) - 1, 0)


@given(jobs, st.integers(1, 3))
def test_saw_work_lies_on_one_lane(some, hands):
    found = lanes(some, hands)
    assert sum(any(p.job.is_sawn for p in lane) for lane in found) <= 1


rows = st.lists(
    st.lists(
        st.builds(
            lambda species, minutes, sawn, waits: (species, D(minutes), sawn, False, waits),
            st.sampled_from(["beef", "pork"]),
            st.integers(1, 60),
            st.booleans(),
            st.booleans(),
        ),
        max_size=5,
    ),
    min_size=1,
    max_size=3,
)


@given(rows, st.integers(0, 50), st.booleans())
def test_firmed_meat_waits_the_saw_is_set_up_once_and_the_grinder_is_last(some, wait, grinds):
    own = [[Job(f"{i}.{j}", *row) for j, row in enumerate(lane)] for i, lane in enumerate(some)]
    if grinds:
        own[0].append(Job("grinder", "", D(20), is_last=True))
    found = in_order(own, Losses(D(6), D(8), D(wait)))
    cut = max((p.end for lane in found for p in lane if not p.job.is_last), default=D(0))
    sawn = [(p.start, p.end) for lane in found for p in lane if p.job.is_sawn]
    assert sum("saw" in p.before for lane in found for p in lane) == bool(sawn)
    assert all(end <= start for (_, end), (start, _) in pairwise(sorted(sawn)))
    for lane in found:
        for placed in lane:
            assert placed.end - placed.start == placed.job.minutes
            assert not placed.job.waits or placed.start >= wait
            assert not placed.job.is_last or placed.start >= cut
        for one, other in pairwise(lane):
            washes = ("board" in other.before) + ("saw wash" in other.before)
            gap = other.start - one.end - 6 * washes - 8 * ("saw" in other.before)
            waits = {"firming", "saw in use"} & set(other.before)
            assert gap == 0 or (gap > 0 and waits) or other.job.is_last


def test_no_hands_are_refused():
    with pytest.raises(BadValue, match="1 to 6"):
        lanes([], 0)


def test_boxes_are_as_wide_as_their_minutes_and_bars_as_long_as_their_weight():
    placed = lanes([Job("a", "beef", D(30)), Job("b", "pork", D(60))], 1)
    view = lanes_view(placed, {"a": [("lean", D(1)), ("fat", D(3))]}, 360)
    first, second = view.rows[0]
    assert {box.key: box.width for box in view.rows[0]}["b"] == pytest.approx(
        2 * {box.key: box.width for box in view.rows[0]}["a"], abs=0.2
    )
    assert second.lost is not None
    assert second.before == "board"
    assert [words for _, words in view.hours][:2] == ["6:00", "6:30"]
    parts = next(box for box in view.rows[0] if box.key == "a").stretches
    assert parts[1].width == pytest.approx(3 * parts[0].width, abs=0.2)
    bar = case_bar(D(2), D(4), D(3), D(8))
    assert bar.made == 2 * bar.have
    assert bar.have < bar.least < bar.most
    assert case_bar(D(1), D(1), D(0), None).most is None
    assert first.minutes.endswith(" min")
