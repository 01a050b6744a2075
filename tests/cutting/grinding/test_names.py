"""What a batch may be called, how well a lean is known, and the least addition that makes it safe."""

from decimal import Decimal

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy import stats

from cutting.errors import BadValue
from cutting.grinding.blend import Blend, Kind, Rule, batch_figures
from cutting.grinding.judging import (
    BIAS_BEFORE,
    USUAL_SPREAD,
    Bias,
    Compared,
    How,
    bias_of,
    corrected,
    together,
)
from cutting.grinding.names import Made, label_words, may_be_called, smallest_addition
from drawings.vessels import fat_curve, vessels
from tests.cutting.grinding.calibration import calibration
from tests.cutting.grinding.test_blend import batch, tub
from wording.grind import chance_words, kindly, lean_words

D = Decimal


def made(take, *tubs):
    blend = Blend(tubs, (batch(pounds="10", rule=Rule.NONE),))
    figures = batch_figures(blend, blend.batches[0], {t: D(v) for t, v in take.items()})
    return Made.of(blend, figures)


CHUCK = tub("chuck", lean="0.80", primal="chuck")
ROUND = tub("round", lean="0.90", primal="round")
FAT = tub("fat", lean="0.10", kind=Kind.HARD_FAT)
PORK = tub("pork", lean="0.70", species="pork")
LAMB = tub("lamb", lean="0.75", species="lamb")


@pytest.mark.parametrize(
    ("take", "tubs", "may", "not_for"),
    [
        ({0: 10}, (CHUCK,), {"ground beef", "hamburger", "ground chuck", "fresh beef sausage"}, {}),
        (
            {0: 8, 1: 2},
            (CHUCK, ROUND),
            {"ground beef", "hamburger", "fresh beef sausage"},
            {"ground chuck": "20.0 % of it comes from elsewhere"},
        ),
        (
            {0: 9, 1: 1},
            (CHUCK, FAT),
            {"hamburger", "fresh beef sausage"},
            {"ground beef": "10.0 % of it is added fat", "ground chuck": "fat is added to it"},
        ),
        (
            {0: 7, 1: 3},
            (CHUCK, FAT),
            set(),
            {"hamburger": "41.0 % fat is over 30.0 %", "ground beef": "added fat"},
        ),
        ({0: 10}, (PORK,), {"fresh pork sausage", "ground pork"}, {"ground beef": "pork is in it"}),
        ({0: 10}, (LAMB,), {"ground lamb"}, {"fresh pork sausage": "lamb is in it"}),
        ({0: 5, 1: 5}, (CHUCK, PORK), set(), {"hamburger": "pork is in it"}),
    ],
)
def test_what_a_batch_may_be_called(take, tubs, may, not_for):
    """9 CFR 319.15(a), (b), 319.141, 319.142; values from memory."""
    found = may_be_called(made(take, *tubs))
    assert {one.name for one in found if one.may} == may
    for name, why in not_for.items():
        one = next(one for one in found if one.name == name)
        assert why in one.why
        assert one.source


def test_a_shop_may_only_tighten_a_name():
    own = {"ground beef": D("0.18")}
    one = next(n for n in may_be_called(made({0: 10}, CHUCK), own) if n.name == "ground beef")
    assert (one.may, one.source) == (False, "the shop's own standard")
    assert "20.0 % fat is over 18.0 %" in one.why
    with pytest.raises(BadValue, match=r"9 CFR 319\.15"):
        may_be_called(made({0: 10}, CHUCK), {"ground beef": D("0.35")})


@pytest.mark.parametrize(
    ("fat", "words"),
    [
        ("0.15", "85 % lean, 15 % fat"),
        ("0.155", "84 % lean, 16 % fat"),
        ("0", "100 % lean, 0 % fat"),
    ],
)
def test_a_lean_never_stands_without_its_fat(fat, words):
    """9 CFR 317.362(f); value from memory."""
    assert label_words("ground beef", D(fat)) == f"ground beef, {words}"
    with pytest.raises(BadValue, match="0 to 1"):
        label_words("ground beef", D(2))


@pytest.mark.parametrize("ends", ["0.93", "0.97"])
def test_the_least_addition_makes_it_safe_and_a_little_less_does_not(ends):
    tubs = (
        tub("chuck", "20", "0.84", lean_sd=D("0.02")),
        tub("ends", "20", ends, kind=Kind.ENDS, lean_sd=D("0.02")),
        tub("lean", "1", "0.99"),
    )
    one = batch(pounds="10", least="0.1", most="0.2", limit=D("0.17"), chance=D("0.01"))
    blend = Blend(tubs, (one,))
    figures = batch_figures(blend, one, {0: D(10)})
    assert figures.chance_over > D("0.01")
    found = smallest_addition(blend, figures, D("0.17"), one.quantile, [D(10), D(20), D("0.1")])
    assert found.tub == 1
    safe = batch_figures(blend, one, {0: D(10), 1: found.pounds})
    assert safe.chance_over <= D("0.0100001")
    less = batch_figures(blend, one, {0: D(10), 1: found.pounds * D("0.99")})
    assert less.chance_over > D("0.01")
    assert smallest_addition(blend, safe, D("0.17"), one.quantile, [D(0)] * 3).pounds == 0
    assert smallest_addition(blend, figures, D("0.17"), one.quantile, [D(9), D(0), D(0)]) is None


