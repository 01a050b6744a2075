"""What the case wants against what is due. Common practice, no published source."""

from decimal import Decimal

import pytest
from hypothesis import given
from hypothesis import strategies as st

from cutting.cooler.ageing import Urgency
from cutting.errors import BadValue
from cutting.planning.wanted import (
    BAR,
    Choice,
    DuePiece,
    Want,
    compare,
    due_weights,
    most_missing_first,
    want_bar,
)
from cutting.quantities import Unit, Weight
from wording.plan import wanted_words

D = Decimal
TENDERLOIN = DuePiece(
    "tenderloin",
    D("12"),
    [
        Choice("filets", {"filet": D("0.56"), "grind": D("0.15")}),
        Choice("roast", {"roast": D("0.70"), "grind": D("0.13")}),
    ],
)
CHUCK = DuePiece("chuck", D("20"), [Choice("roasts", {"grind": D("0.18")})])


def test_each_plan_is_named_and_the_usual_ones_are_added_up():
    filet, grind, roast, tip = compare(
        [
            Want("filet", "filet", D(4), D(6)),
            Want("grind", "grind", D(9), D(20)),
            Want("roast", "roast", D(2), D(4)),
            Want("tip", "tip", D(1), D(2)),
        ],
        [TENDERLOIN, CHUCK],
    )
    assert (filet.usual, filet.over, wanted_words(filet, "lb")) == (
        D("6.72"),
        D("0.72"),
        "0.7 lb over the most",
    )
    assert (grind.usual, grind.missing) == (D("5.40"), D("3.60"))
    assert [(g.piece, g.plan, g.weight) for g in grind.gives] == [
        ("tenderloin", "filets", D("1.80")),
        ("tenderloin", "roast", D("1.56")),
        ("chuck", "roasts", D("3.60")),
    ]
    assert (roast.usual, roast.missing, len(roast.gives)) == (0, 2, 1)  # only the other plan
    assert (wanted_words(tip, "lb"), tip.gives) == ("1.0 lb missing", ())
    assert compare([Want("filet", "filet", D(4), D(8))], [TENDERLOIN])[0].missing == 0


amounts = st.decimals(D(0), D(50), places=2)


@given(amounts, amounts, amounts, amounts)
def test_missing_and_over_are_never_both_and_close_the_gap(least, more, pounds, cut):
    due = [DuePiece("p", pounds, [Choice("c", {"x": D("0.5")})])]
    found = compare([Want("x", "x", least, least + more)], due, {"x": cut})[0]
    assert not (found.missing and found.over)
    assert least <= found.have + found.usual + found.missing - found.over <= least + more
    bar = want_bar(found)
    assert 0 <= bar.have <= bar.due <= BAR
    assert 0 <= bar.least <= bar.most <= BAR
    assert bar.runs_off == (float(found.have + found.usual) * 0.75 > least + more > 0)


def test_what_is_cut_counts_and_what_is_missing_stands_first():
    wants = [Want(key, key, D(8), D(12)) for key in ("filet", "grind", "tip")]
    filet, grind, tip = compare(wants, [TENDERLOIN], {"filet": D(4), "grind": D(1)})
    assert (filet.have, wanted_words(filet, "lb"), grind.missing) == (4, "enough", D("5.20"))
    assert most_missing_first([filet, grind, tip]) == [tip, grind, filet]
    bar = want_bar(filet)
    assert (bar.have, bar.due, bar.least, bar.most) == (75.0, 201.0, 150.0, 225.0)


def test_the_most_is_not_under_the_least():
    with pytest.raises(BadValue, match="most of x"):
        Want("x", "x", D(5), D(4))


def test_a_bag_past_its_end_gives_nothing_to_the_case():
    lb, kg = Weight.of("6", "lb"), Weight.of("4.5359237", "kg")
    bags = [(1, lb, Urgency.BEST), (1, kg, Urgency.NOW), (2, lb, Urgency.PAST)]
    assert due_weights(bags, Unit.LB) == {1: D(16)}
