"""Ad planning and what to buy."""

from decimal import Decimal

import pytest

from cutting.errors import BadValue
from cutting.planning.buying import Spec, compare, picture
from cutting.prices.ads import (
    Sold,
    Way,
    blend,
    brings,
    example_price,
    example_weeks,
    plan_ad,
    sells_for,
    share_for_margin,
)
from cutting.prices.margins import Loads, Policy
from cutting.prices.repricing import PricedProduct, no_longer_holds, reprice
from cutting.quantities import Band, EndingRule, Unit, UnitPrice, Weight
from wording.plan import ad_pencil, buy_pencil, moved_pencil, share_pencil

D = Decimal
ROUND = Sold("round roast", D("3.99"), D("4.20"), D(300), D(60), D("6.99"))
AROUND = [
    Sold("western tip", D("8.49"), D("4.60"), D(80), D(50)),
    Sold("cube steak", D("7.99"), D("4.80"), D(40), D(40)),
]


def test_an_ad_worked_by_hand():
    """An outside check by pencil. 300 lb at 3.99 cost 4.20: −63.00. Around it
    80 lb × (8.49 − 4.60) = 311.20 and 40 × (7.99 − 4.80) = 127.60; in all 375.80.
    Sales 1,197.00 + 679.20 + 319.60 = 2,195.80, so 17.1 %.
    A usual week: 60 × 2.79 = 167.40, 50 × 3.89 = 194.50, 127.60: 489.50.
    Given away: 3.00 × 300 = 900.00; won back by 900 / 3.89 = 231.4 lb of western tip.
    """
    ad = plan_ad(ROUND, AROUND)
    assert (ad.week.sales, ad.week.gp) == (D("2195.80"), D("375.80"))
    assert round(ad.week.margin, 3) == D("0.171")
    assert (ad.usual.gp, ad.change) == (D("489.50"), D("-113.70"))
    assert ad.given_away == D("900.00")
    assert [round(one.pounds, 1) for one in ad.win_back] == [D("231.4"), D("282.1")]


def test_what_a_pound_bought_sells_for_and_what_one_output_brings():
    """60 % at 14.00 a lb and 25 % at 13.2277 a kg (6.00 a lb): 9.90; 60 lb at 14.00: 840."""
    kilo = UnitPrice(D(6) / D("0.45359237"), Unit.KG)
    parts = [(D("0.6"), UnitPrice.of("14", "lb")), (D("0.25"), kilo)]
    assert round(sells_for(parts, Unit.LB), 10) == D("9.9")
    assert round(sells_for(parts, Unit.KG), 10) == round(D("9.9") / D("0.45359237"), 10)
    assert brings(*parts[0], Weight.of("100", "lb")) == D("840.0")
    assert round(brings(*parts[1], Weight.of("100", "lb")), 10) == D(150)


def test_an_ad_to_begin_with():
    """280 lb in 28 days are 70 lb a week; the ad doubles it, its neighbours sell a fifth more."""
    assert example_price(D("9.99")) == D("7.99")
    assert example_weeks(D(280), 28, Unit.LB, is_item=True) == (D(70), D(140))
    assert example_weeks(D(280), 28, Unit.LB, is_item=False) == (D(70), D(84))


@pytest.mark.parametrize(("margin", "gone"), [("0.39", False), ("0.3899", True), ("0.5", False)])
def test_a_price_three_points_under_its_target_no_longer_holds(margin, gone):
    assert no_longer_holds(D(margin), D("0.42")) is gone


def test_a_cut_that_earns_nothing_wins_nothing_back():
    ad = plan_ad(ROUND, [Sold("stew", D(4), D(5), D(10))])
    assert ad.win_back[0].pounds is None
    assert plan_ad(Sold("x", D(3), D(1), D(0), usual_price=D(2)), []).win_back == ()


def test_nothing_sold_has_no_margin_and_a_missing_usual_price_is_refused():
    assert plan_ad(Sold("x", D(3), D(1), D(0), D(0), D(4)), []).week.margin is None
    with pytest.raises(BadValue, match="usual price"):
        plan_ad(AROUND[0], [])
    with pytest.raises(BadValue, match="x, price"):
        Sold("x", D(0), D(1), D(1))


def test_the_break_even_share_is_where_the_blend_meets_the_goal():
    """All roasts at the ad price lose 0.20 on 4.00; steaks earn 3.00 on 7.20.
    For 20 %: (0.20 + 0.80) / (1.00 + 3.00 − 1.44) = 0.390625 of the pieces.
    """
    plain, steaks = Way("roasts", D("4.00"), D("4.20")), Way("steaks", D("7.20"), D("4.20"))
    share = share_for_margin(plain, steaks, D("0.2"))
    assert share == D("0.390625")
    assert blend(plain, steaks, share).margin == D("0.2")
    assert share_for_margin(steaks, plain, D("0.2")) == 0
    assert share_for_margin(plain, steaks, D("0.6")) is None
    with pytest.raises(BadValue, match="0 to 1"):
        blend(plain, steaks, D(2))


FULL = Spec("full", D("7.49"), D("0.42"), D("1.5"), D("1.45"), D("0.40"), D("0.44"), 8)
SKINNED = Spec("skinned", D("15.20"), D("0.97"), D("0.2"))


