"""What trim is worth, tubs used up, names that are refused, seasonings, nutrition, checks, what is usual."""

import random
import statistics
from decimal import Decimal

import pytest
from hypothesis import Phase, example, given, settings
from hypothesis import strategies as st
from scipy.optimize import linprog

from cutting.errors import BadValue
from cutting.grinding.blend import pearson
from cutting.grinding.checks import CLEANING, left_out
from cutting.grinding.judging import How, Lean, corrected, usual_of
from cutting.grinding.names import (
    GROUND_BEEF,
    Made,
    grade_claim,
    most_fat_of,
    refused_name,
)
from cutting.grinding.nutrition import CALORIES, NUTRIENTS, check_facts, exemption
from cutting.grinding.seasoning import Seasoning, ingredients
from cutting.grinding.using_up import smallest_batch, whole
from cutting.grinding.worth import Ground, OtherUse, better_use, trim_made
from cutting.quantities import Unit, Weight
from drawings.square import square_picture
from tests.cutting.grinding.test_blend import tub
from wording.grind import trim_made_words

D = Decimal
SHORT = (Phase.explicit, Phase.reuse, Phase.generate, Phase.target)


def made(species="beef", fat="0.15", hard_fat="0", grades=("Choice",), **of_primal):
    shares = {name: D(share) for name, share in of_primal.items()}
    return Made(frozenset({species}), D(fat), shares, D(hard_fat), frozenset(grades))


# names: 9 CFR 319.15(a), (b), 319.141, 319.142; names of primals: value from memory
@pytest.mark.parametrize(
    ("name", "what", "why"),
    [
        ("Ground beef 85/15", made(), ""),
        ("Ground beef", made(fat="0.31"), "31.0 % fat is over 30.0 %"),
        ("ground beef", made(hard_fat="0.02"), "2.0 % of it is added fat"),
        ("Chopped Beef", made(hard_fat="0.02"), "added fat"),
        ("hamburger", made(hard_fat="0.02"), ""),
        ("house hamburger", made(species="pork"), "pork is in it"),
        ("ground chuck", made(chuck="1"), ""),
        ("Ground  Chuck", made(chuck="0.6", round="0.4"), "40.0 % of it comes from elsewhere"),
        ("ground sirloin", made(chuck="1"), "nothing of it is known to be sirloin"),
        ("fresh pork sausage", made(species="pork", fat="0.48"), ""),
        ("fresh pork sausage", made(species="pork", fat="0.52"), "52.0 % fat is over 50.0 %"),
        ("ground lamb", made(species="pork"), "pork is in it"),
        ("the island's own", made(fat="0.45", hard_fat="0.2"), ""),
    ],
)
def test_a_name_that_a_batch_may_not_have_is_refused_with_its_reason(name, what, why):
    found = refused_name(name, what, ("chuck", "round", "sirloin"))
    assert (found.why if found else "") == why or (why and why in found.why)


def test_a_shops_own_limit_refuses_a_name_earlier_and_never_later():
    own = {GROUND_BEEF: D("0.25")}
    assert refused_name("ground beef", made(fat="0.27"), (), own).why == "27.0 % fat is over 25.0 %"
    assert most_fat_of(GROUND_BEEF, own) == D("0.25")
    assert most_fat_of(GROUND_BEEF) == D("0.30")
    assert most_fat_of("the island's own") is None
    with pytest.raises(BadValue, match=r"at most 0.30"):
        refused_name("ground beef", made(), (), {GROUND_BEEF: D("0.35")})


@pytest.mark.parametrize(
    ("grades", "may"),
    [(("Choice",), True), (("Choice", "Select"), False), (("Choice", ""), False), ((), False)],
)
def test_a_grade_is_claimed_only_where_every_lot_carries_it(grades, may):
    assert grade_claim(made(grades=grades)).may is may


