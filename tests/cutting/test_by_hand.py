"""Worked by hand, one example a rule: sums whose every part shows in the answer.

Each was written for a change of the code that no other test noticed (mutation check).
Common practice, no published source.
"""

from dataclasses import replace
from decimal import Decimal

import pytest

from cutting.costing.schools import CostingSchool, totals
from cutting.costing.sheet import compute, percents_of_paid, sales_of
from cutting.errors import BadValue
from cutting.planning.buying import gave
from cutting.prices.ads import Sold, Way, blend, example_weeks, plan_ad, share_for_margin, week_bars
from cutting.prices.ladder import Aim, PriceLine, each_alone, solve
from cutting.prices.margins import (
    MOST_PRICE,
    Convention,
    Loads,
    Policy,
    in_other_unit,
    propose,
    retail_price,
)
from cutting.prices.repricing import PricedProduct, by_factor, in_full, reprice
from cutting.quantities import Band, Direction, EndingRule, Unit, UnitPrice, Weight
from cutting.sheet.cutting_test import figures
from cutting.sheet.forecast import forecast
from cutting.sheet.portioning import expected_weight, next_cut
from cutting.sheet.trays import trays
from cutting.sheet.yields import Pooled, cost_between, pooled, rest_on
from tests.cutting.build import cutting_test, output, piece
from wording.block import hint_words
from wording.price import comfort_words

D = Decimal
CENT = EndingRule((Band(None, (D(0),), D("0.01")),), Direction.NEAREST)
UP = EndingRule((Band(None, (D("0.99"),)),))


def steak_and_fat(**fat):
    """10 lb at 5.00: 4 lb of steak in 8 portions, fat and bones that are not sold here."""
    return cutting_test(
        output("steak", "main", "4 lb", count=8, retail="14", replacement="10", minutes="10"),
        output("fat", "credit", "2 lb", **(fat or {"credit": "0.5"})),
        output("bones", "credit", "3 lb", credit="1"),
        labour_rate=D(24),
    )


# --- costing --------------------------------------------------------------------------------


def test_by_products_that_are_not_sold_here_are_summed_beside():
    """2 × 0.50 + 3 × 1.00 = 4.00; without one of the values nothing is said."""
    test = steak_and_fat()
    assert totals(test, figures(test)).beside == D(4)
    test = steak_and_fat(count=1)
    sums = totals(test, figures(test))
    assert (sums.beside, sums.credits) == (None, None)
    test = steak_and_fat(in_case=True, retail="2")
    sums = totals(test, figures(test))
    assert (sums.credits, sums.beside) == (None, D(3))  # what is sold in the case is not beside


def test_each_figure_of_the_credit_and_sales_value_schools():
    """50.00 − 4.00 = 46.00: 5.75 a portion, 1.15 of the price; 56.00 − 50.00 is 10.71 %."""
    costs = compute(steak_and_fat()).costing
    assert costs.credit.cost_per_portion == D("5.75")
    assert (costs.credit.factor_per_portion, costs.credit.factor_per_unit) == (D("1.15"), D("2.3"))
    assert round(costs.sales_value.gp_percent, 4) == D("10.7143")
    assert costs.replacement.gain == 40 - 50 - 4  # bought ready less cost less ten minutes


def test_a_cut_without_a_replacement_price_leaves_that_school_without_an_answer():
    test = steak_and_fat(in_case=True, retail="2")
    assert compute(test).costing.replacement is None
    assert compute(test).margin.retail == 60


def test_sales_are_of_what_goes_to_the_case_alone():
    test = cutting_test(
        output("steak", "main", "4 lb", retail="14"), output("fat", "credit", "2 lb", retail="3")
    )
    assert sales_of(test, figures(test)) == (56, None)
    assert percents_of_paid([D(4), D(1)], D(8)) == [50, D("12.5")]


# --- figures of a pile ----------------------------------------------------------------------


def test_every_figure_of_a_counted_pile():
    """7, 9 and 8 oz against 8: the band is 7.5 to 8.5; heavy by one ounce in all."""
    test = cutting_test(
        output("filet", "main", "7 oz", "9 oz", "8 oz", count=3, target="8 oz"),
        output("roast", "main", "3 lb", count=2),
        output("trim", "credit", "1 lb"),
    )
    filet, roast, trim = figures(test).outputs
    assert (filet.name, filet.count, filet.share) == ("filet", 3, D("0.15"))
    assert (filet.deviation * 16, filet.give_away * 16) == (1, 1)
    assert round(filet.within_tolerance, 4) == D("0.3333")
    assert (roast.name, roast.count, roast.share, roast.mean) == ("roast", 2, D("0.3"), D("1.5"))
    assert (trim.name, trim.count, trim.share) == ("trim", None, D("0.1"))
    two = figures(cutting_test(output("x", "main", "7 oz", "9 oz", count=2))).outputs[0]
    assert round(two.deviation * 16, 10) == round(D(2).sqrt(), 10)
    assert two.give_away is None


