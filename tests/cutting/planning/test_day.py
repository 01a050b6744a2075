"""The day against every choice there is, and against a second solver; what holds for every day."""

from dataclasses import replace
from decimal import Decimal

import numpy as np
import pytest
from hypothesis import Phase, given, settings
from scipy import optimize

from cutting.errors import BadValue
from cutting.planning.day import DayProduct, DayWay, musts_do_not_fit, why_not
from cutting.planning.day_solver import (
    NoDay,
    best_by_the_hour,
    best_day,
    cost_of_must,
    hour_more,
    worth,
    worth_of_product,
)
from cutting.quantities import UnitPrice
from tests.cutting.planning.days import days, every, large
from wording.plan import not_cut_words

D = Decimal
SHORT = (Phase.explicit, Phase.reuse, Phase.generate, Phase.target)


@pytest.mark.long
@settings(max_examples=120, phases=SHORT, deadline=None)
@given(days())
def test_no_choice_is_better_and_ties_fall_as_agreed(day):
    """Brute force: smallest shortfall, most profit, fewest minutes, then earlier bags and ways."""
    choices = every(day)
    if not choices:
        with pytest.raises(NoDay):
            best_day(day)
        return
    found = best_day(day)
    best = min(choices, key=lambda one: one.order())
    assert found == best


@settings(max_examples=30, phases=SHORT, deadline=None)
@given(days())
def test_values_are_the_differences_of_two_days(day):
    if musts_do_not_fit(day) or not every(day):
        return
    found = best_day(day)
    values = worth(day, found)
    longer = min(every(replace(day, minutes=day.minutes + 60)), key=lambda one: one.order())
    assert values.hour == longer.gross_profit - found.gross_profit
    for number, one in enumerate(day.products):
        if one.most is None:
            assert values.products[one.name] is None
            continue
        wider = (
            *day.products[:number],
            replace(one, most=one.most + 1),
            *day.products[number + 1 :],
        )
        more = min(every(replace(day, products=wider)), key=lambda found: found.order())
        assert values.products[one.name] == more.gross_profit - found.gross_profit
    assert [bag.must for bag, _ in values.musts] == [True] * len(values.musts)


@settings(max_examples=40, phases=SHORT, deadline=None)
@given(days())
def test_every_bag_is_cut_or_said_why_not_and_hours_are_kept(day):
    if not every(day):
        return
    found = best_day(day)
    assert found.minutes <= day.minutes
    assert len(why_not(day, found)) == sum(way is None for way in found.choice)
    for line in found.products:
        there = line.product.have + line.made
        assert line.short == max(line.product.least - there, 0)
        assert line.product.most is None or line.over == max(there - line.product.most, 0)


@settings(max_examples=60, phases=SHORT, deadline=None)
@given(days())
def test_by_the_hour_no_choice_of_the_smallest_shortfall_brings_more_a_minute(day):
    """Brute force: every choice that keeps the rules and has the smallest shortfall."""
    choices = every(day)
    if not choices:
        return
    found = best_by_the_hour(day)
    short = min(one.shortfall for one in choices)
    assert found.shortfall == short
    least = [one for one in choices if one.shortfall == short]
    if any(one.gross_profit > 0 and not one.minutes for one in least):
        assert not found.minutes
        return
    rates = [one.gross_profit / one.minutes for one in least if one.minutes]
    if rates and max(rates) > 0:
        assert abs(found.gross_profit / found.minutes - max(rates)) < D("1e-9")