@settings(max_examples=60, phases=SHORT, deadline=None)
@example([(1, 5), (1, 6)], [(2, 50)], 27)  # a third that no decimal holds
@given(
    st.lists(st.tuples(st.integers(1, 30), st.integers(5, 60)), min_size=1, max_size=4),
    st.lists(st.tuples(st.integers(1, 30), st.integers(2, 70)), min_size=0, max_size=5),
    st.integers(8, 35),
)
def test_no_smaller_batch_uses_the_tubs_up(musts, others, fat):
    """Against scipy.optimize.linprog: least added weight within the fat range."""
    least, most = D(fat - 1) / 100, D(fat + 1) / 100
    own = [tub(f"m{i}", str(p), f"{D(100 - f) / 100}") for i, (p, f) in enumerate(musts)]
    more = [tub(f"o{i}", str(p), f"{D(100 - f) / 100}") for i, (p, f) in enumerate(others)]
    pounds = sum(p for p, _ in musts)
    grease = sum(p * f / 100 for p, f in musts)
    rows = [[f / 100 - float(most) for _, f in others], [float(least) - f / 100 for _, f in others]]
    bounds = [float(most) * pounds - grease, grease - float(least) * pounds]
    if others:
        found = linprog([1.0] * len(others), rows, bounds, bounds=[(0, p) for p, _ in others])
        expected = pounds + found.fun if found.success else None
    else:
        expected = pounds if min(bounds) >= -1e-12 else None
    if expected is None:
        with pytest.raises(BadValue, match="together they have"):
            smallest_batch(own, more, least, most)
    else:
        assert float(smallest_batch(own, more, least, most)) == pytest.approx(expected, abs=1e-7)


def test_nothing_to_use_up_says_so():
    with pytest.raises(BadValue, match="no tub"):
        whole([])


def test_a_better_use_pays_its_hands():
    """By hand: 6.1 lb at 2.00 more less 6.1 × 1.8 min at 24.00 an hour."""
    uses = [OtherUse("stew", D("9.99")), OtherUse("kebab", D("9.49"))]
    use, gain = better_use(D("6.1"), D("7.99"), uses, D(24))
    assert (use.name, gain) == ("stew", D("6.1") * 2 - D("6.1") * D("1.8") * 24 / 60)
    assert better_use(D("6.1"), D("9.49"), uses, D(24)) is None
    assert better_use(D("6.1"), D("7.99"), [], D(24)) is None


def test_what_the_last_batches_made_of_trim():
    """By hand: two batches sold for 200, 30 of fat and seasoning, 20 lb of lean, a margin of 40 %."""
    rows = [Ground(D(120), D(20), D(12)), Ground(D(80), D(10), D(8))]
    found = trim_made(rows, D("0.4"))
    assert (found.at_case, found.value, found.batches) == (D("8.5"), D("4.5"), 2)
    assert trim_made([Ground(D(50), D(50), D(0))], D("0.4")) is None
    assert trim_made([Ground(D(10), D(50), D(5))], D("0.4")).value == 0
    assert "last 2 batches a lb of lean brought 8.50 at the case" in trim_made_words(
        found, "lb", D("0.4")
    )
    with pytest.raises(BadValue, match="below 1"):
        trim_made(rows, D(1))


def test_a_seasoning_by_percent_with_its_allergens():
    own = Seasoning("House", D("0.021"), "salt, pepper.", ("wheat",))
    assert own.of(Weight(D("30.5"), Unit.LB)) == Weight(D("0.641"), Unit.LB)
    assert ingredients([("pork", D(30))], own) == "pork, salt, pepper. Contains wheat."
    assert ingredients([("pork", D(3)), ("beef", D(9))], None) == "beef, pork."
    assert ingredients([("beef", D(9)), ("pork", D(0))], None) == ""
    with pytest.raises(BadValue, match=r"at most 0.15"):
        Seasoning("Salt", D("0.2"), "salt")
    with pytest.raises(BadValue, match="gluten"):
        Seasoning("Crumbs", D("0.02"), "bread", ("gluten",))