def test_trays_are_numbered_and_know_their_size_and_sticker():
    half = Weight.of("0.5", "lb")
    made = trays([half] * 5, 2, UnitPrice.of("9.99", "lb"), Unit.LB)
    assert [(t.number, t.count, t.size) for t in made] == [(1, 2, 2), (2, 2, 2), (3, 1, 2)]
    assert [t.sticker for t in made] == [D("9.99"), D("9.99"), D("5.00")]


def test_the_hint_tells_how_far_off_and_which_way():
    ounces = [Weight.of("8.8", "oz")]
    heavy = next_cut(ounces, Weight.of("8", "oz"), "1 in")
    assert (heavy.off, heavy.thinner > 0) == (D("0.8"), True)
    light = next_cut([Weight.of("7", "oz")], Weight.of("8", "oz"), "1 in")
    assert (light.off, light.thinner < 0) == (D(-1), True)
    assert next_cut(ounces, Weight.of("8", "oz")).off == D("0.8")
    grams = next_cut([Weight.of("260", "g")], Weight.of("227", "g"))
    assert "33 g heavy" in hint_words(grams)
    assert expected_weight(D("0.4"), D(10)) == 4
    assert expected_weight(None, D(10)) is None


def test_the_rest_goes_to_what_is_short_of_its_share():
    """10 lb at 5.00; 2 lb of steak lie there, 4 lb of 8 are still wanted; stew has none yet.

    Half of the rest each: 4 lb steak of the 5 wanted … 8 lb left for 3 + 2 wanted: both are met.
    """
    test = cutting_test(
        output("steak", "main", "2 lb", retail="14"), output("stew", "main", retail="8")
    )
    ahead = forecast(test, figures(test), [D("0.5"), D("0.2")])
    assert (ahead.saleable, round(ahead.true_cost, 6)) == (D("0.7"), round(50 / D(7), 6))
    assert round(ahead.gp_percent, 4) == round((86 - D(50)) / 86 * 100, 4)
    scarce = forecast(test, figures(test), [D("1"), D("0.8")])  # 16 lb wanted of 8
    assert scarce.saleable == 1
    unknown = forecast(test, figures(test), [None, None])
    assert (unknown.saleable, round(unknown.gp_percent, 4)) == (D("0.2"), D("-78.5714"))
    bare = cutting_test(output("steak", "main", "2 lb"), output("fat", "credit"))
    assert forecast(bare, figures(bare), [None, None]).gp_percent is None
    nothing = cutting_test(output("fat", "credit", "1 lb"))
    assert forecast(nothing, figures(nothing), [D("0.1")]).true_cost is None


# --- yields over tests ----------------------------------------------------------------------


def test_every_figure_of_a_pool():
    one = pooled([(D(3), D(4))])
    assert one == Pooled(1, D("0.75"), D("0.75"), D("0.75"), D("0.75"))
    two = pooled([(D(1), D(2)), (D(3), D(4))])
    assert (two.mean, two.least, two.most) == (D("0.625"), D("0.5"), D("0.75"))
    assert round(two.share, 6) == D("0.666667")
    assert round(two.deviation, 6) == D("0.176777")
    assert round(two.high - two.mean, 4) == round(two.mean - two.low, 4) == D("1.5882")
    for none in ([], [(D(1), D(0))]):
        with pytest.raises(BadValue, match="tests"):
            pooled(none)


def test_a_pile_that_only_another_test_had_is_expected_too():
    like = cutting_test(output("steak", "main", "4 lb", count=8), of=piece(opened_weight="9.8 lb"))
    other = cutting_test(
        output("steak", "main", "6 lb", count=9), output("tips", "secondary", "2 lb")
    )
    rest = rest_on([like, other], like)
    steak, tips = rest.test.outputs
    assert [w.weight.value for w in steak.weighings] == [5]
    assert (tips.name, [w.weight.value for w in tips.weighings]) == ("tips", [1])
    assert (steak.count, rest.test.piece.opened_weight) == (None, None)
    assert (rest.saleable.share, rest.outputs["tips"].least) == (D("0.6"), 0)
    alone = rest_on([like], like)
    assert alone.test.outputs[0].count == 8
    nothing = cutting_test(output("fat", "credit", "1 lb"))
    assert rest_on([nothing], nothing).saleable.share == 0


