"""What the case wants against what is due. Common practice, no published source."""

from decimal import Decimal

import pytest
from hypothesis import given
from hypothesis import strategies as st

from cutting.errors import BadValue
from cutting.wanted import Choice, DuePiece, Want, compare

D = Decimal
TENDERLOIN = DuePiece("tenderloin", D("12"), [
    Choice("filets", {"filet": D("0.56"), "grind": D("0.15")}),
    Choice("roast", {"roast": D("0.70"), "grind": D("0.13")}),
])  # fmt: skip
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
    assert (filet.usual, filet.over, filet.words) == (D("6.72"), D("0.72"), "0.7 lb over the most")
    assert (grind.usual, grind.missing) == (D("5.40"), D("3.60"))
    assert [(g.piece, g.plan, g.pounds) for g in grind.gives] == [
        ("tenderloin", "filets", D("1.80")), ("tenderloin", "roast", D("1.56")),
        ("chuck", "roasts", D("3.60")),
    ]  # fmt: skip
    assert (roast.usual, roast.missing, len(roast.gives)) == (0, 2, 1)  # only the other plan
    assert (tip.words, tip.gives) == ("1.0 lb missing", ())
    assert compare([Want("filet", "filet", D(4), D(8))], [TENDERLOIN])[0].words == "enough"


amounts = st.decimals(D(0), D(50), places=2)


@given(amounts, amounts, amounts)
def test_missing_and_over_are_never_both_and_close_the_gap(least, more, pounds):
    due = [DuePiece("p", pounds, [Choice("c", {"x": D("0.5")})])]
    found = compare([Want("x", "x", least, least + more)], due)[0]
    assert not (found.missing and found.over)
    assert least <= found.usual + found.missing - found.over <= least + more


def test_the_most_is_not_under_the_least():
    with pytest.raises(BadValue, match="most of x"):
        Want("x", "x", D(5), D(4))
