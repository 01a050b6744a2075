"""What of a drawing cannot be."""

import pytest

from cutting.errors import BadValue
from drawings.agreeing import drawing_faults
from drawings.seams import Drawing, Kind, LineKind, Region, SeamLine

UPPER = Region(
    "upper", Kind.MUSCLE, ("0,0! 200,0! 200,90! 0,90!",), muscle="longissimus-thoracis", grain="0"
)
LOWER = Region(
    "lower", Kind.MUSCLE, ("0,110! 200,110! 200,200! 0,200!",), muscle="spinalis", grain="60"
)
TURNING = Region(
    "turning", Kind.MUSCLE, ("0,110! 200,110! 200,200! 0,200!",), muscle="spinalis", grain="-30>30"
)
RIB = Region("ribs", Kind.BONE, ("90,20! 110,20! 110,80! 90,80!",))


def fault_of(line, *regions):
    found = drawing_faults(Drawing("piece", "from above", 200, 200, regions, (line,)))
    return found[0] if found else ""


@pytest.mark.parametrize(
    ("kind", "points", "of", "says"),
    [
        (LineKind.CUT, "50,-10 50,100", ("upper",), ""),
        (LineKind.CUT, "50,-10 80,100", ("upper",), ""),  # 75 degrees
        (LineKind.CUT, "10,-10 80,80", ("upper",), "line crosses upper at 52°"),
        (LineKind.CUT, "0,40 200,42", ("upper",), "line, a cut, crosses ribs"),
        (LineKind.CUT, "50,110 50,200", ("lower",), "line crosses lower at 30°"),
        (LineKind.CUT, "190,120 60,195", ("lower",), ""),  # 150 against 60 degrees
        (LineKind.CUT, "50,210 50,300", ("lower",), "line does not cross lower"),
        (LineKind.CUT, "50,-10 50,100", ("cap",), "line names cap, which is not drawn"),
        (LineKind.CUT, "100,0 100,90", (), "line, a cut, crosses ribs"),
        (LineKind.SCRAPE, "100,0 100,90", (), ""),
        (LineKind.SAW, "100,0 100,90", (), ""),
        (LineKind.SAW, "50,0 50,90", (), "line is sawn and meets no bone"),
        (LineKind.SEAM, "0,100 200,100", ("upper", "lower"), ""),
        (LineKind.SEAM, "0,100 200,100", ("upper", "ribs/lower"), ""),
        (LineKind.SEAM, "0,150 200,150", ("upper", "lower"), "line lies away from upper"),
        (LineKind.SEAM, "0,100 200,100", (), "says not which two"),
        (LineKind.SEAM, "0,40 80,42", ("upper", "lower"), "runs through upper"),
    ],
)
def test_a_line_keeps_to_bones_fibers_and_seams(kind, points, of, says):
    told = fault_of(SeamLine("line", kind, points, of=of), UPPER, LOWER, RIB)
    assert says in told
    assert bool(says) == bool(told)


def test_a_cut_across_fibers_that_turn_is_across_where_they_lie():
    straight = SeamLine("line", LineKind.CUT, "100,110 100,200", of=("turning",))
    assert fault_of(straight, TURNING) == ""
    assert "at 114°" in fault_of(
        SeamLine("line", LineKind.CUT, "20,110 20,200", of=("turning",)), TURNING
    )


def test_a_line_said_to_be_between_ribs_touches_none():
    line = SeamLine("line", LineKind.SAW, "100,0 100,90", "between 2nd and 3rd rib")
    assert "between ribs" in fault_of(line, UPPER, RIB)


@pytest.mark.parametrize(("grain", "is_right"), [("80", False), ("80;4", True), ("80;80", False)])
def test_two_views_have_two_grains(grain, is_right):
    eye = Region(
        "eye",
        Kind.MUSCLE,
        ("0,0! 80,0! 80,80! 0,80!", "120,0! 200,0! 200,80! 120,80!"),
        muscle="longissimus-thoracis",
        grain=grain,
    )
    views = ((0, 100, 0, 100), (100, 200, 0, 100))
    found = drawing_faults(Drawing("piece", "two", 200, 100, (eye,), views=views))
    assert found == ([] if is_right else ["eye has one grain in 2 views"])


def test_as_many_grains_as_outlines():
    with pytest.raises(BadValue, match="2 grains"):
        Region("eye", Kind.MUSCLE, ("0,0 9,0 9,9",), muscle="spinalis", grain="0;90")
