"""What is kept beside a test reads back the same; the ways one product may be cut; what is said."""

import json
from dataclasses import replace
from decimal import Decimal
from fractions import Fraction

import pytest
from hypothesis import given, settings

from cutting.errors import BadValue
from cutting.layout.follow import Asked, Told, asked_for, follow
from cutting.layout.kept import asked_of, plain_asked, plain_task, task_of
from cutting.layout.parting import kinds
from cutting.layout.task import Slice
from cutting.quantities import Unit, UnitPrice
from tests.cutting.layout.test_follow import cut, piece
from tests.cutting.layout.test_solver import grade, ribeye, tasks
from wording.layout import Planned, change_words, kinds_words, portion_words, thick_words

D = Decimal


@settings(max_examples=40, deadline=None)
@given(tasks)
def test_a_task_is_kept_as_text_and_read_back_the_same(task):
    assert task_of(json.loads(json.dumps(plain_task(task)))) == task
    boned = replace(task, bone_cuts=(D(2), D("3.5")))
    assert task_of(json.loads(json.dumps(plain_task(boned)))) == boned


def test_what_was_asked_is_kept_exactly():
    asked = Asked("steak", D("18.25625"), D("0.5"), Fraction(1, 3), 2, D("0.1"), continues=True)
    assert asked_of(json.loads(json.dumps(plain_asked(asked)))) == asked


def steak(**more):
    price = {"price": UnitPrice.of("12", "lb")}
    return Slice("steak", thinnest=D(18), thickest=D(26), **price | more)


@pytest.mark.parametrize(
    ("across", "strip", "opens", "gives"),
    [
        ([1], "0", False, [(1, "0", 18)]),
        ([1, 2], "0", False, [(1, "0", 18), (2, "0", 18)]),
        ([3], "0", False, [(3, "0", 18)]),
        ([3], "30", False, [(3, "0.1", 18)]),
        ([3], "100", False, [(2, None, 18)]),
        ([1], "0", True, [(1, "0", 18), (1, "0", 36)]),
    ],
)
def test_a_product_is_cut_whole_parted_or_butterflied(across, strip, opens, gives):
    """Common practice, no published source: the middle strip of thirds carries the heavy tendon."""
    found = kinds(steak(), across, strip_lost=D(strip), opens=opens)
    assert [(one.across, one.thinnest) for one in found] == [(n, D(t)) for n, _, t in gives]
    for one, (_, lost, _) in zip(found, gives, strict=True):
        assert lost is None or one.lost == D(lost)
    if strip == "100":
        assert found[0].kept == pytest.approx(Fraction(1, 3), abs=1e-12)
    with pytest.raises(BadValue, match="Middle strip"):
        kinds(steak(), [3], strip_lost=D(101), opens=False)


def test_how_slices_are_cut_is_said():
    whole, half, opened = (
        *kinds(steak(), [1, 2], opens=False),
        kinds(steak(), [1], opens=True)[1],
    )
    lost = kinds(steak(), [3], strip_lost=D(100), opens=False)[0]
    assert kinds_words([(whole, 4)]) == ""
    assert kinds_words([(half, 1), (opened, 2)]) == "1 slice halved; 2 butterflied"
    assert kinds_words([(lost, 3)]) == "3 slices halved, the middle strip lost"
    assert thick_words(D("17.4625"), is_metric=False) == "11/16 in"
    assert thick_words(D("17.4625"), is_metric=True) == "17 mm"
    assert portion_words(Fraction(1, 2), Unit.LB, is_metric=False) == "8.0 oz"


def said(by, planned=None, **how):
    task = piece()
    told = cut(task, len(by), by, **how)
    return change_words(follow(task, told, **how), planned, is_metric=False)


def test_the_last_weighings_are_told_in_one_sentence():
    assert said([]) == ""
    right = said(["1", "1"], Planned(D(20), 14))
    assert right.startswith("The first 2 came out as laid out.")
    heavy = said(["1.05"] * 4)
    assert "The first 4 came out 0." in heavy
    assert "oz heavy: here the piece weighs more for its length than its shape says." in heavy
    light = said(["0.94"] * 4)
    assert "light: here the piece weighs less" in light
    slip = said(["1", "1", "1", "1.35"])
    assert "taken as a slip of the knife, the shape stays." in slip
    stands = follow(piece(), cut(piece(), 4, ["1.05"] * 4))
    thick, many = stands.next[0].thick, len(stands.next)
    told = change_words(stands, Planned(thick + 3, many), is_metric=False)
    assert "The marks that follow move closer: the next is" in told
    assert "instead of" in told
    same = change_words(stands, Planned(thick, many + 1), is_metric=False)
    assert f", {many} more instead of {many + 1}." in same
    other = change_words(follow(piece(), (Told(Fraction(1), "roast"),)), None, is_metric=False)
    assert other == "Not what was asked for: its weight is taken off, the shape stays."
    gone = follow(piece(), (*cut(piece(), 1), Told(Fraction(15), "roast")))
    assert "Nothing more fits." in change_words(gone, None, is_metric=False)


def test_several_portions_together_were_asked_for_together():
    coming = follow(piece(), ()).next
    two = asked_for(coming, "steak", 2)
    assert two.thick == coming[0].thick + coming[1].thick
    assert two.of == 2
    assert asked_for(coming, "roast", 1) is None
    assert asked_for(coming, "steak", 99) is None
    halved = follow(ribeye(products=(grade(across=2),)), ()).next
    assert asked_for(halved, "steak", 2) == halved[0]
    assert asked_for(halved[1:], "steak", 1) == halved[1]
    assert asked_for(halved[1:], "steak", 2) is None
    assert asked_for(halved, "steak", 4).of == 4