FACTS = dict.fromkeys(NUTRIENTS, D(0)) | {
    "calories": D(240),
    "total_fat": D(17),
    "saturated_fat": D(7),
    "protein": D(21),
}


def test_facts_that_fit_are_kept():
    """85/15, 112 g: 240 kcal, 17 g fat, 21 g protein. Value from memory."""
    check_facts(D("0.15"), D(112), FACTS)


# general factors, 21 CFR 101.9(c)(1)(i)(B): 4, 4, 9 kcal a gram; value from memory
@pytest.mark.parametrize(
    ("fat", "change", "says"),
    [
        ("0.27", {}, "Total fat"),
        ("0.15", {"calories": D(100)}, "Calories"),
        ("0.15", {"saturated_fat": D(18)}, "at most the total fat"),
        ("0.15", {"protein": D(-1)}, "0 or more"),
        ("0.15", {"vitamins": D(1)}, "one of calories"),
        ("1.5", {}, "0 to 1"),
    ],
)
def test_facts_that_do_not_fit_say_what_is_right(fat, change, says):
    with pytest.raises(BadValue, match=says):
        check_facts(D(fat), D(112), FACTS | change)
    assert sorted(CALORIES.values()) == [4, 4, 9]


def test_facts_left_out_are_named():
    some = {key: amount for key, amount in FACTS.items() if key != "iron"}
    with pytest.raises(BadValue, match="Iron"):
        check_facts(D("0.15"), D(112), some)


# 9 CFR 317.400(a)(1): 100,000 lb of a product in a year; value from memory
@pytest.mark.parametrize(("pounds", "may"), [("812", True), ("100000", True), ("100001", False)])
def test_a_small_shop_need_not_state_the_facts(pounds, may):
    assert exemption("ground beef", D(pounds)).may is may


def test_points_left_out_are_named_in_their_order():
    assert left_out(CLEANING, CLEANING[1:3]) == [CLEANING[0], *CLEANING[3:]]
    assert left_out(CLEANING, [*CLEANING, "another"]) == []


def test_what_is_usual_is_the_mean_with_the_spread_that_is_not_the_testers():
    """A seeded simulation: tubs differ by 4 points, the tester scatters by 1.2."""
    chance = random.Random(11)
    true = [chance.gauss(0.80, 0.04) for _ in range(400)]
    told = [Lean(D(f"{chance.gauss(one, 0.012):.4f}"), D("0.012")) for one in true]
    found = usual_of(told)
    assert float(found.share) == pytest.approx(statistics.mean(true), abs=0.003)
    assert float(found.spread) == pytest.approx(0.04, abs=0.004)
    assert usual_of(told[:3]) is None
    same = usual_of([Lean(D("0.80"), D("0.012"))] * 5)
    assert same.spread == D("0.015")


def test_an_eye_is_drawn_to_what_is_usual_and_a_tester_hardly():
    usual = Lean(D("0.80"), D("0.03"))
    eye = corrected(D("0.90"), How.EYE, None, usual)
    tester = corrected(D("0.90"), How.TESTER, None, usual)
    assert D("0.80") < eye.share < D("0.84")
    assert D("0.88") < tester.share < D("0.90")


def test_the_square_is_drawn_with_the_parts_of_pearson():
    picture = square_picture(("Round", D("0.07")), ("Chuck", D("0.20")), D("0.15"), D(26))
    parts = pearson(D("0.07"), D("0.20"), D("0.15"), D(26))
    words = [text.words for text in picture.texts]
    assert words[:3] == ["Round 93", "Chuck 80", "85"]
    assert words[3] == f"{parts.leaner_parts * 100:.1f} parts, {parts.leaner:.1f} lb"
    assert words[4] == f"{parts.fatter_parts * 100:.1f} parts, {parts.fatter:.1f} lb"
    assert len(picture.lines) == 4
