from decimal import Decimal
from fractions import Fraction
from statistics import stdev

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from cutting.errors import BadValue
from cutting.quantities import Unit, UnitPrice, Weight, working
from cutting.sheet.cutting_test import (
    CuttingTest,
    Output,
    Piece,
    Role,
    Weighing,
    figures,
    portion_tolerance,
    same_name,
    shares_of_opened,
    still_on_block,
)
from tests.cutting.build import LB, cutting_test, output, piece, price, tenderloin, weight

D = Decimal


def test_a_gain_inside_what_rounding_explains_is_in_balance():
    """The worked example: parts of 6.18 lb from 6.17 lb. Common practice, no published source."""
    balance = figures(tenderloin()).balance
    assert balance.unaccounted == D("-0.01")
    assert balance.in_balance
    assert balance.beyond == 0


def test_rounding_explains_the_smaller_of_the_halves_and_three_sigma():
    """n + 1 = 4 weighings of 0.01: halves 0.02, 3·√(4·0.0001/12) = 0.01732; two scales 0.02."""
    gain = figures(tenderloin()).balance.allowed_gain
    assert abs(gain - (D("0.0173205080757") + D("0.02"))) < D("1e-12")
    one = figures(cutting_test(output("a", "main", "9 lb"))).balance.allowed_gain
    assert one == D("0.01") + D("0.02")  # two weighings: halves win


def test_no_two_scales_when_the_piece_was_weighed_on_the_shops_own():
    own = cutting_test(output("a", "main", "9.9 lb"), of=piece(opened_weight="9.9 lb"))
    assert figures(own).balance.allowed_gain == D("0.01")


def test_each_weighing_brings_its_own_division():
    coarse = Output("a", Role.MAIN, (Weighing(weight("9 lb"), weight("1 lb")),))
    assert figures(cutting_test(coarse)).balance.allowed_gain == D("0.505") + D("0.02")


@pytest.mark.parametrize(("sawn", "allowance"), [(False, "0.05"), (True, "0.15")])
def test_the_allowance_for_a_loss_is_larger_when_sawn(sawn, allowance):
    balance = figures(cutting_test(output("a", "main", "9 lb"), sawn=sawn)).balance
    assert balance.allowed_loss - balance.allowed_gain == D(allowance)


@pytest.mark.parametrize(
    ("weighed", "in_balance", "beyond"),
    [("10.03", True, "0"), ("10.04", False, "-0.01"), ("9.92", True, "0"), ("9.90", False, "0.02")],
)
def test_the_edges_of_the_balance_are_inside(weighed, in_balance, beyond):
    """One output of 10 lb paid: gain 0.01 + 0.02, loss 0.03 + 0.05."""
    balance = figures(cutting_test(output("a", "main", f"{weighed} lb"))).balance
    assert (balance.in_balance, balance.beyond) == (in_balance, D(beyond))


@pytest.mark.parametrize(
    ("opened", "weighed", "purge", "unaccounted", "short"),
    [
        (None, None, None, "1", None),
        ("9.7 lb", None, "0.3", "0.7", None),
        (None, "0.2 lb", "0.2", "0.8", None),
        ("9.7 lb", "0.2 lb", "0.2", "0.8", "0.1"),
        ("9.79 lb", "0.2 lb", "0.2", "0.8", None),
        ("10.1 lb", None, "-0.1", "1.1", None),
    ],
)
def test_weighed_purge_wins_over_the_difference(opened, weighed, purge, unaccounted, short):
    outputs = [output("a", "main", "9 lb")]
    if weighed:
        outputs.append(output("purge", "purge", weighed))
    of = piece(opened_weight=opened) if opened else piece()
    balance = figures(cutting_test(*outputs, of=of)).balance
    assert balance.purge == (None if purge is None else D(purge))
    assert balance.unaccounted == D(unaccounted)
    assert balance.short_weight == (None if short is None else D(short))


def test_yields_by_role():
    found = figures(
        cutting_test(
            output("steak", "main", "4 lb"),
            output("stew", "secondary", "1 lb"),
            output("grind", "credit", "1.5 lb", in_case=True),
            output("fat", "credit", "1 lb"),
            output("skin", "discard", "0.5 lb"),
            output("drip", "purge", "0.25 lb"),
        )
    ).yields
    assert (found.main, found.saleable, found.usable) == (D("0.4"), D("0.65"), D("0.75"))
    assert found.waste == D("0.25")


def test_portions_weighed_one_by_one():
    weights = ["7.8 oz", "8.6 oz", "8.0 oz", "8.2 oz"]
    line = figures(cutting_test(output("c", "main", *weights, count=4, target="8 oz"))).outputs[0]
    ounces = [float(w.split()[0]) for w in weights]
    assert line.mean == D("2.0375") / 4
    assert line.deviation is not None
    assert float(line.deviation) * 16 == pytest.approx(stdev(ounces))
    assert line.within_tolerance == D("0.75")
    assert line.give_away == D("0.8") / 16  # what lies under the target is not set off
    assert (line.smallest, line.largest) == (D("7.8") / 16, D("8.6") / 16)


def test_portions_weighed_together_have_a_mean_but_no_spread():
    line = figures(cutting_test(output("c", "main", "3 lb", count=6, target="8 oz"))).outputs[0]
    assert line.mean == D("0.5")
    assert (line.deviation, line.within_tolerance, line.give_away) == (None, None, None)