def test_the_cost_of_a_ready_pound_by_hand():
    """(7.49 − 1.45 + 1.5 × 24 / 60) / 0.42 = 15.81; (15.20 + 0.08) / 0.97 = 15.75.
    The full one ties at 15.7526 × 0.42 + 1.45 − 0.60 = 7.47.
    """
    full, skinned = compare([FULL, SKINNED], D(24))
    assert (round(full.cost, 2), round(skinned.cost, 2)) == (D("15.81"), D("15.75"))
    assert round(full.break_even, 2) == D("7.47")
    assert (full.is_best, skinned.is_best) == (False, True)
    assert round(full.low, 2) == D("15.09")
    assert not skinned.is_sure  # one of them has no spread


@pytest.mark.parametrize("price", ["7.00", "7.49", "9.00"])
def test_at_its_break_even_price_a_spec_ties_the_best_other(price):
    specs = [Spec("full", D(price), D("0.42"), D(2), D(1)), SKINNED, Spec("c", D(12), D("0.7"))]
    for i, one in enumerate(compare(specs, D(24))):
        changed = [*specs]
        changed[i] = Spec(
            one.spec.name, one.break_even, one.spec.ready, one.spec.minutes, one.spec.credits
        )
        again = compare(changed, D(24))
        others = min(other.cost for j, other in enumerate(again) if j != i)
        assert abs(again[i].cost - others) < D("1e-25")


def test_a_difference_is_sure_only_when_the_intervals_do_not_meet():
    far = Spec("far", D(9), D("0.4"), low=D("0.39"), high=D("0.41"))
    near = Spec("near", D(6), D("0.4"), low=D("0.39"), high=D("0.41"))
    assert [one.is_sure for one in compare([far, near], D(0))] == [True, True]
    wide = Spec("wide", D(6), D("0.4"), low=D("0.20"), high=D("0.60"))
    assert [one.is_sure for one in compare([far, wide], D(0))] == [False, False]


@pytest.mark.parametrize(
    ("wrong", "says"),
    [
        ({"ready": D(0)}, "more than 0 %"),
        ({"ready": D("1.01")}, "at most 100 %"),
        ({"price": D(0)}, "price"),
        ({"minutes": D(-1)}, "minutes"),
    ],
)
def test_an_impossible_specification_is_named(wrong, says):
    with pytest.raises(BadValue, match=f"tail.*{says}"):
        Spec("tail", **({"price": D(5), "ready": D("0.5")} | wrong))


def test_two_to_six_are_compared_and_the_picture_holds_them_all():
    with pytest.raises(BadValue, match="2 to 6"):
        compare([FULL], D(24))
    marks = picture(compare([FULL, SKINNED], D(24)), 600)
    assert max(mark.high or mark.width for mark in marks) == 600
    assert marks[0].low < marks[0].width < marks[0].high
    assert [mark.x for mark in marks] == [0, 0]
    paid = picture(compare([Spec("a", D(1), D("0.5"), credits=D(2)), SKINNED], D(0)), 600)
    assert paid[0].x == 0 < paid[0].width == paid[1].x


def written(pencil):
    return " | ".join(f"{step.words}: {step.numbers}" for step in pencil.steps)


def test_the_pencil_of_an_ad_and_of_a_share():
    text = written(ad_pencil(plan_ad(ROUND, AROUND), ROUND, AROUND))
    assert "300.00 × (3.99 − 4.20) + 80.00 × (8.49 − 4.60) + 40.00 × (7.99 − 4.80) = 375.80" in text
    assert "(6.99 − 3.99) × 300.00 = 900.00" in text
    assert "900.00 ÷ 3.89 = 231.4" in text
    plain, steaks = Way("roasts", D("4.00"), D("4.20")), Way("steaks", D("7.20"), D("4.20"))
    text = written(share_pencil(plain, steaks, D("0.2"), D("0.390625")))
    assert "20.0 % × 4.00 − −0.20 = 1.00" in text
    assert "1.00 ÷ (1.56 + 1.00) = 39.1 %" in text
    assert "share" not in written(share_pencil(steaks, plain, D("0.2"), D(0)))


def test_the_pencil_of_a_ready_pound():
    full, _ = compare([FULL, SKINNED], D(24))
    text = written(buy_pencil(full, D(24)))
    assert "(7.49 − 1.45 + 0.60) ÷ 42.0 % = 15.81" in text
    assert "15.75 × 42.0 % + 1.45 − 0.60 = 7.47" in text


def test_the_pencil_of_a_moved_price():
    """5.00 becomes 6.00 with 20 % more paid; at 50 % the price is 12.00, then its ending."""
    ends = EndingRule((Band(None, (D("0.49"), D("0.99"))),))
    standing = PricedProduct(D("9.99"), D(5), Policy(D("0.5"), ends), Loads())
    moved = reprice(standing, D(6))
    invoice = (UnitPrice.of("4", "lb"), UnitPrice.of("4.80", "lb"))
    text = written(moved_pencil(standing, D(6), invoice, moved))
    assert "5.00 × 4.80 ÷ 4.00" in text
    assert "(9.99 − 6.00) ÷ 9.99 = 39.9 %" in text
    assert "6.00 ÷ (1 − 50.0 %) = 12.00 → 12.49" in text
