"""At the block: the rest solved again from what was weighed."""

from decimal import Decimal
from fractions import Fraction

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy import optimize

from cutting.layout.aims import Aim, lay_out_for
from cutting.layout.follow import (
    HUBER,
    KNIFE,
    USUAL_SCALE,
    USUAL_TILT,
    Seen,
    Told,
    centre_of,
    follow,
    robust_fit,
)
from cutting.layout.task import NOTCH, Zone
from cutting.quantities import UnitPrice, Weight
from tests.cutting.layout.test_solver import SHORT, grade, ribeye

D = Decimal


def piece(**more):
    band = {"lightest": Weight.of("13", "oz"), "heaviest": Weight.of("15", "oz")}
    more.setdefault("products", (grade(thin=13, thick=40, **band), grade("roast", 60, 90, "9")))
    return ribeye(near=D(6), rest=UnitPrice.of("3", "lb"), **more)


def cut(task, many, by=(), **how):
    """So many portions cut as asked; `by`: how heavy each comes out, 1 where nothing is said."""
    told = ()
    for number in range(many):
        asked = follow(task, told, **how).next[0]
        factor = Fraction(by[number]) if number < len(by) else 1
        told = (*told, Told(asked.expected * factor, asked.name, asked=asked))
    return told


@pytest.mark.long
@settings(max_examples=10, deadline=None, phases=SHORT)
@given(
    st.sampled_from([D(0), D(3)]),
    st.integers(1, 9),
    st.booleans(),
    st.sampled_from([Aim.MONEY, Aim.GIVE_AWAY]),
    st.booleans(),
)
def test_portions_that_weigh_what_was_asked_change_nothing(kerf, many, is_measured, aim, notched):
    zones = (Zone("vein", D(100), D(140), NOTCH, D("0.1")),) if notched else ()
    task = piece(kerf=kerf, zones=zones)
    layout = lay_out_for(task, aim)
    many = min(many, len(layout.slices))
    stands = follow(task, cut(task, many, aim=aim), aim=aim, is_measured=is_measured)
    behind = layout.slices[many - 1]
    assert stands.fit.scale == 1
    assert stands.fit.tilt == 0
    rest = [p for p in layout.parts if p.start > behind.start]
    assert list(stands.layout.parts if stands.layout else ()) == rest
    assert not stands.is_slip


seen = st.builds(Seen, st.floats(0.02, 0.98), st.floats(0.7, 1.4), st.sampled_from([1, 1, 1, 3]))


@settings(max_examples=25, deadline=None, phases=SHORT)
@given(st.lists(seen, min_size=1, max_size=12), st.booleans())
def test_the_fit_is_what_scipy_finds_for_the_same_loss(rows, is_measured):
    """Reference library: scipy.optimize.minimize on Huber's loss with the same prior."""

    def loss(theta):
        scale, tilt = (0, theta[0]) if is_measured else theta
        total = (scale / USUAL_SCALE) ** 2 / 2 + (tilt / USUAL_TILT) ** 2 / 2
        for one in rows:
            sigma = KNIFE / one.portions**0.5
            off = abs(one.ratio - 1 - scale - tilt * (one.share - 0.5)) / sigma
            total += off**2 / 2 if off <= HUBER else HUBER * off - HUBER**2 / 2
        return total

    start = [0] if is_measured else [0, 0]
    best = optimize.minimize(
        loss, start, method="Nelder-Mead", options={"xatol": 1e-7, "fatol": 1e-10}
    )
    found = robust_fit(rows, 0.5, is_measured=is_measured)
    own = [float(found.tilt)] if is_measured else [float(found.scale) - 1, float(found.tilt)]
    assert loss(own) <= best.fun + 1e-4 * max(1, best.fun)


def test_a_piece_that_is_heavier_for_its_length_gets_thinner_slices_and_is_shorter():
    task = piece()
    before, stands = follow(task, ()), follow(task, cut(task, 4, ["1.06"] * 4))
    assert stands.fit.scale > D("1.02")
    assert stands.task.profile.length < task.profile.length
    at = task.at(stands.place)
    planned = next(a for a in before.layout.slices if task.at(a.end) > at)
    assert stands.next[0].thick < task.at(planned.end) - task.at(planned.start)
    assert stands.heavy > 0


def test_a_measured_piece_that_is_heavy_at_one_end_is_light_at_the_other():
    task = piece()
    stands = follow(task, cut(task, 4, ["1.06"] * 4, is_measured=True), is_measured=True)
    assert stands.task.profile.length == task.profile.length
    assert stands.fit.tilt < 0
    near, far = (stands.fit.here(share, centre_of(task.profile)) for share in (0.05, 0.95))
    assert near > 1 > far


def test_one_slip_of_the_knife_does_not_bend_everything_and_moves_the_marks_by_itself():
    task = piece()
    slipped = follow(task, cut(task, 4, [1, 1, 1, "1.4"]))
    steady = follow(task, cut(task, 4))
    assert slipped.is_slip
    assert abs(slipped.fit.here(0.5, 0.5) - 1) < 0.03
    assert slipped.knife > steady.knife
    assert abs(slipped.next[0].thick - steady.next[0].thick) <= 2


