"""A cut for a dinner, and what a shopper is told of it."""

from decimal import Decimal

import pytest
from hypothesis import given
from hypothesis import strategies as st

from cutting.errors import BadValue
from cutting.quantities import Unit, UnitPrice, Weight
from cutting.shopper import Grade, Method, Offer, dinner, grades_of, to_buy
from wording.shopper import Told, best_words, core_of, serves_words

D = Decimal
KG = D("0.45359237")


def offer(key, grade, serves="2", price="10", per="lb"):
    grades = grades_of({"grill": grade} if grade else {})
    found = UnitPrice.of(price, per) if price else None
    return Offer(key, grades, D(serves) if serves else None, found)


def test_the_best_grade_comes_first_then_what_costs_least_and_what_is_unpriced_last():
    offers = [
        offer("dear", "best", price="20"),
        offer("fair", "fair", price="1"),
        offer("cheap", "best", price="9"),
        offer("unpriced", "best", price=""),
        offer("stew", ""),
    ]
    found = dinner(offers, Method.GRILL, 4, Unit.LB)
    assert [one.key for one in found] == ["cheap", "dear", "unpriced", "fair"]
    assert (found[0].weight, found[0].cost, found[0].a_head(4)) == (D(2), D("18.00"), D("4.50"))
    assert (found[2].cost, found[2].a_head(4)) == (None, None)


def test_a_kilo_price_is_reckoned_by_the_kilo():
    """Six people at 2 a pound are 3 lb, which are 1.36 kg, up to the next hundredth."""
    (found,) = dinner([offer("a", "good", price="22.00", per="kg")], Method.GRILL, 6, Unit.LB)
    assert (found.weight, found.unit, found.cost) == (D("1.37"), Unit.KG, D("30.14"))


@given(st.integers(1, 500), st.decimals("0.5", "6", places=1), st.sampled_from([Unit.LB, Unit.KG]))
def test_what_is_bought_is_enough_and_not_a_hundredth_more(people, serves, unit):
    weight = to_buy(people, serves, unit)
    served = Weight(weight, unit).to(Unit.LB) * serves
    less = Weight(weight - D("0.01"), unit).to(Unit.LB) * serves
    assert served >= people - D("1e-20")
    assert less < people


@pytest.mark.parametrize("people", [0, -1, 501])
def test_nobody_and_too_many_are_refused(people):
    with pytest.raises(BadValue, match="1 to 500"):
        to_buy(people, D(2), Unit.LB)


@pytest.mark.parametrize(
    ("kept", "wrong"), [({"boil": "best"}, "boil"), ({"grill": "super"}, "super")]
)
def test_ways_and_grades_that_are_none_are_named(kept, wrong):
    with pytest.raises(BadValue, match=wrong):
        grades_of(kept)


@pytest.mark.parametrize(
    ("serves", "unit", "says"),
    [
        ("2", "lb", "a lb serves 2"),
        ("2.5", "lb", "a lb serves 2 to 3"),
        ("2.9", "lb", "a lb serves 3"),
        ("0.75", "lb", "a lb serves 1"),
        ("2", "kg", "a kg serves 4 to 5"),
    ],
)
def test_servings_are_said_in_whole_people(serves, unit, says):
    assert serves_words(D(serves), Unit(unit)) == says


def test_what_is_best_is_said_and_else_what_is_good():
    assert best_words(grades_of({"grill": "best", "slow": "best", "pan": "good"})) == (
        "grill, low and slow"
    )
    assert best_words(grades_of({"pan": "good", "roast": "fair"})) == "pan"
    told = Told.of({}, None, Unit.LB)
    assert (told.is_cooked, told.serves, told.grades[0]) == (False, "", ("grill", Grade(0)))


def test_cubed_is_cooked_like_ground():
    assert core_of(is_cubed=True) == core_of(is_ground=True) != core_of()
