"""What the bench asks the core: the scale's check, the next portion, trays, minutes, tubs."""

from datetime import UTC, datetime, timedelta
from decimal import Decimal
from fractions import Fraction
from itertools import pairwise

import pytest
from hypothesis import given
from hypothesis import strategies as st

from cutting.errors import BadValue
from cutting.quantities import Unit, UnitPrice, Weight
from cutting.sheet.cutting_test import (
    CuttingTest,
    Output,
    Piece,
    Role,
    Weighing,
    figures,
    portion_tolerance,
)
from cutting.sheet.portioning import how_many_left, next_cut, off_band, parse_thickness
from cutting.sheet.scale_check import Tried, judge
from cutting.sheet.time_spent import Mark, Marked, Span, Taken, minutes, spent
from cutting.sheet.trays import trays, usual_size
from cutting.sheet.tub import Kind, gross_of, in_tub, next_entry
from drawings.time_strip import time_strip
from wording.block import hint_words

D, lb, oz = Decimal, lambda t: Weight.of(t, "lb"), lambda t: Weight.of(t, "oz")
EIGHT = datetime(2026, 11, 25, 8, tzinfo=UTC)


def at(minute):
    return EIGHT + timedelta(minutes=minute)


@pytest.mark.parametrize(
    ("load", "shown", "holds"),
    [
        # NIST Handbook 44, 2.20, Table 6: 1 d to 500 d, 2 d to 2000 d, 3 d to 4000 d
        ("0", "0.01", True),
        ("0", "0.02", False),
        ("5", "5.01", True),
        ("5", "4.98", False),
        ("5.01", "5.03", True),
        ("20", "20.02", True),
        ("20", "19.97", False),
        ("30", "30.03", True),
        ("30", "30.04", False),
    ],
)
def test_a_scale_holds_within_the_class_iii_maintenance_tolerance(load, shown, holds):
    (judged,) = judge([Tried(lb(load), lb(shown), lb("0.01"))])
    assert judged.holds is holds
    assert judged.off == D(shown) - D(load)


def test_a_test_weight_in_kilograms_checks_a_scale_in_pounds():
    (judged,) = judge([Tried(Weight.of("5", "kg"), lb("11.02"), lb("0.01"))])
    assert judged.holds  # 5 kg are 11.0231 lb
    for bad in ({"load": lb("-1")}, {"division": lb("0")}):
        with pytest.raises(BadValue):
            Tried(**{"load": lb("1"), "shown": lb("1"), "division": lb("0.01"), **bad})


@pytest.mark.parametrize(
    ("text", "inches"),
    [
        ("3/4 in", "3/4"),
        ("1 in", "1"),
        ("1.25 in", "5/4"),
        ("1 1/2 in", "3/2"),
        ("", None),
        ("thin", None),
        ("3/0 in", None),
        ("0 in", None),
    ],
)
def test_a_thickness_is_read_as_the_plan_writes_it(text, inches):
    assert parse_thickness(text) == (None if inches is None else Fraction(inches))


@pytest.mark.parametrize(
    ("portions", "thickness", "words"),
    [
        ([], "1 in", None),
        (["8.1"], "1 in", "the last one is right: cut the same again"),
        (["8.8"], "1 in", "the last one is 0.8 oz heavy: cut 3/32 in thinner"),
        (["7.5"], "3/4 in", "the last one is 0.5 oz light: cut 1/16 in thicker"),
        (["9.9", "8.4", "8.4", "8.4"], "1 in", "the last 3 are 0.4 oz heavy: cut 1/16 in thinner"),
        (["8.8"], "", "the last one is 0.8 oz heavy: cut thinner"),
    ],
)
def test_the_hint_says_heavy_or_light_and_what_that_means_for_the_knife(portions, thickness, words):
    hint = next_cut([oz(p) for p in portions], oz("8"), thickness)
    assert (hint and hint_words(hint)) == words


@given(st.decimals("4", "16", places=1), st.decimals("0.25", "2", places=2))
def test_following_the_hint_brings_the_next_portion_nearer_the_target(weight, inches):
    """Weight goes with thickness: a slice of the hinted thickness is nearer than the last."""
    hint = next_cut([Weight(weight, Unit.OZ)], oz("8"), f"{inches} in")
    if hint.thinner is not None:
        now = Fraction(inches)
        after = Fraction(weight) * (now - hint.thinner) / now
        slack = Fraction(weight) / now / 32  # half a step of the finest hint, either way
        assert abs(after - 8) <= max(abs(Fraction(weight) - 8), slack)


