"""Least give-away against every cut set; compositions of bones against all of them; the taper."""

from dataclasses import replace
from decimal import Decimal
from fractions import Fraction

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from cutting.layout.aims import Aim, lay_out_for, target_of
from cutting.layout.bones import PORTERHOUSE, T_BONE, compositions, reach
from cutting.layout.solver import NoLayout
from cutting.layout.task import Slice, Task
from cutting.quantities import Unit, UnitPrice, Weight
from tests.cutting.layout.test_solver import (
    SHORT,
    box,
    is_any_slice,
    ribeye,
    rows,
    tasks,
    weight_of,
    worth,
)

D = Decimal


def counted(task, row):
    """Money, less what lies over the targets: what the least give-away goes by."""
    total = Fraction(0)
    for start, end, product in row:
        total += worth(task, ((start, end, product),))
        aim = None if product is None else target_of(task.products[product])
        if aim is None:
            continue
        one, weight = task.products[product], weight_of(task, start, end)
        whole = task.in_unit(aim) / one.kept
        slope, fixed = task.value_of(one)
        if weight > whole:
            per = fixed / whole + slope if fixed else slope
            total -= (weight - whole) * (per + (0 if fixed else slope))
    return total


@pytest.mark.long
@settings(max_examples=60, phases=SHORT, deadline=None)
@given(tasks)
def test_no_cut_set_counts_more_than_the_least_give_away(task):
    if any(one.each is not None and one.lost for one in task.products):
        return
    best = max((counted(task, row) for row in rows(task)), default=None)
    if best is None or not is_any_slice(task):
        return
    try:
        found = lay_out_for(task, Aim.GIVE_AWAY)
    except NoLayout:
        pytest.fail("there is a row of parts")
    row = tuple((p.start, p.end, p.product) for p in found.parts)
    assert counted(task, row) == best
    assert found.money == worth(task, row)


def test_least_give_away_brings_portions_to_their_target():
    band = {"lightest": Weight.of("13", "oz"), "heaviest": Weight.of("16", "oz")}
    one = Slice("steak", price=UnitPrice.of("20", "lb"), aim=Weight.of("14", "oz"), **band)
    task = ribeye(products=(one,), rest=UnitPrice.of("4", "lb"))
    money, exact = lay_out_for(task, Aim.MONEY), lay_out_for(task, Aim.GIVE_AWAY)

    def over(layout):
        return sum(max(float(p.weight) * 16 - 14, 0) for p in layout.slices)

    assert over(exact) < over(money) / 4
    assert money.money >= exact.money


def rack(many, prices, **more):
    cuts = tuple(D(10 * i) for i in range(1, many))
    products = tuple(
        Slice(f"{bones} bones", bones=bones, price=UnitPrice(D(price), Unit.LB), **more)
        for bones, price in prices
    )
    shape = box(6, 7, 5, length=10 * many)
    return Task(Weight.of("10", "lb"), shape, products, bone_cuts=cuts)


@settings(max_examples=25, phases=SHORT, deadline=None)
@given(
    st.integers(2, 6),
    st.lists(
        st.tuples(st.integers(1, 4), st.integers(1, 9)),
        min_size=1,
        max_size=3,
        unique_by=lambda p: p[0],
    ),
    st.sampled_from([{}, {"most": 2}]),
    st.sampled_from([None, "0.5"]),
)
def test_the_best_compositions_are_those_of_every_one_there_is(many, prices, more, rest):
    prices = [(min(bones, many), price) for bones, price in prices]
    prices = list({bones: (bones, price) for bones, price in prices}.values())
    task = replace(rack(many, prices, **more), rest=rest and UnitPrice.of(rest, "lb"))
    best = {}
    for row in rows(task):
        counts = tuple(sum(p == n for _, _, p in row) for n in range(len(task.products)))
        if any(counts):
            best[counts] = max(best.get(counts, Fraction(0)), worth(task, row))
    found = compositions(task)
    assert [one.money for one in found] == sorted(best.values(), reverse=True)[: len(found)]
    assert len(found) == min(3, len(best))
    assert len({one.counts for one in found}) == len(found)


def test_a_rack_makes_single_and_double_chops_and_the_next_two_ways():
    found = compositions(rack(8, [(1, "10"), (2, "12")]))
    assert found[0].counts == (0, 4)
    assert [one.counts for one in found[1:]] == [(2, 3), (4, 2)]
    with pytest.raises(NoLayout, match="no slice of 9 bones"):
        compositions(rack(8, [(9, "10")]))


@pytest.mark.parametrize(
    ("taper", "least", "upto"),
    [
        ([("0", "3"), ("10", "1"), ("14", "0")], PORTERHOUSE, "8.75"),
        ([("0", "3"), ("10", "1"), ("14", "0")], T_BONE, "12"),
        ([("0", "1"), ("10", "0.4")], PORTERHOUSE, "0"),
        ([("0", "3"), ("10", "2")], T_BONE, "10"),
        ([("0", "3"), ("10", "1.25"), ("12", "1")], PORTERHOUSE, "10"),
    ],
)
def test_the_tenderloin_decides_where_porterhouse_and_t_bone_end(taper, least, upto):
    """USDA IMPS 1173 and 1174: at least 1.25 in and 0.5 in of tenderloin across the cut."""
    assert reach([(D(a), D(w)) for a, w in taper], least) == D(upto)
