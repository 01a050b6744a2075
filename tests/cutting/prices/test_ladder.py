"""Prices of a whole piece: the factor, locks, floors, endings, the edges."""

from dataclasses import replace
from decimal import Decimal
from itertools import product

import pytest
from hypothesis import given
from hypothesis import strategies as st

from cutting.errors import BadValue
from cutting.prices.ladder import (
    Adder,
    Aim,
    PriceLine,
    adder_effect,
    at_prices,
    each_alone,
    gain_of_steps,
    solve,
    stops,
    with_adders,
)
from cutting.prices.margins import Convention, Loads
from cutting.quantities import NOISE, Band, Direction, EndingRule, Unit
from wording.price import comfort_words, piece_pencil, price_pencil

D = Decimal
CENT = EndingRule((Band(None, (D(0),), D("0.01")),), Direction.NEAREST)
SHOP = EndingRule((Band(D(20), (D("0.49"), D("0.99"))), Band(None, (D("0.99"),))))
NEAREST = replace(SHOP, direction=Direction.NEAREST)


def line(name="flat iron", weight="2", rung="10", cost="4", **more):
    facts = {key: D(value) if type(value) is str else value for key, value in more.items()}
    rung = None if rung is None else D(rung)
    cost = None if cost is None else D(cost)
    return PriceLine(name, D(weight), cost, rung, **({"endings": CENT} | facts))


def clod(**more):
    return [line(), line("ranch", "5", "7", "4", **more), line("stew", "4", "6", "4")]


def test_one_factor_meets_the_target_to_the_last_digit():
    built = solve(D(50), clod(), Aim(D("0.4")))
    exact = sum(row.exact * row.line.weight for row in built.lines)
    assert abs(exact - D(50) / D("0.6")) < D("1e-24")
    assert abs(built.before_endings.margin - D("0.4")) < D("1e-24")
    for row in built.lines:
        assert abs(row.exact / row.line.rung - built.factor) < D("1e-26")


def test_a_markup_target_is_the_same_target():
    """100 % of cost is 50 % of sales."""
    of_cost = solve(D(50), clod(), Aim(D(1), Convention.MARKUP))
    assert of_cost.factor == solve(D(50), clod(), Aim(D("0.5"))).factor


def test_locks_stay_and_the_others_carry_the_rest():
    built = solve(D(50), clod(locked="5.99"), Aim(D("0.4")))
    assert built.lines[1].price == D("5.99")
    assert built.lines[0].price > solve(D(50), clod(), Aim(D("0.4"))).lines[0].price
    assert abs(built.before_endings.margin - D("0.4")) < D("1e-24")


@pytest.mark.parametrize(
    ("lines", "says"),
    [
        (
            [line(locked="9"), line("stew", locked="6")],
            "Every price is locked, so nothing can be solved for 40.0 %; the piece makes",
        ),
        ([line(locked="90"), line("stew")], "The locked prices alone pass the target of 40.0 %"),
        ([line(locked="9"), line("stew", weight="0")], "What is not locked has no weight"),
        ([line(), line("stew", rung=None)], "No ladder for stew: give it a rung"),
        ([], "Nothing of this test goes to the case"),
        ([line(locked="9"), line("stew", rung=None)], "No ladder for stew: give it a rung"),
    ],
)
def test_what_cannot_be_solved_is_told(lines, says):
    built = solve(D(10), lines, Aim(D("0.4")))
    assert says in " ".join(built.troubles)
    assert bool(built.troubles) == bool(says)


def test_past_the_target_the_others_stand_at_their_floor_or_lowest_ending():
    plain, floored = line("stew", endings=SHOP), line("grind", endings=SHOP, floor="0.2")
    lines = [line(locked="90"), plain, floored]
    found = solve(D(10), lines, Aim(D("0.4"))).lines
    assert found[1].price == D("0.49")
    assert found[2].price == D("5.49")  # 4.00 / 0.8 = 5.00, then its ending
    assert "under the floor of 20.0 %" in found[2].why


def test_an_output_of_no_weight_has_its_rung_but_changes_nothing():
    with_it = solve(D(50), [*clod(), line("odd", weight="0", rung="8")], Aim(D("0.4")))
    assert with_it.factor == solve(D(50), clod(), Aim(D("0.4"))).factor
    assert with_it.lines[-1].price == round(with_it.factor * 8, 2)


def test_endings_apply_after_the_solve_and_say_what_they_bring():
    built = solve(D(50), [replace(one, endings=NEAREST) for one in clod()], Aim(D("0.4")))
    by_hand = sum((row.price - row.exact) * row.line.weight for row in built.lines)
    assert abs(built.endings_bring - by_hand) < D("1e-24")
    assert abs(built.whole.retail - built.before_endings.retail - by_hand) < D("1e-24")
    assert all(str(row.price)[-2:] in ("49", "99") for row in built.lines)


