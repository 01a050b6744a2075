"""Windows and what is due. Common practice, no published source; dates by the calendar."""

import itertools
from datetime import date, timedelta

import pytest
from hypothesis import given
from hypothesis import strategies as st

from cutting.cooler.ageing import (
    LONGEST_WINDOW,
    WARM_STEP,
    Bag,
    Seal,
    Urgency,
    Window,
    due,
    in_order,
    too_young_for,
)
from cutting.errors import BadValue
from wording.cooler import due_words

BEEF = Window(14, 21, 35, 50)
DAY = timedelta(days=1)
PACKED = date(2026, 1, 31)


@pytest.mark.parametrize(
    ("age", "urgency", "says"),
    [
        (0, Urgency.YOUNG, "too young: 14 days"),
        (13, Urgency.YOUNG, "too young: 1 day to"),
        (14, Urgency.READY, "old enough; best in 7 days"),
        (20, Urgency.READY, "best in 1 day"),
        (21, Urgency.BEST, "in its best window, 14 days left"),
        (35, Urgency.BEST, "0 days left"),
        (36, Urgency.SOON, "best window over, 14 days"),
        (49, Urgency.SOON, "1 day to its end"),
        (50, Urgency.NOW, "last day today"),
        (51, Urgency.PAST, "1 day past its end"),
    ],
)
def test_a_beef_piece_through_its_window(age, urgency, says):
    found = due(Bag(PACKED, BEEF), PACKED + age * DAY)
    assert (found.urgency, found.age) == (urgency, age)
    assert says in due_words(Bag(PACKED, BEEF), PACKED + age * DAY)[0]
    assert found.on == PACKED + 50 * DAY or (urgency is Urgency.NOW and age == 50) or age > 50


@pytest.mark.parametrize(
    ("bag", "urgency", "says"),
    [
        (Bag(PACKED, BEEF, Seal.LEAKING), Urgency.NOW, "leaking: cut it today"),
        (Bag(PACKED, BEEF, Seal.SUSPECT), Urgency.SOON, "seal suspect"),
        (Bag(PACKED, BEEF, use_by=PACKED + 16 * DAY), Urgency.NOW, "its use-by"),
        (
            Bag(PACKED, BEEF, warm=timedelta(hours=9)),
            Urgency.READY,
            "540 min above the limit, 2 days off its end",
        ),
    ],
)
def test_leakers_warm_spells_and_short_dates_pull_a_bag_forward(bag, urgency, says):
    found = due(bag, PACKED + 16 * DAY)
    assert found.urgency is urgency
    assert any(says in reason for reason in due_words(bag, PACKED + 16 * DAY))
    assert found.is_today is (urgency <= Urgency.SOON)


def test_a_bag_wanted_too_soon_says_how_many_days_are_missing():
    bag = Bag(PACKED, BEEF)
    assert too_young_for(bag, date(2026, 2, 12)) == 2
    assert too_young_for(bag, date(2026, 2, 14)) == 0


days = st.integers(0, 365)
windows = st.lists(days, min_size=4, max_size=4).map(sorted).map(lambda four: Window(*four))
dates = st.dates(date(2019, 12, 1), date(2032, 3, 1))
bags = st.builds(
    Bag,
    dates,
    windows,
    st.sampled_from(Seal),
    st.none() | dates,
    st.timedeltas(timedelta(0), timedelta(days=3)),
)


@given(bags, st.integers(-3, 400))
def test_urgency_never_falls_as_days_pass_and_the_marks_stand_in_order(bag, age):
    today = bag.packed_on + age * DAY
    assert due(bag, today + DAY).urgency <= due(bag, today).urgency
    assert bag.best_from <= bag.best_to <= bag.ends_on
    assert due_words(bag, today)
    if today > bag.ends_on:
        assert due(bag, today).urgency is Urgency.PAST


@given(bags, st.timedeltas(timedelta(0), timedelta(days=2)), st.integers(0, 380))
def test_a_warm_spell_or_a_leak_never_gives_a_bag_more_time(bag, more, age):
    today = bag.packed_on + age * DAY
    warmer = Bag(bag.packed_on, bag.window, bag.seal, bag.use_by, bag.warm + more)
    assert warmer.ends_on <= bag.ends_on
    assert due(warmer, today).urgency <= due(bag, today).urgency
    leaking = Bag(bag.packed_on, bag.window, Seal.LEAKING, bag.use_by, bag.warm)
    assert due(leaking, today).urgency <= min(due(bag, today).urgency, Urgency.NOW)
    assert bag.lost_days == bag.warm // WARM_STEP


@pytest.mark.long
@given(st.lists(bags, max_size=12), dates)
def test_the_order_holds_every_bag_once_and_the_most_pressing_first(some, today):
    found = [(due(bag, today), bag) for bag in some]
    order = in_order(found)
    assert sorted(order) == list(range(len(some)))
    pressing = [found[i][0].urgency for i in order]
    assert pressing == sorted(pressing)
    for one, other in itertools.pairwise(order):
        a, b = found[one][0], found[other][0]
        if a.urgency is b.urgency:
            assert a.on <= b.on


@given(st.integers(0, LONGEST_WINDOW))
def test_a_least_age_moves_the_days_behind_it_and_none_before(days):
    found = BEEF.no_younger_than(days)
    assert (found.least, found.end) == (max(BEEF.least, days), max(BEEF.end, days))
    assert found.best_from == max(BEEF.best_from, days)
    assert BEEF.no_younger_than(0) == BEEF


@pytest.mark.parametrize(
    ("wrong", "says"),
    [
        (lambda: Window(15, 14, 20, 30), "best from"),
        (lambda: Window(1, 2, 3, 2), "end"),
        (lambda: Window(-1, 2, 3, 4), "least"),
        (lambda: Window(1, 2, 3, 400), "end"),
        (lambda: Bag(PACKED, BEEF, warm=timedelta(-1)), "warm"),
    ],
)
def test_what_cannot_be_is_refused_by_name(wrong, says):
    with pytest.raises(BadValue, match=says):
        wrong()