def test_the_true_cost_lies_between_the_ends_of_the_yield():
    yields = Pooled(3, D("0.5"), D("0.5"), low=D("0.4"), high=D("1.2"))
    assert cost_between(D(50), yields, D(10)) == (5, D("12.5"))  # no yield is over 100 %
    for low, high in ((None, D(1)), (D("0.4"), None), (D(0), D(1))):
        assert cost_between(D(50), replace(yields, low=low, high=high), D(10)) is None


def test_what_tests_gave_for_a_choice_of_what_to_buy():
    """Two pieces of 10 lb: 4 and 6 lb of filet, ten minutes each, 2 lb of fat at 0.50 each."""
    made = [
        cutting_test(
            output("filet", "main", f"{pounds} lb", minutes="10"),
            output("fat", "credit", "2 lb", credit="0.5"),
            of=piece("10 lb", at),
            labour_rate=D(24),
        )
        for pounds, at in ((4, "5"), (6, "7"))
    ]
    found = gave(made)
    assert (found.tests, found.price, found.per) == (2, 5, Unit.LB)
    assert (found.ready.share, found.minutes, found.credits) == (D("0.5"), 1, D("0.1"))
    assert gave([cutting_test(output("fat", "credit", "2 lb"))]) is None


# --- prices ---------------------------------------------------------------------------------


def test_a_proposal_with_all_that_a_price_carries():
    """(6.00 + 0.50 + 0.20) / 0.95 = 7.0526; at 40 % 11.7544; with 10 % tax 12.9298, so 12.99."""
    loads = Loads(D("0.5"), D("0.2"), D("0.05"))
    found = propose(D(6), Policy(D("0.4"), UP), loads, D("0.1"))
    assert (found.price, round(found.exact, 4)) == (D("12.99"), D("12.9298"))
    assert round(found.loaded_cost, 4) == D("7.0526")
    assert (round(found.margin, 4), round(found.markup, 4)) == (D("0.4028"), D("0.6744"))
    by_cost = propose(D(6), Policy(D("0.5"), CENT, by=Convention.MARKUP))
    assert by_cost.price == 9


def test_a_floor_counts_loads_and_tax_and_says_what_it_refused():
    """Rounded down 12.93 becomes 11.99: 10.90 without tax leaves 35.3 % of the 7.05 it carries."""
    down = EndingRule((Band(None, (D("0.99"),)),), Direction.DOWN)
    loads = Loads(D("0.5"), D("0.2"), D("0.05"))
    found = propose(D(6), Policy(D("0.4"), down, floor=D("0.38")), loads, D("0.1"))
    assert found.price == D("12.99")
    assert "11.99 would leave 35.3 %" in found.why


@pytest.mark.parametrize("amount", ["0.01", "0.99", "1", str(MOST_PRICE)])
def test_the_least_and_the_most_a_tag_can_show(amount):
    assert retail_price(D(amount)) == D(amount)
    with pytest.raises(BadValue, match=r"^price: 0 "):
        retail_price(D(0))


def test_a_pound_price_as_a_kilo_shows_it_and_back():
    assert in_other_unit(UnitPrice.of("9.99", "lb")) == UnitPrice.of("22.02", "kg")
    assert in_other_unit(UnitPrice.of("22.02", "kg")) == UnitPrice.of("9.99", "lb")
    assert in_other_unit(UnitPrice.of("1", "oz")) is None


def test_a_moved_cost_with_loads_and_tax():
    """10.00 with a tax of 25 % leaves 8.00; cost 3.00 and now 5.00, a loaded lb 1.00 more."""
    standing = PricedProduct(D(10), D(3), Policy(D("0.5"), CENT), Loads(D(1)), D("0.25"))
    moved = reprice(standing, D(5))
    assert (moved.margin_before, moved.margin_now) == (D("0.5"), D("0.25"))
    assert (moved.price, moved.proposal.margin) == (15, D("0.5"))
    assert by_factor(D(4), UnitPrice.of("0.5", "lb"), UnitPrice.of("0.75", "lb")) == 6
    test = cutting_test(output("Filet", "main", "4 lb"))
    costs = in_full(test, CostingSchool.FLAT, UnitPrice.of("6", "lb"))
    assert costs == {"filet": UnitPrice.of("15", "lb")}