def test_a_lock_that_crosses_the_ladder_is_told_with_both_names():
    built = solve(D(50), clod(locked="30"), Aim(D("0.4")))
    assert "ranch at 30.00 a lb costs more than flat iron at" in " ".join(built.troubles)
    kilo = [line(per=Unit.KG, rung="23", locked="22"), line("stew", rung="9.99", locked="9.99")]
    assert "stew at 9.99 a lb costs more than flat iron at 22.00 a kg" in " ".join(
        at_prices(D(5), kilo).troubles
    )


def test_tax_and_shrink_come_off_the_sales_and_the_margin_is_on_the_rest():
    """11.00 with 10 % tax is 10.00; a tenth lost to shrink leaves 9.00 of each."""
    one = line(weight="10", cost="4.5", locked="11", tax="0.1", loads=Loads(shrink=D("0.1")))
    built = at_prices(D(45), [one])
    assert (built.whole.retail, built.whole.gp) == (D(90), D(45))
    assert (built.lines[0].margin, built.lines[0].markup) == (D("0.5"), D(1))


def test_labour_and_packaging_join_the_piece_and_each_product():
    loads = Loads(labour=D("0.40"), packaging=D("0.10"))
    built = each_alone(D(8), [line(loads=loads, target="0.5")])
    assert (built.cost, built.lines[0].exact) == (D(9), D(9))
    assert built.whole.margin == D("0.5")


def test_each_alone_puts_tax_and_adders_on_top():
    built = each_alone(D(8), [line(target="0.5", tax="0.1", adder="0.25")])
    assert built.lines[0].exact == D("9.05")
    assert each_alone(D(8), [line(cost=None, target="0.5")]).lines[0].price is None


def test_an_adder_changes_weight_cost_and_price():
    """A marinade that adds 10 %: 2 lb become 2.2, the 4.00 a lb is spread over them."""
    steps = [Adder("season", D("0.30"), D(2), D("0.15"), D("0.10"))]
    plain = line(cost="4.4")
    after = with_adders(plain, steps, D(24))
    assert (after.weight, after.cost, after.adder) == (D("2.20"), D(4), D("0.30"))
    assert after.added == D("0.95")  # 2 min × 24 / 60 + 0.15
    locked = replace(after, locked=D("9.30"))
    without = adder_effect(D("8.8"), [locked], [plain])
    assert without.retail == D(18)
    assert at_prices(D("8.8"), [locked]).whole.retail == D("20.46")
    assert adder_effect(D("8.8"), [replace(after, locked=D("0.29"))], [plain]) is None
    with pytest.raises(BadValue, match="minutes"):
        Adder("slice", minutes=D(-1))


TENDERIZE = Adder("tenderize", D("0.25"), D("0.3"))


@pytest.mark.parametrize("locked", [None, "9.00"])
def test_an_adder_lifts_the_margin_and_leaves_the_other_prices(locked):
    """0.25 a lb for 2 lb, less 0.3 minutes a lb at 24.00 an hour: 0.50 − 0.24 = 0.26 of profit."""
    plain, stew = line(locked=locked), line("stew", "4", "6", "4")
    after = with_adders(plain, [TENDERIZE], D(24))
    if locked:
        after = replace(after, locked=plain.locked + TENDERIZE.price)
    without, built = (solve(D(24), [one, stew], Aim(D("0.4"))) for one in (plain, after))
    assert built.factor == without.factor
    assert built.lines[1].price == without.lines[1].price
    assert built.whole.margin > without.whole.margin
    exact = [row.line.locked or row.exact for row in (built.lines[0], without.lines[0])]
    assert exact[0] - exact[1] == D("0.25")
    gain = gain_of_steps(replace(built.lines[0], price=exact[0]))
    assert gain == D("0.26")
    assert gain_of_steps(built.lines[1]) is None


def test_steps_without_a_wage_say_nothing_of_their_gain():
    after = with_adders(line(), [TENDERIZE], None)
    assert gain_of_steps(at_prices(D(8), [replace(after, locked=D(9))]).lines[0]) is None


def test_every_stop_of_a_drag_is_the_piece_at_that_price():
    built = solve(D(50), [replace(one, endings=SHOP) for one in clod()], Aim(D("0.4")))
    found = stops(built, 1, 10)
    assert len(found) == 21
    prices = [stop.price for stop in found]
    assert prices == sorted(set(prices))
    assert prices[10] == built.lines[1].price
    assert found[10].built.whole == built.whole
    for stop in found:
        standing = [replace(row.line, locked=row.price) for row in built.lines]
        standing[1] = replace(standing[1], locked=stop.price)
        assert stop.built.whole == at_prices(D(50), standing).whole
    assert len(stops(at_prices(D(5), [line(locked="0.99", endings=SHOP)]), 0, 5)) == 7  # 0.49 below


