"""Plans that go on into plans of the pieces they give."""

from decimal import Decimal

import pytest
from hypothesis import given
from hypothesis import strategies as st

from cutting.errors import BadValue
from cutting.ways.chain import Given, carry_on, comes_back

D = Decimal
PLANS = {
    "quarter": [
        Given("Loin", D("0.5"), 1, "loin"),
        Given("Round", D("0.3"), 2),
        Given("Fat", D("0.2"), 3),
    ],
    "loin": [Given("Strip", D("0.6"), 4, "strip"), Given("Bones", D("0.3"), 5)],
    "strip": [Given("Steaks", D("0.75"), 6), Given("Fat", D("0.25"), 7)],
}


def test_a_chain_worked_by_hand():
    found = carry_on("quarter", PLANS)
    assert [(one.name, one.share, one.given.row) for one in found.outputs] == [
        ("Loin: Strip: Steaks", D("0.225"), 6),  # 0.5 x 0.6 x 0.75
        ("Loin: Strip: Fat", D("0.075"), 7),
        ("Loin: Bones", D("0.15"), 5),
        ("Round", D("0.3"), 2),
        ("Fat", D("0.2"), 3),
    ]
    assert found.cut == (("quarter", D(1)), ("loin", D("0.5")), ("strip", D("0.30")))


def test_a_plan_that_is_not_there_ends_at_the_whole_piece():
    found = carry_on("loin", {"loin": PLANS["loin"]})
    assert [one.name for one in found.outputs] == ["Strip", "Bones"]


@pytest.mark.parametrize(
    ("links", "circle"),
    [
        ({"a": ["b"], "b": ["c"], "c": []}, ()),
        ({"a": ["b"], "b": ["a"]}, ("a", "b", "a")),
        ({"a": ["a"]}, ("a", "a")),
        ({"a": ["b", "c"], "b": ["d"], "c": ["d"], "d": []}, ()),
        ({"x": ["a"], "a": ["b"], "b": ["c"], "c": ["a"]}, ("a", "b", "c", "a")),
        ({}, ()),
    ],
)
def test_a_way_that_comes_back_to_itself_is_found_and_refused(links, circle):
    assert comes_back(links) == circle
    plans = {
        key: [Given(one, D("0.4"), one, one) for one in others] for key, others in links.items()
    }
    for key in links:
        if circle:
            with pytest.raises(BadValue, match="comes back to itself"):
                carry_on(key, plans)
        else:
            assert carry_on(key, plans).cut[0] == (key, D(1))


@st.composite
def chains(draw):
    """Plans in a row, each going on only into later ones, shares of at most 1."""
    count = draw(st.integers(1, 5))
    plans = {}
    for number in range(count):
        many = draw(st.integers(1, 4))
        later = [f"{other}" for other in range(number + 1, count)]
        plans[f"{number}"] = [
            Given(
                f"{number}-{i}",
                D(draw(st.integers(0, 100 // many))) / 100,
                i,
                draw(st.sampled_from(["", *later])),
            )
            for i in range(many)
        ]
    return plans


@given(chains())
def test_no_weight_is_lost_or_made_on_the_way(plans):
    """What ends somewhere and what no plan names come to the whole of what is cut."""
    found = carry_on("0", plans)
    left = {key: 1 - sum(one.share for one in given) for key, given in plans.items()}
    ended = sum(one.share for one in found.outputs)
    unnamed = sum(share * left[key] for key, share in found.cut)
    assert ended + unnamed == 1
    assert len({one.name for one in found.outputs}) == len(found.outputs)