@pytest.mark.parametrize("by", [["1.05"] * 6, ["0.95"] * 6, [1, "1.3", "0.9", 1, 1, "1.1"]])
@pytest.mark.parametrize("is_measured", [True, False])
def test_what_is_laid_out_again_weighs_what_is_left(by, is_measured):
    """Weight is conserved: portions, what came off unweighed, and the rest are the piece."""
    task = piece()
    told = cut(task, 6, by, is_measured=is_measured)
    stands = follow(task, told, is_measured=is_measured)
    rest = sum((part.weight for part in stands.layout.parts), Fraction(0))
    gone = sum(one.weight for one in told)
    faces = 14 - rest - gone
    assert 0 < faces < Fraction(1, 2)


def test_of_a_slice_that_is_parted_the_other_half_comes_next():
    band = {"lightest": Weight.of("6", "oz"), "heaviest": Weight.of("8", "oz")}
    task = ribeye(products=(grade(thin=13, thick=40, across=2, most=9, **band),), near=D(6))
    first = follow(task, ()).next
    assert first[1].continues
    half = Told(first[0].expected, "steak", asked=first[0])
    stands = follow(task, (half,))
    assert stands.pending == first[1]
    assert stands.next == first[1:]
    other = Told(first[1].expected, "steak", asked=first[1])
    assert follow(task, (half, other)).next == first[2:]
    both = Told(first[0].expected * 2, "steak", 2, asked=first[0])
    assert follow(task, (both,)).next == first[2:]


def test_something_else_than_asked_takes_its_weight_off_and_says_nothing_of_the_shape():
    task = piece()
    stands = follow(task, (Told(Fraction(3), "roast"),))
    assert stands.seen == ()
    assert stands.fit.scale == 1
    assert float(gone_from(stands)) == pytest.approx(3, abs=0.05)


def gone_from(stands):
    before = stands.task.profile.before
    return before(Fraction(stands.task.at(stands.knife))) * stands.task.per_volume


def test_a_count_that_can_no_longer_be_met_is_told_and_the_rest_is_laid_out_all_the_same():
    task = piece(products=(grade(thin=13, thick=40, least=25), grade("roast", 60, 90, "9")))
    stands = follow(task, (Told(Fraction(4), "roast"),))
    assert stands.short == ("steak",)
    assert stands.next
    over = follow(
        piece(products=(grade(thin=13, thick=40, most=1), grade("roast", 60, 90, "9"))),
        (Told(Fraction(1), "steak", 2),),
    )
    assert over.next
    assert {one.name for one in over.next} == {"roast"}


def test_what_was_put_back_is_no_longer_laid_out():
    task = piece()
    told = cut(task, 3)
    less = follow(task, told, put_back=Fraction(5))
    full = follow(task, told)
    gone = less.layout.parts[-1].weight
    assert len(less.next) < len(full.next)
    assert gone >= 5
    assert sum(p.weight for p in less.layout.parts) == sum(p.weight for p in full.layout.parts)


def test_a_piece_that_is_all_cut_has_nothing_to_come():
    task = piece()
    stands = follow(task, (Told(Fraction(15), "roast"),))
    assert stands.layout is None
    assert stands.next == ()


@pytest.mark.parametrize("aim", [Aim.WEIGHT, Aim.THICKNESS])
def test_the_two_schools_follow_too(aim):
    task = piece()
    layout = lay_out_for(task, aim)
    stands = follow(task, cut(task, 3, aim=aim), aim=aim)
    assert len(stands.next) == len(layout.slices) - 3
    weights = [float(part.weight) for part in stands.layout.slices]
    if aim is Aim.WEIGHT:
        assert max(weights) - min(weights) < 0.08


def test_light_sections_between_bones_still_move_the_knife_on():
    cuts = tuple(D(60 * i) for i in range(1, 7))
    products = (type(grade())("chop", bones=1, price=UnitPrice.of("12", "lb")),)
    task = ribeye(products=products, bone_cuts=cuts)
    told = ()
    for number in range(1, 5):
        asked = follow(task, told).next[0]
        told = (*told, Told(asked.expected * Fraction("0.3"), "chop", asked=asked))
        assert task.at(follow(task, told).knife) == 60 * number
    other = follow(task, (*told, Told(Fraction(1, 100), "chop")))
    assert task.at(other.knife) == 300


def test_bones_stay_where_they_are():
    cuts = tuple(D(60 * i) for i in range(1, 7))
    one = grade("roast", price="9", thin=1, thick=400)
    products = tuple(
        type(one)(name, bones=bones, price=UnitPrice.of(price, "lb"), most=most)
        for name, bones, price, most in (("roast", 3, "14", 1), ("steak", 1, "12", None))
    )
    task = ribeye(products=products, bone_cuts=cuts)
    first = follow(task, ()).next[0]
    stands = follow(task, (Told(first.expected * Fraction("1.08"), first.name, asked=first),))
    assert stands.task.profile.length == task.profile.length
    assert task.at(stands.knife) == first.thick
    assert stands.layout.parts[0].start == stands.knife