@pytest.mark.parametrize(
    ("price", "tray", "limit", "portions", "says"),
    [
        ("8", "2", "20", 4, ""),
        ("12", "2", "20", 4, "3 a tray instead of 4 makes 1.50, 18.00"),
        ("30", "2", "20", 1, "cut to 33.3 % of the weight, or take a smaller tray"),
        ("90", "2", "20", 2, "smaller tray"),
        ("12", "2", "20", None, "cut to 83.3 %"),
    ],
)
def test_a_sticker_past_the_comfort_limit_says_what_to_do(price, tray, limit, portions, says):
    told = comfort_words(D(price), D(tray), D(limit), portions)
    assert says in told
    assert bool(told) == bool(says)


def test_the_advice_names_the_smallest_tray_that_holds_what_is_left():
    sizes = [("no 8", 6), ("no 4", 4), ("no 17", 1), ("no 2", 3)]
    told = comfort_words(D(12), D(2), D(20), 4, sizes)
    assert told.endswith("3 a tray instead of 4 makes 1.50, 18.00, in tray no 2")
    assert "in tray" not in comfort_words(D(12), D(2), D(20), 4, [("no 8", 6)])


@pytest.mark.parametrize(
    "wrong", [{"weight": "-1"}, {"rung": "0"}, {"locked": "0"}, {"tax": "-0.1"}]
)
def test_a_line_that_cannot_be_is_refused_by_name(wrong):
    with pytest.raises(BadValue, match="flat iron"):
        line(**wrong)


def test_the_pencil_writes_down_the_whole_way():
    loads = Loads(labour=D("0.40"), shrink=D("0.05"))
    lines = [line(loads=loads, adder="0.25"), line("stew", "4", "6", "4", locked="6.49")]
    built = solve(D(24), lines, Aim(D("0.4")))
    text = " | ".join(
        f"{s.words}: {s.numbers}" for s in price_pencil(built.lines[0], built.factor, D(1)).steps
    )
    assert "(4.00 + 0.40) ÷ (1 − 0.05) = 4.63" in text
    assert f"10.00 × {built.factor:.4f} + 0.25 = " in text
    assert "tray sticker" in text
    piece = piece_pencil(built, D("0.4"))
    words = " ".join(step.words for step in piece.steps)
    assert all(part in words for part in ("sales wanted", "− locked", "mark-up", "shrink"))
    assert (
        "No price" in price_pencil(at_prices(D(1), [line(cost=None)]).lines[0], None, None).missing
    )
    taxed = each_alone(D(8), [line(target="0.5", tax="0.1")])
    assert "× (1 + tax)" in " ".join(
        s.words for s in price_pencil(taxed.lines[0], None, None).steps
    )


money = st.decimals(D("0.50"), D(30), places=2)
pounds = st.decimals(D(0), D(20), places=2)
LINES = st.lists(
    st.builds(
        line,
        name=st.sampled_from("abcdef"),
        weight=pounds,
        rung=money,
        cost=money,
        locked=st.one_of(st.none(), money),
        floor=st.one_of(st.none(), st.just(D("0.2"))),
        endings=st.sampled_from([CENT, SHOP, NEAREST]),
        tax=st.sampled_from([D(0), D("0.08")]),
        loads=st.builds(Loads, labour=st.just(D("0.1")), shrink=st.sampled_from([D(0), D("0.04")])),
    ),
    min_size=1,
    max_size=6,
)


@given(LINES, st.decimals(D(1), D(400), places=2), st.decimals(D(0), D("0.7"), places=2))
def test_locks_never_move_floors_never_break_and_sales_foot(lines, cost, target):
    built = solve(cost, lines, Aim(target))
    for row in built.lines:
        if row.line.locked is not None:
            assert row.price == row.line.locked
        elif row.price is not None and row.line.floor is not None:
            assert row.margin >= row.line.floor - NOISE
        if row.price is not None and row.line.locked is None:
            assert row.line.endings.up(row.price) == row.price
    if built.whole is not None:
        foot = sum(row.sales for row in built.lines)
        assert abs(foot - built.whole.retail) < D("1e-20")


@given(LINES, money, money, st.decimals(D(0), D("0.7"), places=2))
def test_a_dearer_piece_never_lowers_a_proposed_price(lines, one, more, target):
    low, high = one, one + more
    cheap = solve(low, lines, Aim(target)).lines
    dear = solve(high, [replace(x, cost=x.cost * high / low) for x in lines], Aim(target)).lines
    for before, after in zip(cheap, dear, strict=True):
        assert before.price is None or after.price >= before.price


def test_the_factor_is_exact_against_brute_force():
    """Every factor in steps of a ten-thousandth: none of them comes closer to the target."""
    for target, locked in product(("0.25", "0.4"), (None, "6.50")):
        lines = clod(locked=locked)
        built = solve(D("47.30"), lines, Aim(D(target)))

        def missed(factor, lines=lines, target=target):
            sales = sum((x.locked or x.rung * factor) * x.weight for x in lines)
            return abs((sales - D("47.30")) / sales - D(target))

        best = min((D(i) / 10000 for i in range(5000, 25000)), key=missed)
        assert abs(best - built.factor) <= D("0.00005")
        assert missed(built.factor) < D("1e-25")
