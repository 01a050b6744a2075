"""Lots however they are written, tubs as they mix, meat on its way."""

from decimal import Decimal as D

import pytest
from hypothesis import given
from hypothesis import strategies as st

from cutting.errors import BadValue
from cutting.quantities import working
from cutting.tracing.flow import Kind, Link, back, flow
from cutting.tracing.lots import lot_key
from cutting.tracing.mixing import Move, mixed

GRAMS = st.integers(1, 50_000).map(D)


@pytest.mark.parametrize(
    ("one", "other", "same"),
    [
        ("L9427", "L-9427", True),
        ("L9427", " l 94 27 ", True),
        ("L9427", "Ｌ９４２７", True),
        ("Straße 7", "STRASSE-7", True),
        ("Партия 12", "партия-12", True),
        ("٣٤", "٣-٤", True),
        ("L9427", "L9428", False),
        ("LO42", "L042", False),
        ("ﷺ" * 9, "ﷺ" * 8, True),  # each is eighteen letters: the first sixty tell
        ("--", "**", False),
        ("", "-", False),
    ],
)
def test_a_lot_is_one_lot_however_it_is_written(one, other, same):
    assert (lot_key(one) == lot_key(other)) is same


@given(st.text(max_size=20))
def test_the_key_of_a_key_is_itself(text):
    assert lot_key(lot_key(text)) == lot_key(text)


def test_a_tub_gives_of_each_by_what_is_left_of_it():
    moves = [Move("a", D(6)), Move("b", D(2)), Move("out", D(4), is_out=True), Move("c", D(4))]
    found = mixed([*moves, Move("rest", D(8), is_out=True)])
    assert found.parts["out"] == {"a": D(3), "b": D(1)}
    assert found.parts["rest"] == {"a": D(3), "b": D(1), "c": D(4)}
    assert set(found.left.values()) == {D(0)}


def test_what_lay_in_an_emptied_tub_counts_with_nothing():
    """It was not washed: it cannot be told apart, and is found."""
    moves = [Move("a", D(6)), Move("x", D(6), is_out=True), Move("b", D(2))]
    assert mixed([*moves, Move("y", D(2), is_out=True)]).parts["y"] == {"a": D(0), "b": D(2)}


@given(st.lists(st.tuples(GRAMS, st.booleans()), min_size=1, max_size=30))
def test_a_tub_loses_no_gram(some):
    moves = [Move(at, weight, is_out) for at, (weight, is_out) in enumerate(some)]
    found, inside = mixed(moves), D(0)
    for move in moves:
        if not move.is_out:
            inside += move.weight
            continue
        taken = min(move.weight, inside)
        with working():
            parts = sum(found.parts[move.key].values(), D(0))
        assert abs(parts - taken) < D("1e-25")
        assert all(part >= 0 for part in found.parts[move.key].values())
        inside -= taken
    assert abs(sum(found.left.values(), D(0)) - inside) < D("1e-20")


def lot(name):
    return (Kind.LOT, name)


@st.composite
def ways(draw):
    """Things with weights, each handing on no more than it weighs, to later ones alone."""
    many = draw(st.integers(2, 9))
    weights, links = {lot("0"): draw(GRAMS)}, []
    for at in range(1, many):
        weights[lot(str(at))] = D(0)
    for at in range(many - 1):
        left = weights[lot(str(at))]
        for to in draw(st.lists(st.integers(at + 1, many - 1), unique=True, max_size=3)):
            part = D(draw(st.integers(0, int(left))))
            left -= part
            weights[lot(str(to))] += part
            links.append(Link(lot(str(at)), lot(str(to)), part))
    for at in range(1, many):  # what is of something else
        weights[lot(str(at))] += D(draw(st.integers(0, 1000)))
    return weights, links


@given(ways())
def test_what_a_thing_weighs_is_found_again_to_the_gram(way):
    weights, links = way
    found = flow(links, weights, lot("0"))
    assert abs(sum(found.rest.values(), D(0)) - weights[lot("0")]) < D("1e-15")
    assert all(part >= 0 for part in found.in_it.values())
    assert all(part <= weights[node] for node, part in found.in_it.items())


@given(ways())
def test_forwards_and_back_are_one_relation(way):
    weights, links = way
    turned = back(links)
    for node in weights:
        for other in flow(links, weights, node).in_it:
            assert node in flow(turned, weights, other).in_it


@given(ways())
def test_how_much_of_one_is_in_the_other_is_the_same_seen_from_both(way):
    """Of the meat of `other`, by what its sources hold: the same share of the same meat."""
    weights, links = way
    start = lot("0")
    forward = flow(links, weights, start)
    with working():
        for other, part in forward.in_it.items():
            assert abs(flow(back(links), weights, other).in_it.get(start, D(0)) - part) < D("1e-15")


def test_more_out_than_in_is_shown_as_it_is():
    found = flow([Link(lot("a"), lot("b"), D(12))], {lot("a"): D(10), lot("b"): D(12)}, lot("a"))
    assert found.rest[lot("a")] == D(-2)
    assert found.in_it[lot("b")] == D(12)


def test_a_thing_of_no_weight_leads_on_all_the_same():
    links = [Link(lot("a"), lot("b"), D(0)), Link(lot("b"), lot("c"), D(3))]
    assert lot("c") in flow(links, {lot("a"): D(5), lot("b"): D(0)}, lot("a")).in_it


def test_a_way_that_comes_back_is_refused():
    links = [Link(lot("a"), lot("b"), D(1)), Link(lot("b"), lot("a"), D(1))]
    with pytest.raises(BadValue, match="does not come back"):
        flow(links, {lot("a"): D(1), lot("b"): D(1)}, lot("a"))
