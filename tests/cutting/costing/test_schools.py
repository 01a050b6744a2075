from decimal import Decimal

import pytest
from hypothesis import given, settings

from cutting.costing.schools import CostingSchool, true_cost, unit_costs
from cutting.costing.sheet import at_cost, compute, costs_of, sales_of
from cutting.errors import NothingSaleable
from cutting.quantities import working
from tests.cutting.build import cutting_test, output, piece, tenderloin
from tests.cutting.sheet.test_balance import any_test

D = Decimal


def whole():
    """A piece of 10 lb at 5.00 with every role and price."""
    return cutting_test(
        output("steak", "main", "4 lb", count=8, retail="14", replacement="10", minutes="10"),
        output("stew", "secondary", "2 lb", retail="8", credit="4", replacement="6", minutes="5"),
        output("grind", "credit", "2 lb", retail="6", credit="3", replacement="4", in_case=True),
        output("fat", "credit", "1 lb", credit="0.5"),
        output("skin", "discard", "0.95 lb"),
        labour_rate=D(24),
    )


def test_the_worked_example_of_a_credit_test():
    """46.21 − 2.19 − 6.73 = 37.29; 6.22 a portion; 14.29 a lb. Common practice, no source."""
    sheet = compute(tenderloin())
    school = sheet.costing.credit
    assert round(sheet.figures.cost, 2) == D("46.21")
    assert round(school.net_cost, 2) == D("37.29")
    assert round(school.cost_per_portion, 3) == D("6.216")
    assert round(school.cost_per_unit, 2) == D("14.29")
    assert round(sheet.figures.yields.main, 2) == D("0.42")


def test_the_four_schools_on_one_piece():
    costs = compute(whole()).costing
    assert costs.flat.true_cost == D("6.25")  # 50 / 8
    assert (costs.credit.credits, costs.credit.net_cost) == (D("14.5"), D("35.5"))
    assert costs.credit.cost_per_unit == D("8.875")
    assert costs.credit.factor_per_unit == D("1.775")
    assert costs.credit.cost_per_portion == D("4.4375")
    per = {row.name: row.cost_per_unit for row in costs.sales_value.outputs}
    for name, sold in (("steak", 14), ("stew", 8), ("grind", 6)):
        assert abs(per[name] - D(50) * sold / 84) < D("1e-25")
    assert costs.replacement.value == D(60)
    assert costs.replacement.gain == D(60) - D(50) - D(6)


def test_margins_of_the_whole_piece():
    margin = compute(whole()).margin
    assert (margin.retail, margin.gp) == (D(84), D(34))
    assert round(margin.gp_percent, 4) == D("40.4762")
    assert margin.markup_percent == D(68)
    assert margin.gp_with_credits == D("34.5")
    assert margin.gp_per_unit_purchased == D("3.4")
    assert margin.gp_per_labour_hour == D(136)


def test_factors_divide_by_the_price_alone_without_freight():
    test = cutting_test(output("m", "main", "5 lb"), of=piece(freight=D(10)))
    assert compute(test).costing.credit.factor_per_unit == D("2.4")  # 60 / 5 / 5


@pytest.mark.parametrize(
    ("outputs", "missing"),
    [
        ([output("m", "main", "5 lb")], ["sales_value", "replacement", "margin"]),
        (
            [output("m", "main", "5 lb", retail="9"), output("s", "secondary", "1 lb")],
            ["credit", "sales_value", "replacement", "margin"],
        ),
        ([output("m", "main", "5 lb", retail="9", replacement="7")], []),
        ([output("t", "credit", "5 lb", credit="1")], ["sales_value", "replacement", "margin"]),
    ],
)
def test_a_part_whose_inputs_are_missing_is_none_never_zero(outputs, missing):
    sheet = compute(cutting_test(*outputs))
    parts = {
        "credit": sheet.costing.credit,
        "sales_value": sheet.costing.sales_value,
        "replacement": sheet.costing.replacement,
        "margin": sheet.margin,
    }
    assert [name for name, part in parts.items() if part is None] == missing


def test_the_gain_needs_a_labour_rate_wherever_minutes_are_given():
    line = output("m", "main", "5 lb", replacement="7", minutes="3")
    assert compute(cutting_test(line)).costing.replacement.gain is None
    assert compute(cutting_test(line, labour_rate=D(60))).costing.replacement.gain == D(-18)


def test_a_loss_and_a_negative_net_cost_are_results():
    test = cutting_test(
        output("m", "main", "2 lb", retail="3", count=4), output("t", "credit", "7 lb", credit="9")
    )
    sheet = compute(test)
    assert sheet.costing.credit.net_cost == D(-13)
    assert sheet.costing.credit.cost_per_unit == D("-6.5")
    assert sheet.margin.gp == D(-44)


def test_nothing_saleable_has_no_true_cost():
    test = cutting_test(output("skin", "discard", "1 lb"))
    assert compute(test).costing.flat.true_cost is None
    with pytest.raises(NothingSaleable):
        true_cost(D(50), D(0))


@pytest.mark.long
@settings(max_examples=120)
@given(any_test())
def test_the_parts_foot_to_the_cost_in_every_school_that_spreads_it(test):
    sheet = compute(test)
    for school in (CostingSchool.FLAT, CostingSchool.CREDIT, CostingSchool.SALES_VALUE):
        per = unit_costs(test, sheet.figures, sheet.costing, school)
        lines = zip(per, sheet.figures.outputs, strict=True)
        with working():
            carried = sum(c * line.weight for c, line in lines if c is not None)
        spreads = {
            CostingSchool.FLAT: sheet.costing.flat.true_cost is not None,
            CostingSchool.CREDIT: sheet.costing.credit.cost_per_unit is not None,
            CostingSchool.SALES_VALUE: sheet.costing.sales_value is not None,
        }[school]
        if spreads:
            assert abs(carried - sheet.figures.cost) < D("1e-25")
    if sheet.costing.sales_value:
        margins = {
            round((o.retail.amount - row.cost_per_unit) / o.retail.amount, 20)
            for o, row in zip(
                (o for o in test.outputs if o.goes_to_case),
                sheet.costing.sales_value.outputs,
                strict=True,
            )
        }
        assert len(margins) == 1  # every cut shows the same margin


def test_money_of_every_output_foots_with_the_piece():
    """What is sold by price, and the cost each carries, in the order of the outputs."""
    test = whole()
    sheet = compute(test)
    assert sum(filter(None, sales_of(test, sheet.figures))) == sheet.margin.retail
    for school in (CostingSchool.FLAT, CostingSchool.SALES_VALUE):
        per_unit = unit_costs(test, sheet.figures, sheet.costing, school)
        carried = [cost for cost in costs_of(per_unit, sheet.figures) if cost is not None]
        assert abs(sum(carried) - sheet.figures.cost) < D("1e-25")
    assert at_cost(sheet.costing.flat.true_cost, D("0.5")) == sheet.costing.flat.true_cost / 2
    assert at_cost(sheet.costing.flat.true_cost, None) is None


def test_each_school_answers_per_output():
    test = whole()
    sheet = compute(test)
    costs = {s: unit_costs(test, sheet.figures, sheet.costing, s) for s in CostingSchool}
    assert costs[CostingSchool.FLAT] == (D("6.25"), D("6.25"), D("6.25"), None, None)
    assert costs[CostingSchool.CREDIT] == (D("8.875"), D(4), D(3), D("0.5"), None)
    assert costs[CostingSchool.REPLACEMENT] == (D(10), D(6), D(4), None, None)
    assert costs[CostingSchool.SALES_VALUE][3:] == (None, None)