def test_one_portion_has_no_deviation():
    line = figures(cutting_test(output("c", "main", "8 oz", count=1))).outputs[0]
    assert line.deviation is None
    assert line.smallest == line.largest == D("0.5")


@pytest.mark.parametrize(("target", "off"), [("8 oz", "0.5"), ("10 oz", "0.5"), ("16 oz", "0.8")])
def test_the_band_is_five_percent_or_half_an_ounce(target, off):
    """Common practice, no published source."""
    assert portion_tolerance(weight(target).value, Unit.OZ) == D(off)


@pytest.mark.parametrize(
    ("build", "field"),
    [
        (lambda: piece("0 lb"), "weight"),
        (lambda: piece("-1 lb"), "weight"),
        (lambda: piece(at="0"), "price"),
        (lambda: piece(opened_weight="0 lb"), "opened_weight"),
        (lambda: piece(freight=D(-1)), "freight"),
        (lambda: piece(discount=D(51)), "discount"),
        (lambda: output("a", "main", "0 lb"), "weighing"),
        (lambda: output("a", "main", "-1 lb"), "weighing"),
        (lambda: output(" ", "main"), "name"),
        (lambda: output("a", "main", count=0), "count"),
        (lambda: output("a", "main", target="0 oz"), "target"),
        (lambda: output("a", "main", retail="0"), "retail"),
        (lambda: output("a", "main", replacement="0"), "replacement"),
        (lambda: output("a", "credit", credit="-1"), "credit"),
        (lambda: output("a", "main", minutes="-1"), "minutes"),
        (lambda: cutting_test(output("A  b", "main"), output("a B", "main")), "outputs"),
        (lambda: cutting_test(labour_rate=D(0)), "labour_rate"),
        (lambda: Weighing(weight("1 lb"), weight("0 lb")), "division"),
        (lambda: CuttingTest(piece(), weight("0 lb")), "scale_division"),
    ],
)
def test_what_the_trade_does_not_allow_is_refused_by_name(build, field):
    with pytest.raises(BadValue, match=rf"^{field}: .* right$"):
        build()


def test_names_that_a_person_reads_as_one_are_one():
    assert same_name(" Filet  Tips") == same_name("filet tips") != same_name("filet tip")
    assert same_name("Café") == same_name("CAFÉ")


def test_freight_and_discount_are_part_of_the_cost():
    assert piece(freight=D("4.50"), discount=D("1.25")).cost == D("53.25")
    assert Piece(weight("1 kg"), UnitPrice.of("10", "kg")).cost == 10


@pytest.mark.parametrize(("opened", "left"), [(None, "0.9"), ("9.5 lb", "0.5")])
def test_what_is_still_on_the_block(opened, left):
    of = piece(opened_weight=opened) if opened else piece()
    test = cutting_test(output("a", "main", "9 lb"), output("p", "purge", "0.1 lb"), of=of)
    assert still_on_block(test) == D(left)


def test_shares_can_be_of_the_opened_weight():
    opened = cutting_test(output("a", "main", "4.9 lb"), of=piece(opened_weight="9.8 lb"))
    assert shares_of_opened(opened, figures(opened)) == (D("0.5"),)
    unknown = cutting_test(output("a", "main", "4.9 lb"))
    assert shares_of_opened(unknown, figures(unknown)) is None


amounts = st.decimals(D("0.01"), D(30), places=2)
weighings = st.builds(Weight, amounts, st.sampled_from(list(Unit)))
roles = st.sampled_from([Role.MAIN, Role.SECONDARY, Role.CREDIT, Role.DISCARD, Role.PURGE])


@st.composite
def any_test(draw):
    """Any mix of roles, units and prices."""
    outputs = []
    for i in range(draw(st.integers(1, 8))):
        role = draw(roles)
        taken = draw(st.lists(weighings, max_size=4))
        outputs.append(
            Output(
                f"o{i}",
                role,
                tuple(map(Weighing, taken)),
                count=draw(st.none() | st.integers(1, 9)) if taken else None,
                retail=price(str(draw(amounts))),
                credit=price(str(draw(amounts))),
                in_case=draw(st.booleans()),
            )
        )
    opened = draw(st.none() | amounts)
    of = Piece(
        Weight(draw(amounts), LB),
        price(str(draw(amounts))),
        opened_weight=None if opened is None else Weight(opened, LB),
    )
    return cutting_test(*outputs, of=of)


@settings(max_examples=150)
@given(any_test())
def test_weight_is_conserved_and_shares_sum_to_one(test):
    found = figures(test)
    recorded = sum(
        Fraction(w.weight.value) * Fraction(w.weight.unit.grams)
        for o in test.outputs
        for w in o.weighings
    )
    weighed = sum(Fraction(line.weight) for line in found.outputs) * Fraction(LB.grams)
    assert abs(weighed - recorded) < Fraction(1, 10**30)
    yields = found.yields
    assert abs(yields.usable + yields.waste - yields.gain - 1) < D("1e-20")
    assert min(yields.waste, yields.gain) == 0 <= max(yields.waste, yields.gain)
    derived = (
        found.balance.purge
        if not any(o.role is Role.PURGE and o.weighings for o in test.outputs)
        else None
    )
    with working():
        parts = sum(line.weight for line in found.outputs)
        parts += (derived or 0) + found.balance.unaccounted
        assert abs(parts - found.paid) < D("1e-30")
    assert found.balance.in_balance == (found.balance.beyond == 0)
