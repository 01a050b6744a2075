"""How sure a plan is, against what is known without drawing."""

from dataclasses import replace
from decimal import Decimal

import pytest
from scipy import stats

from cutting.planning.day import Day, DayBag, DayProduct, DayWay
from cutting.planning.day_sure import how_sure
from cutting.quantities import Unit, UnitPrice, Weight

D = Decimal


def day(**product):
    way = DayWay("w", "way", D(0), D(1), (("steak", D("0.5")),))
    bag = DayBag("b", Weight(D(20), Unit.LB), D(40), ("w",))
    wanted = DayProduct("steak", UnitPrice.of("10", "lb"), **product)
    return Day(D(60), (way,), (bag,), (wanted,))


def test_the_range_and_the_chance_are_those_of_the_normal_distribution():
    """Reference library: scipy.stats.norm; ten pounds with a spread of one."""
    found = how_sure(day(least=D(11)), (0,), {("w", "steak"): 0.05})
    low, high = stats.norm(10 * 10 - 40, 10).ppf([0.05, 0.95])
    assert found.low == pytest.approx(low, abs=1.0)
    assert found.high == pytest.approx(high, abs=1.0)
    assert found.met["steak"] == pytest.approx(1 - stats.norm.cdf(1), abs=0.02)


def test_what_is_over_the_most_brings_little_and_the_same_plan_is_told_the_same():
    capped = how_sure(day(most=D(9), over=D(1)), (0,), {("w", "steak"): 0.05})
    assert capped.high < 9 * 10 + 4 - 40
    assert capped == how_sure(day(most=D(9), over=D(1)), (0,), {("w", "steak"): 0.05})
    assert capped.met == {}


def test_without_tests_a_usual_spread_is_taken_and_an_idle_day_is_certain():
    assert how_sure(day(), (0,), {}).high > how_sure(day(), (0,), {}).low
    idle = how_sure(day(have=D(3), least=D(2)), (None,), {})
    assert (idle.low, idle.high, idle.met) == (0.0, 0.0, {"steak": 1.0})
    assert idle.in_time == 1.0


def test_the_chance_to_keep_the_hours_is_that_of_the_normal_distribution():
    """Reference library: scipy.stats.norm; twenty minutes of the sixty, then half a spread over."""
    assert how_sure(day(), (0,), {}, {"w": 0.1}).in_time == 1.0
    tight = replace(day(), minutes=D(21))
    found = how_sure(tight, (0,), {}, {"w": 0.1})
    assert found.in_time == pytest.approx(stats.norm.cdf(0.5), abs=0.02)
