"""Shapes: volumes against scipy, densities, scaling; tapes and small sums."""

from decimal import Decimal
from fractions import Fraction
from itertools import pairwise

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy import integrate

from cutting.errors import BadValue
from cutting.layout.marks import inch_words, mm_words
from cutting.layout.profile import PI, Profile, Section, Station, reversed_profile
from cutting.layout.small import circumference, skewers, slices_of, ties
from cutting.layout.solver import Grid, lay_out
from cutting.layout.ways import count_for, equal_thickness, equal_weight, is_right
from cutting.quantities import Weight
from drawings.side_view import side_view
from tests.cutting.layout.test_solver import ribeye

D = Decimal
SHAPE = [(0, 120, 60), (130, 150, 88), (310, 140, 79), (401, 90, 40)]


def shape(section=Section.ELLIPSE):
    return Profile(section, tuple(Station(D(a), D(w), D(h)) for a, w, h in SHAPE))


@pytest.mark.parametrize("section", [Section.ELLIPSE, Section.HALF_ELLIPSE, Section.BOX])
@pytest.mark.parametrize("at", ["1", "129.5", "130", "250", "401"])
def test_the_volume_up_to_a_place_is_what_scipy_integrates(section, at):
    """Reference library: scipy.integrate.quad, stretch by stretch."""
    profile = shape(section)

    def face(x):
        width, height = profile.size_at(D(repr(x)))
        return float(width * height)

    knots = [float(a) for a, *_ in SHAPE if a < float(at)]
    want = sum(
        integrate.quad(face, one, other)[0]
        for one, other in zip(knots, [*knots[1:], float(at)], strict=True)
    )
    assert float(profile.before(Fraction(at))) == pytest.approx(want, rel=1e-9)


@given(st.sampled_from(["1", "2.5", "0.79375"]))
def test_the_grid_is_the_volume_at_every_place(step):
    task = ribeye(step=D(step))
    cumulative, scale = task.profile.grid(task.step, task.places)
    for place in (0, 1, 7, task.last // 2, task.last):
        assert Fraction(cumulative[place], scale) == task.profile.before(Fraction(task.at(place)))


def test_a_ball_of_known_density_says_so_and_areas_are_circles():
    """A cylinder of 10 cm² and 20 cm that weighs 212 g is lean meat of 1.06 g/cm³."""
    stations = (Station(D(0), area=D(1000)), Station(D(200), area=D(1000)))
    rod = Profile(Section.AREA, stations)
    assert rod.density(D(212)) == D("1.06")
    width, height = rod.size_at(D(50))
    assert width == height
    assert abs(width * height * PI / 4 - 1000) < D("1e-20")


def test_scaling_and_turning_keep_what_they_should():
    profile = shape()
    longer = profile.scaled(D(802), D(2))
    assert abs(longer.whole - 8 * profile.whole) < Fraction(1, 10**9)
    assert reversed_profile(reversed_profile(profile)) == profile
    assert reversed_profile(profile).whole == profile.whole


@pytest.mark.parametrize(
    ("mm", "words"),
    [
        ("0", "0"),
        ("17.4625", "11/16"),
        ("34.925", "1 3/8"),
        ("50.8", "2"),
        ("25", "1"),
        ("24", "15/16"),
    ],
)
def test_a_tape_is_read_to_the_nearest_sixteenth(mm, words):
    assert inch_words(D(mm)) == words


def test_millimetres_are_whole():
    assert (mm_words(D("12.5")), mm_words(D("12.4"))) == ("13", "12")


@settings(max_examples=23)
@given(st.integers(2, 24))
def test_two_schools_sum_to_the_piece_and_are_as_even_as_the_grid_allows(count):
    task = ribeye(near=D(6))
    heavy, thick = equal_weight(task, count), equal_thickness(task, count)
    grid = Grid(task)
    one_step = max(grid.weight(i, i + 1) for i in range(grid.last))
    weights = [part.weight for part in heavy.slices]
    sizes = [part.end - part.start for part in thick.slices]
    assert len(weights) == len(sizes) == count
    assert max(weights) - min(weights) <= 2 * one_step
    assert max(sizes) - min(sizes) <= 1
    for layout in (heavy, thick):
        assert sum(part.weight for part in layout.parts) == 14


def test_the_money_first_layout_brings_at_least_what_the_schools_do():
    task = ribeye(near=D(6))
    best = lay_out(task)
    count = count_for(task, Fraction(9, 10))
    for layout in (equal_weight(task, count), equal_thickness(task, count)):
        sold = sum(part.value for part in layout.slices if is_right(task, part))
        assert best.money >= sold


def test_the_side_view_is_to_scale_and_every_cut_stands_on_its_place():
    layout = lay_out(ribeye())
    view = side_view(layout, is_metric=True)
    for cut, place in zip(view.cuts, layout.marks, strict=True):
        assert cut.x == pytest.approx(view.left + place * view.scale, abs=0.01)
    assert sum(one.width for one in view.slices) == pytest.approx(400 * view.scale, abs=0.2)
    assert all(one.y_label < one_cut.top for one in view.slices for one_cut in view.cuts)
    assert view.ticks[-1].x == pytest.approx(view.left + 400 * view.scale, abs=0.1)


def test_no_thickness_runs_into_the_one_before_it_on_its_row():
    """Forty slices of 10 mm: a label in two rows for each would be 46 px on 23."""
    view = side_view(equal_thickness(ribeye(), 40), is_metric=True)
    shown = [one for one in view.slices if one.is_labelled]
    assert 10 < len(shown) < len(view.slices)
    for row in {one.y_label for one in shown}:
        at = [one.centre for one in shown if one.y_label == row]
        assert all(after - before >= 46 for before, after in pairwise(at))


def test_skewers_strings_and_slices():
    """An inch cube of lean meat weighs 17.4 g; five on a skewer are 87 g: ten from two pounds."""
    found = skewers(Weight.of("2", "lb"), D("25.4"), 5)
    assert (round(found.cube, 1), found.many, round(found.left)) == (D("17.4"), 10, 39)
    tied = ties(Weight.of("4", "lb"), D(230), circumference(D(100), D(100)), apart=D(25))
    assert (tied.many, tied.apart, tied.servings) == (10, D(23), 8)
    assert round(tied.string) == round(PI * 100) + 100
    assert slices_of(D(300), D(7)) == (42, D(6))


@pytest.mark.parametrize(
    ("sum_", "says"),
    [
        (lambda: skewers(Weight.of("1", "lb"), D(1), 5), "5 to 100 mm"),
        (lambda: skewers(Weight.of("1", "lb"), D(25), 0), "1 to 20"),
        (lambda: ties(Weight.of("1", "lb"), D(0), D(1)), "more than 0"),
        (lambda: ties(Weight.of("1", "lb"), D(10), D(1)), "at most the joint's"),
        (lambda: slices_of(D(5), D(6)), "at most 5 mm"),
    ],
)
def test_sums_that_cannot_be_say_why(sum_, says):
    with pytest.raises(BadValue, match=says):
        sum_()