@pytest.mark.parametrize("seed", [3, 11])
def test_a_second_solver_finds_the_same_profit(seed):
    """Reference: the same day written down a second way for scipy.optimize.milp, in one aim with
    the shortfall a thousand times dearer than any money."""
    day = large(seed=seed)
    found = best_day(day, in_order=False)
    cut = [(b, day.by_id[one]) for b, bag in enumerate(day.bags) for one in bag.ways]
    n, m = len(cut), len(day.products)
    place = {one.name: i for i, one in enumerate(day.products)}
    made = np.zeros((m, n))
    for column, (b, w) in enumerate(cut):
        for name, weight in day.made_of(day.bags[b], day.ways[w]).items():
            made[place[name], column] = float(weight)
    price = np.array([float(one.price.amount) for one in day.products])
    over = np.array([float(one.over) for one in day.products])
    have, least, most = (
        np.array([float(getattr(one, name)) for one in day.products])
        for name in ("have", "least", "most")
    )
    cost = np.array([float(day.bags[b].cost) for b, _ in cut])
    minutes = np.array([float(day.minutes_of(day.bags[b], day.ways[w])) for b, w in cut])
    # columns: cuts, sold, beyond, short
    aim = np.concatenate([cost, -price, -over, 1000 * price])
    eye, zero = np.eye(m), np.zeros((m, m))
    of_bag = np.zeros((len(day.bags), n))
    for column, (b, _) in enumerate(cut):
        of_bag[b, column] = 1
    pad = np.zeros((len(day.bags), 3 * m))
    rules = [
        optimize.LinearConstraint(np.hstack([made, -eye, -eye, zero]), -have, -have),
        optimize.LinearConstraint(np.hstack([made, zero, zero, eye]), least - have),
        optimize.LinearConstraint(np.hstack([minutes, np.zeros(3 * m)]), -np.inf, 330),
        optimize.LinearConstraint(
            np.hstack([of_bag, pad]), [float(bag.must) for bag in day.bags], 1
        ),
    ]
    bounds = optimize.Bounds(0, np.concatenate([np.ones(n), most, np.full(2 * m, np.inf)]))
    whole = np.concatenate([np.ones(n), np.zeros(3 * m)])
    answer = optimize.milp(
        aim, constraints=rules, bounds=bounds, integrality=whole, options={"mip_rel_gap": 0}
    )
    short = answer.x[n + 2 * m :] @ price
    at_hand = float(sum(one.sales(one.have) for one in day.products))
    profit = -(answer.fun - 1000 * short) - at_hand
    assert float(found.shortfall) == pytest.approx(short, abs=1e-6)
    assert float(found.gross_profit) == pytest.approx(profit, abs=1e-5)


def test_a_must_costs_what_is_better_without_it_and_a_pin_is_a_way_alone():
    day = large(bags=12, ways=4, products=6)
    found = best_day(day)
    for number in (0, 1):
        assert cost_of_must(day, found, number) >= 0
    assert hour_more(day, found).profit >= 0
    assert worth_of_product(day, found, 0) is not None
    free = replace(day, minutes=D(10**6), least_products=0)
    assert hour_more(free, best_day(free)).profit == 0


def test_too_few_minutes_for_the_musts_are_told_with_those_of_each():
    day = replace(large(), minutes=D(10))
    rows = musts_do_not_fit(day)
    assert [bag.id for bag, _ in rows] == ["b0", "b1"]
    with pytest.raises(NoDay) as none:
        best_day(day)
    assert none.value.most_products is None


def test_more_products_than_there_can_be_are_told_with_the_most():
    day = replace(large(), least_products=40)
    with pytest.raises(NoDay) as none:
        best_day(day)
    assert none.value.most_products <= 10


def test_why_a_bag_stays_is_said():
    day = large()
    words = {not_cut_words(one) for one in why_not(day, best_day(day))}
    assert any("minutes of hands are missing" in one for one in words)
    short = replace(
        day,
        minutes=D(10**6),
        products=tuple(replace(one, most=one.least, over=D(0)) for one in day.products),
    )
    words = {not_cut_words(one) for one in why_not(short, best_day(short))}
    assert any("over the most" in one or "less than it costs" in one for one in words)


@pytest.mark.parametrize(
    ("more", "says"),
    [
        ({"price": UnitPrice.of("0", "lb")}, "more than 0"),
        ({"over": D(99)}, "0 to its price"),
        ({"have": D(-1)}, "0 or more"),
        ({"least": D(9), "most": D(2)}, "over the most"),
    ],
)
def test_a_product_that_cannot_be_says_why(more, says):
    with pytest.raises(BadValue, match=says):
        DayProduct(**{"name": "steak", "price": UnitPrice.of("9", "lb")} | more)
    with pytest.raises(BadValue, match="at most 1"):
        DayWay("w", "way", D(0), D(0), (("a", D("0.7")), ("b", D("0.7"))))