@given(st.lists(st.tuples(st.integers(-60, 60), st.integers(5, 60)), min_size=0, max_size=8))
def test_the_eye_is_learned_as_a_normal_mean_is(rows):
    """Reference: the precisions of a normal mean add up (numpy weighted mean)."""
    some = [Compared(D(off) / 1000, D(spread) / 1000) for off, spread in rows]
    found = bias_of(some)
    offs = [0.0, *(float(one.off) for one in some)]
    weights = [1 / float(BIAS_BEFORE) ** 2, *(1 / float(one.spread) ** 2 for one in some)]
    assert float(found.off) == pytest.approx(np.average(offs, weights=weights), abs=1e-12)
    assert float(found.spread) == pytest.approx(sum(weights) ** -0.5, rel=1e-12)


def test_a_judgement_is_put_right_by_its_bias_and_a_tester_has_none():
    off = Bias(D("0.03"), D("0.01"), 6)
    eye = corrected(D("0.85"), How.EYE, off)
    assert eye.share == D("0.82")
    assert eye.spread > USUAL_SPREAD[How.EYE]
    assert corrected(D("0.85"), How.EYE).spread > eye.spread
    assert corrected(D("0.85"), How.TESTER, off).share == D("0.85")
    assert corrected(D("0.99"), How.EYE, Bias(D("-0.05"), D("0.01"), 6)).share == 1
    both = together([(D(10), eye), (D(30), corrected(D("0.90"), How.STATED))])
    assert both.share == (10 * D("0.82") + 30 * D("0.90")) / 40
    with pytest.raises(BadValue, match="some weight"):
        together([])
    with pytest.raises(BadValue, match="0 to 1"):
        corrected(D(2), How.EYE)
    with pytest.raises(BadValue, match="more than 0"):
        bias_of([Compared(D(0), D(0))])


@pytest.mark.parametrize(
    ("bias", "words"),
    [
        (Bias(D("0.04"), D("0.01"), 2), "Too few"),
        (Bias(D("0.01"), D("0.01"), 9), "right as far"),
        (Bias(D("0.04"), D("0.01"), 9), "about 4 points leaner"),
        (Bias(D("-0.03"), D("0.01"), 9), "about 3 points fatter"),
    ],
)
def test_it_is_told_kindly(bias, words):
    assert words in kindly(bias)


@pytest.mark.parametrize(
    ("chance", "words"),
    [("0.0345", "1 time in 29"), ("0.0001", "hardly ever"), ("0.7", "7 times in 10")],
)
def test_a_chance_and_a_lean_are_said_plainly(chance, words):
    assert chance_words(D(chance)) == words
    assert lean_words(D("0.804"), D("0.021")) == "80 lean ± 2"


def test_vessels_are_to_one_scale_and_the_curve_holds_its_limit():
    full, half, none = vessels([(D(20), D(5)), (D(10), None), (D(0), None)])
    assert full.depth == pytest.approx(2 * half.depth, abs=0.2)
    assert full.taken == pytest.approx(full.depth / 4, abs=0.2)
    assert (none.depth, half.taken) == (0.0, 0.0)
    curve = fat_curve(D("0.15"), D("0.01"), D("0.17"))
    top = min(curve.points.split(), key=lambda point: float(point.split(",")[1]))
    assert float(top.split(",")[0]) < curve.limit < curve.width
    assert fat_curve(D("0.15"), D(0), None).limit is None


@pytest.mark.parametrize("how", list(How))
def test_the_stated_chance_is_how_often_it_is_over(how):
    """Simulation: tubs of unknown fat, judged with the spreads and the bias that are told; in ten
    classes of the stated chance as many batches are over their limit. scipy.stats.binomtest."""
    for own in calibration(how, shops=60, batches=40, learned=False):
        if own.many >= 50:
            assert stats.binomtest(own.over, own.many, own.told / own.many).pvalue > 0.001


def test_so_it_is_with_what_a_shop_has_learned_itself():
    """The eye and what is usual known by tests alone; the table in docs/grinder.md has more shops."""
    for own in calibration(How.EYE, shops=80, batches=30, learned=True):
        if own.many >= 100:
            assert abs(own.over - own.told) / own.many < 0.07