@pytest.mark.parametrize(
    ("left", "expected", "taken", "each", "count"),
    [
        ("4.0", None, "0", "0.5", 8),
        ("4.0", "3.0", "1.0", "0.5", 4),
        ("1.0", "3.0", "1.0", "0.5", 2),
        ("4.0", "1.0", "1.2", "0.5", 0),
        ("0.46", None, "0", "0.5", 1),
        ("4.0", None, "0", "0", None),
    ],
)
def test_how_many_are_left_is_bounded_by_the_block_and_by_the_plan(
    left, expected, taken, each, count
):
    found = how_many_left(D(left), None if expected is None else D(expected), D(taken), D(each))
    assert found == count


@given(st.decimals("1", "20", places=1), st.decimals("1", "20", places=1))
def test_a_portion_is_off_its_band_on_one_side_only(portion, target):
    aim, found = (
        Weight(target, Unit.OZ),
        off_band(Weight(portion, Unit.OZ), Weight(target, Unit.OZ)),
    )
    assert (found == 0) is (abs(portion - target) <= portion_tolerance(aim.value, aim.unit))
    assert found * (portion - target) >= 0


@given(st.lists(st.decimals("0.1", "2", places=2), max_size=30), st.integers(1, 24))
def test_every_portion_is_in_one_tray_and_only_the_last_may_be_filling(values, size):
    made = trays([Weight(v, Unit.LB) for v in values], size, UnitPrice.of("9.99", "lb"), Unit.LB)
    assert sum(tray.count for tray in made) == len(values)
    assert sum(tray.weight for tray in made) == sum(values)
    assert all(tray.is_full for tray in made[:-1])
    assert all(abs(t.sticker - t.weight * D("9.99")) <= D("0.005") for t in made)


def test_a_sticker_is_half_up_to_the_cent_and_none_without_a_price():
    (tray,) = trays([oz("8"), oz("8.2")], 2, UnitPrice.of("12.99", "lb"), Unit.LB)
    assert (tray.weight, tray.sticker) == (D("1.0125"), D("13.15"))
    assert trays([oz("8")], 1, None, Unit.OZ)[0].sticker is None
    with pytest.raises(BadValue, match="1 to 24"):
        trays([], 0, None, Unit.LB)
    assert (usual_size(lb("1.1"), oz("8")), usual_size(lb("0.2"), oz("8"))) == (2, 1)


def test_minutes_go_to_steps_and_piles_and_an_interruption_is_no_work():
    marks = [
        Marked(at(2), Mark.START, "cap"),
        Marked(at(10), Mark.INTERRUPT),
        Marked(at(15), Mark.START, "cap"),
        Marked(at(20), Mark.START, "eye"),
        Marked(at(30), Mark.COOLED),
        Marked(at(50), Mark.START, "eye"),
    ]
    taken = [Taken(at(8), "steaks"), Taken(at(18), "trim"), Taken(at(25), "steaks")]
    found = spent(Span(EIGHT, at(60)), marks, taken)
    named = {name: minutes(length) for name, length in found.by_step.items()}
    assert named == {"cap": 13, "eye": 20}
    assert (minutes(found.work), minutes(found.interrupted), minutes(found.out)) == (33, 5, 40)
    piles = {name: minutes(length) for name, length in found.by_output.items()}
    assert piles == {"steaks": 6 + 7, "trim": 5}
    assert found.now is Mark.START
    assert spent(Span(EIGHT, at(9)), [], []).now is None


@given(
    st.lists(st.tuples(st.integers(-5, 90), st.sampled_from(Mark), st.sampled_from("abc"))),
    st.lists(st.tuples(st.integers(0, 60), st.sampled_from("xyz"))),
)
def test_steps_add_up_to_the_work_and_piles_to_no_more_than_it(marks, taken):
    marks = [Marked(at(m), mark, step) for m, mark, step in sorted(marks, key=lambda one: one[0])]
    found = spent(Span(EIGHT, at(60)), marks, [Taken(at(m), pile) for m, pile in taken])
    assert sum(found.by_step.values(), timedelta(0)) == found.work
    assert sum(found.by_output.values(), timedelta(0)) <= found.work
    assert found.work + found.interrupted <= timedelta(minutes=60)
    assert timedelta(0) <= found.out <= timedelta(minutes=60)
    strip = time_strip(found, {"a": "Fat off"}, 600.0)
    assert sum(part.width for part in strip) == pytest.approx(600.0 if strip else 0.0, abs=0.2)
    assert all(one.x + one.width == pytest.approx(two.x, abs=0.11) for one, two in pairwise(strip))
    assert [part.is_work for part in strip].count(False) == bool(found.interrupted)
    assert bool(strip) == bool(found.work or found.interrupted)