def test_the_edges_of_a_blend_and_of_its_goal():
    plain, other = Way("roasts", D(10), D(8)), Way("steaks", D(20), D(8))
    assert blend(plain, other, D(0)).sales == 10
    assert blend(plain, other, D(1)).sales == 20
    assert blend(plain, other, D("0.5")).share == D("0.5")
    assert share_for_margin(plain, other, D("0.2")) == 0  # the ad makes it to the cent
    assert share_for_margin(plain, other, D("0.6")) == 1  # all of them make it to the cent
    assert share_for_margin(plain, Way("x", D(10), D("7.5")), D("0.3")) is None
    for goal in ("1", "1.5"):
        with pytest.raises(BadValue, match="goal"):
            share_for_margin(plain, other, D(goal))


def test_a_week_of_cents_and_its_bars():
    ad = plan_ad(
        Sold("tip", D("0.5"), D("0.4"), D(1), D(1), D("0.6")),
        [Sold("stew", D(1), D("0.2"), D(0)), Sold("bones", D(1), D(1), D(0))],
    )
    assert ad.week.margin == D("0.2")
    assert [(one.name, one.pounds) for one in ad.win_back] == [
        ("stew", D("0.125")),
        ("bones", None),
    ]
    usual, week = week_bars(ad, width=600.0)
    assert (usual.cost, usual.sales, usual.profit, usual.loss) == (400.0, 600.0, 200.0, 0.0)
    assert (week.cost, week.sales) == (400.0, 500.0)
    at_a_loss = plan_ad(Sold("tip", D(1), D(2), D(1), D(1), D(1)), [])
    assert [(bar.loss, bar.profit) for bar in week_bars(at_a_loss, 100.0)] == [(50.0, 0.0)] * 2
    assert week_bars(plan_ad(Sold("tip", D(1), D(1), D(0), D(0), D(1)), [])) == ()
    assert example_weeks(D("100"), 28, Unit.KG, is_item=False) == (D("11.3"), D("13.6"))


def shelf(name, weight, rung, cost="4", **more):
    return PriceLine(name, D(weight), D(cost), D(rung), CENT, **more)


def test_shrink_and_tax_are_inside_the_target_and_an_adder_comes_on_top():
    """Half of 60.00 is wanted, with a kept share of 0.8; 1.00 added a lb lifts the margin.

    Line one: 2 lb at 10.00 × f + 1.00, of which 0.8 is kept; line two: 4 lb at 5.00 × f.
    60 = 16 f + 20 f; f = 60 / 36. With 1.6 of adders it brings 61.6: (61.6 − 30) / 61.6.
    """
    lines = [
        shelf("cubed", "2", "10", loads=Loads(shrink=D("0.2")), adder=D(1)),
        shelf("stew", "4", "5"),
    ]
    built = solve(D(30), lines, Aim(D("0.5")))
    assert round(built.factor, 10) == round(D(60) / 36, 10)
    assert round(built.lines[0].exact, 8) == round(10 * D(60) / 36 + 1, 8)
    assert abs(built.whole.margin - D("31.6") / D("61.6")) < D("0.001")


def test_each_alone_says_what_it_cannot_price():
    built = each_alone(D(30), [shelf("steak", "2", "10"), replace(shelf("x", "1", "5"), cost=None)])
    assert any("x" in trouble for trouble in built.troubles)
    locked = each_alone(
        D(30), [shelf("steak", "2", "10"), replace(shelf("x", "1", "5"), cost=None, locked=D(6))]
    )
    assert not any("cost" in trouble for trouble in locked.troubles)


def test_a_sticker_a_shopper_is_at_ease_with():
    """Four portions of half a lb at 12.00 make 24.00; three would be 18.00, in a tray for three."""
    sizes = [("small", 2), ("three", 3), ("large", 4)]
    assert comfort_words(D(12), D(2), D(24), 4, sizes) == ""
    told = comfort_words(D(12), D(2), D(20), 4, sizes)
    assert told == (
        "24.00 is over the 20.00 a shopper is at ease with:"
        " 3 a tray instead of 4 makes 1.50, 18.00 in tray three"
    ).replace(" in tray", ", in tray")
    assert "1 a tray instead of 4" in comfort_words(D(12), D(2), D(6), 4)
    assert "cut to 25.0 % of the weight" in comfort_words(D(12), D(2), D(6), 1)
    assert "cut to 20.8 % of the weight" in comfort_words(D(12), D(2), D(5), 4)
