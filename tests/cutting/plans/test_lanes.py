"""Jobs onto lanes: each once, none at the same time, a washed board between species."""

from decimal import Decimal
from itertools import pairwise

import pytest
from hypothesis import given
from hypothesis import strategies as st

from cutting.drawing.day_view import case_bar, lanes_view
from cutting.errors import BadValue
from cutting.plans.lanes import WASH, Job, lanes

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
            assert other.is_washed == (one.job.species != other.job.species)
        species = [p.job.species for p in lane]
        assert len([a for a, b in pairwise(species) if a != b]) == max(len(set(species)) - 1, 0)


@given(jobs, st.integers(1, 3))
def test_saw_work_lies_on_one_lane(some, hands):
    found = lanes(some, hands)
    assert sum(any(p.job.is_sawn for p in lane) for lane in found) <= 1


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
    assert second.wash is not None
    assert [words for _, words in view.hours][:2] == ["6:00", "6:30"]
    parts = next(box for box in view.rows[0] if box.key == "a").stretches
    assert parts[1].width == pytest.approx(3 * parts[0].width, abs=0.2)
    bar = case_bar(D(2), D(4), D(3), D(8))
    assert bar.made == 2 * bar.have
    assert bar.have < bar.least < bar.most
    assert case_bar(D(1), D(1), D(0), None).most is None
    assert first.minutes.endswith(" min")