STEPS = st.lists(
    st.tuples(
        st.sampled_from(list(Kind)),
        st.integers(1, 4),
        st.decimals("0.01", "9", places=2),
        st.booleans(),
    ),
    max_size=25,
)


@given(STEPS)
def test_a_tub_always_foots_and_its_shares_sum_to_one(steps):
    """start + what the tests put in + what is nobody's = what the scale shows, after any steps."""
    start, entries = D("1.12"), []
    for kind, weighing, weight, is_seen in steps:
        arrives = kind in (Kind.FILLED, Kind.MOVED_IN)
        stands = gross_of(start, entries)
        entries.append(
            next_entry(
                start,
                entries,
                kind,
                source="abcd"[weighing - 1],
                weighing=weighing,
                change=weight if arrives else -weight,
                lots=(f"L{weighing}", ""),
                shown=stands + weight if kind is Kind.FILLED and is_seen else None,
            )
        )
    tub = in_tub(start, entries, Unit.LB)
    assert tub.start + tub.weight + tub.nobodys == tub.gross == gross_of(start, entries)
    assert tub.weight == sum(entry.change for entry in entries)
    if tub.weight:
        assert abs(sum(share.share for share in tub.shares) - 1) < D("1e-20")
    if entries:
        with pytest.raises(BadValue, match="an entry begins at"):
            in_tub(start + 1, entries, Unit.LB)


@pytest.mark.parametrize(
    ("first_by_scale", "scale_since", "kind", "gross"),
    [
        # a weighing taken back or moved takes its weight along, unless the scale saw the tub since
        (True, False, Kind.TAKEN_BACK, "1.00"),
        (True, True, Kind.TAKEN_BACK, "3.50"),
        (False, False, Kind.TAKEN_BACK, "1.00"),
        (False, True, Kind.MOVED_OUT, "3.50"),
        # a correction never changes what the scale showed; a typed weight's tub was worked out
        (True, False, Kind.CORRECTED, "3.00"),
        (False, False, Kind.CORRECTED, "1.00"),
        (False, True, Kind.CORRECTED, "3.50"),
    ],
)
def test_what_the_scale_showed_stays_and_what_was_worked_out_follows(
    first_by_scale, scale_since, kind, gross
):
    start, entries = D("1.00"), []

    def enter(kind, weighing, change, shown=None):
        entries.append(
            next_entry(
                start,
                entries,
                kind,
                source=weighing,
                weighing=weighing,
                change=D(change),
                shown=shown and D(shown),
            )
        )

    enter(Kind.FILLED, 1, "2.00", "3.00" if first_by_scale else None)
    if scale_since:
        enter(Kind.FILLED, 2, "0.50", "3.50")
    enter(kind, 1, "-2.00")
    tub = in_tub(start, entries, Unit.LB)
    assert (tub.gross, tub.weight) == (D(gross), D("0.50") if scale_since else 0)


def test_a_difference_is_rounded_twice_and_the_balance_allows_for_it():
    def gain(readings, division):
        piles = tuple(
            Output(f"p{i}", Role.MAIN, (Weighing(lb("1.00"), division, readings),))
            for i in range(4)
        )
        piece = Piece(lb("4.00"), UnitPrice.of("5", "lb"), opened_weight=lb("4.00"))
        return figures(CuttingTest(piece, lb("0.01"), piles)).balance.allowed_gain

    # five readings: 3·√(5·0.01²/12); nine with the differences: 3·√(9·0.01²/12)
    assert round(gain(1, None), 6) == round(gain(1, lb("0.01")), 6) == D("0.019365")
    assert round(gain(2, None), 6) == D("0.025981")
    assert gain(2, None) == gain(2, lb("0.01")) > gain(1, None)
    with pytest.raises(BadValue, match="2 for a difference"):
        Weighing(lb("1"), None, 3)
