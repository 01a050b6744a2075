"""Held against something nobody here made. Each check names its source."""

from decimal import Decimal
from fractions import Fraction

import numpy as np
import pint
import pytest
from scipy import optimize, stats

from cutting.costing.schools import CostingSchool, unit_costs
from cutting.costing.sheet import compute
from cutting.prices.ladder import Aim, PriceLine, solve
from cutting.prices.margins import Loads, exact_price, markup_as_margin, markup_of
from cutting.quantities import Band, EndingRule, Unit, class_iii_tolerance_divisions, convert
from cutting.sheet.yields import pooled, t_of
from tests.cutting.build import cutting_test, output, piece
from wording.shopper import core_of

D = Decimal


@pytest.mark.parametrize(
    ("unit", "grams"),
    [(Unit.LB, "453.59237"), (Unit.OZ, "28.349523125"), (Unit.KG, "1000"), (Unit.G, "1")],
)
def test_the_pound_and_the_ounce_are_exact(unit, grams):
    """NIST SP 811 and Handbook 44, Appendix C: 1 lb = 0.45359237 kg exactly; 1 oz = 1/16 lb."""
    assert unit.grams == D(grams)


UNITS = pint.UnitRegistry(non_int_type=Fraction)


@pytest.mark.parametrize("source", ["g", "kg", "oz", "lb"])
@pytest.mark.parametrize("target", ["g", "kg", "oz", "lb"])
def test_conversions_agree_with_pint(source, target):
    """Reference library: pint, in exact fractions."""
    reference = UNITS.Quantity(Fraction("6.17"), source).to(target).magnitude
    ours = Fraction(convert(D("6.17"), Unit(source), Unit(target)))
    assert abs(ours - reference) <= abs(reference) * Fraction(1, 10**30)


def test_joint_cost_shared_by_sales_value():
    """Horngren, Cost Accounting, joint costs: 400,000 over 25,000 units at 8 and 75,000 at 4 is
    160,000 and 240,000; by physical measure 100,000 and 300,000. Value from memory.
    """
    test = cutting_test(
        output("cream", "main", "25000 lb", retail="8"),
        output("skim", "main", "75000 lb", retail="4"),
        of=piece("100000 lb", "4"),
    )
    sheet = compute(test)
    assert [row.cost for row in sheet.costing.sales_value.outputs] == [D(160000), D(240000)]
    flat = unit_costs(test, sheet.figures, sheet.costing, CostingSchool.FLAT)
    weights = [line.weight for line in sheet.figures.outputs]
    assert [c * w for c, w in zip(flat, weights, strict=True)] == [D(100000), D(300000)]


@pytest.mark.parametrize(("of_sales", "of_cost"), [("1/2", "1"), ("1/3", "1/2"), ("1/4", "1/3")])
def test_margin_and_markup_equivalents(of_sales, of_cost):
    """Arithmetic of any retail handbook: 50 % of sales is 100 % of cost, and so on."""

    def number(text):
        top, _, bottom = text.partition("/")
        return D(top) / D(bottom or 1)

    assert abs(markup_of(D(1), 1 - number(of_sales)) - number(of_cost)) < D("1e-25")
    assert abs(markup_as_margin(number(of_cost)) - number(of_sales)) < D("1e-25")
    assert abs(exact_price(D(6), number(of_sales)) - 6 * (1 + number(of_cost))) < D("1e-24")


@pytest.mark.parametrize(
    ("divisions", "off"),
    [(1, 1), (500, 1), (501, 2), (2000, 2), (2001, 3), (4000, 3), (4001, 5), (10000, 5)],
)
def test_class_iii_maintenance_tolerance(divisions, off):
    """NIST Handbook 44, section 2.20, Table 6."""
    assert class_iii_tolerance_divisions(divisions) == off


def test_a_credit_test_as_worked_in_the_trade():
    """Common practice, no published source: the tenderloin example, to the printed cent."""
    test = cutting_test(
        output("trim", "credit", "2.21 lb", credit="0.99"),
        output("tails", "credit", "1.36 lb", credit="4.95"),
        output("portions", "main", "2.61 lb", count=6),
        of=piece("6.17 lb", "7.49"),
    )
    credit = compute(test).costing.credit
    assert [round(x, 2) for x in (credit.net_cost, credit.cost_per_unit)] == [
        D("37.29"),
        D("14.29"),
    ]


def test_students_t_agrees_with_scipy():
    """Reference library: scipy.stats; NIST/SEMATECH e-Handbook 1.3.6.7.2, to three decimals."""
    for degrees in range(1, 101):
        assert abs(float(t_of(degrees)) - stats.t.ppf(0.975, degrees)) < 0.0005 + 1e-9


def test_the_interval_of_a_yield_agrees_with_scipy():
    """Reference library: scipy.stats.t.interval."""
    yields = [0.781, 0.802, 0.776, 0.795, 0.769]
    found = pooled([(D(str(y)) * 20, D(20)) for y in yields])
    low, high = stats.t.interval(0.95, 4, np.mean(yields), stats.sem(yields))
    assert abs(float(found.low) - low) < 1e-5
    assert abs(float(found.high) - high) < 1e-5


@pytest.mark.parametrize("target", ["0.15", "0.30", "0.42", "0.65"])
def test_the_factor_agrees_with_an_independent_solver(target):
    """Reference library: scipy.optimize.brentq on the margin itself, no algebra."""
    cent = EndingRule((Band(None, (D(0),), D("0.01")),))
    lines = [
        PriceLine("a", D("2.4"), D(4), D("11.99"), cent),
        PriceLine("b", D("5.1"), D(4), D("8.49"), cent, loads=Loads(D("0.3"), D("0.1"), D("0.04"))),
        PriceLine("c", D("3.3"), D(4), D("6.49"), cent, locked=D("6.49"), tax=D("0.08")),
        PriceLine("d", D("1.9"), D(4), D("7.99"), cent, tax=D("0.08")),
    ]

    def off(factor):
        sales = cost = 0.0
        for x in lines:
            price = float(x.locked or x.rung * D(factor))
            kept = (1 - float(x.loads.shrink)) / (1 + float(x.tax))
            sales += price * float(x.weight) * kept
            cost += float(x.weight * (x.loads.labour + x.loads.packaging))
        return (sales - cost - 52.3) / sales - float(target)

    built = solve(D("52.3"), lines, Aim(D(target)))
    assert abs(float(built.factor) - optimize.brentq(off, 0.01, 50, xtol=1e-13)) < 1e-9


@pytest.mark.parametrize(
    ("is_ground", "fahrenheit", "celsius", "rest"),
    [(False, 145, "62.8", 3), (True, 160, "71.1", 0)],
)
def test_meat_is_safe_from_the_published_minimum(is_ground, fahrenheit, celsius, rest):
    """USDA FSIS, safe minimum internal temperatures: whole muscle, ground."""
    core = core_of(is_ground=is_ground)
    assert (core.fahrenheit, core.celsius, core.rest_minutes) == (fahrenheit, D(celsius), rest)
