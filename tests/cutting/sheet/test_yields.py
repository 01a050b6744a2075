"""Yields over many tests, what prices rest on, and what a moved invoice does to them."""

from decimal import Decimal
from uuid import uuid4

import pytest
from hypothesis import given
from hypothesis import strategies as st

from cutting.costing.schools import CostingSchool, unit_costs
from cutting.costing.sheet import compute
from cutting.errors import BadValue
from cutting.prices.margins import Loads, Policy
from cutting.prices.repricing import PricedProduct, by_factor, in_full, reprice
from cutting.quantities import Band, EndingRule, UnitPrice
from cutting.sheet.yields import cost_between, pooled, rest_on, t_of
from formats.reading import read_document
from formats.writing import write_document
from tests.cutting.build import cutting_test, output, piece, tenderloin

D = Decimal


def test_a_pooled_yield_is_weighed_by_weight_and_the_mean_is_not():
    found = pooled([(D(8), D(10)), (D(12), D(20))])
    assert (found.tests, round(found.share, 20), found.mean) == (2, round(D(20) / 30, 20), D("0.7"))
    assert found.low < found.mean < found.high


def test_a_single_test_has_no_interval():
    found = pooled([(D(8), D(10))])
    assert (found.deviation, found.low, found.high) == (None, None, None)
    with pytest.raises(BadValue, match="at least one"):
        pooled([])


def test_many_tests_use_the_last_of_the_table():
    assert t_of(500) == t_of(100) == D("1.984")


def clod(weight, *piles):
    names = (("steak", "main"), ("trim", "credit"), ("fat", "discard"))
    return cutting_test(
        *(
            output(
                name,
                role,
                f"{pile} lb",
                retail="9",
                credit="3",
                in_case=name == "trim",
                minutes="6",
            )
            for (name, role), pile in zip(names, piles, strict=False)
        ),
        of=piece(f"{weight} lb", "4", freight=D(2)),
    )


def test_an_expected_test_weighs_out_as_the_tests_did_together():
    tests = [clod("10", "6", "3", "1"), clod("20", "14", "3")]
    rest = rest_on(tests, tests[0])
    weights = {o.name: o.weighings[0].weight.value for o in rest.test.outputs}
    assert {name: round(w, 6) for name, w in weights.items()} == {
        "steak": D("6.666667"),
        "trim": D("2.000000"),
        "fat": D("0.333333"),
    }
    assert rest.tests == 2
    assert abs(rest.outputs["steak"].share - D(20) / D(30)) < D("1e-25")
    assert rest.test.piece.freight == D(2)
    assert compute(rest.test).figures.cost == D(42)
    assert abs(rest.saleable.share - D(26) / D(30)) < D("1e-25")
    low, high = cost_between(D(42), rest.saleable, D(10))
    assert low < D(42) / D("8.75") < high  # the mean of 0.90 and 0.85
    assert round(rest.test.outputs[0].minutes, 6) == D(4)  # 12 min over 30 lb


def test_one_test_rests_on_itself():
    rest = rest_on([tenderloin()], tenderloin())
    assert compute(rest.test).figures.saleable == compute(tenderloin()).figures.saleable
    assert (rest.tests, cost_between(D(42), rest.saleable, D(10))) == (1, None)
    assert rest.test.outputs[2].count == 6


positive = st.decimals(D("0.01"), D(30), places=2)


@given(
    st.sampled_from(list(CostingSchool)),
    positive,
    st.lists(
        st.tuples(
            st.sampled_from(["main", "secondary", "credit", "discard"]),
            positive,
            positive,
            positive,
            st.booleans(),
        ),
        min_size=1,
        max_size=7,
    ),
)
def test_parts_foot_to_the_whole_in_every_school(school, paid, piles):
    """By-products not sold in the case carry their own value in the credit school and nothing in
    the others; the replacement school foots to the ready-cut value: what buying would cost.
    """
    outputs = [
        output(
            f"pile {i}",
            role,
            f"{weight} lb",
            retail=str(price),
            credit=str(credit),
            replacement=str(price),
            in_case=in_case,
        )
        for i, (role, weight, price, credit, in_case) in enumerate(piles)
    ]
    test = cutting_test(*outputs, of=piece(f"{paid} lb", "8"))
    sheet = compute(test)
    costs = unit_costs(test, sheet.figures, sheet.costing, school)
    carried = [
        c * line.weight
        for c, line in zip(costs, sheet.figures.outputs, strict=True)
        if c is not None
    ]
    sold = any(o.goes_to_case for o in test.outputs)
    if school is CostingSchool.CREDIT and not any(o.role == "main" for o in test.outputs):
        return  # nothing carries the net cost, and the school says so
    if not carried:
        assert not sold
        return
    if school is CostingSchool.REPLACEMENT:
        whole = sheet.costing.replacement.value if sold else D(0)
    else:
        whole = sheet.figures.cost
    assert abs(sum(carried) - whole) < D("1e-20")


@given(st.lists(st.tuples(positive, positive), min_size=1, max_size=6), positive)
def test_a_test_that_is_written_down_reads_back_the_same(piles, paid):
    outputs = [
        output(f"pile {i}", "credit", f"{weight} lb", retail=str(price), in_case=True, minutes="3")
        for i, (weight, price) in enumerate(piles)
    ]
    test = cutting_test(
        *outputs, of=piece(f"{paid} lb", "8", name="Clod", species="beef"), labour_rate=D(24)
    )
    written = write_document(test, uuid4(), "USD", {"pile 0": {"cut": "stew"}})
    assert read_document(written).test == test
    assert written["outputs"][0]["cut"] == "stew"


def test_a_worked_out_weight_is_written_to_a_millionth_of_a_millionth():
    rest = rest_on([clod("10", "6"), clod("20", "13.5")], clod("7", "4"))
    written = write_document(rest.test, uuid4(), "USD", {})
    read = read_document(written).test
    weight = rest.test.outputs[0].weighings[0].weight.value
    assert abs(read.outputs[0].weighings[0].weight.value - weight) < D("1e-12")


def test_a_factor_and_a_full_recomputation_part_when_credits_stay():
    """6.17 lb at 7.49, credits 8.92 held: at 8.24 the factor says 15.72, in full 16.06 a lb."""
    test = tenderloin()
    cost = D("14.288142")  # 37.29 / 2.61, unrounded to six places
    now = UnitPrice.of("8.24", "lb")
    assert round(by_factor(cost, test.piece.price, now), 2) == D("15.72")
    full = in_full(test, CostingSchool.CREDIT, now)
    assert round(full["filets"].amount, 2) == D("16.06")
    assert full["trim"].amount == D("0.99")
    with pytest.raises(BadValue, match="price paid"):
        by_factor(cost, UnitPrice(D(0), test.piece.price.per), now)


def test_a_moved_cost_tells_both_margins_and_proposes():
    ends = EndingRule((Band(None, (D("0.49"), D("0.99"))),))
    standing = PricedProduct(D("9.99"), D(5), Policy(D("0.5"), ends, D("0.3")), Loads())
    moved = reprice(standing, D(6))
    assert (round(moved.margin_before, 3), round(moved.margin_now, 3)) == (D("0.499"), D("0.399"))
    assert moved.price == D("12.49")
