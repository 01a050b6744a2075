"""Blends against a second solver, Pearson's square, and what holds for every blend."""

import math
from dataclasses import replace
from decimal import Decimal

import numpy as np
import pytest
from hypothesis import Phase, given, settings
from hypothesis import strategies as st
from scipy import optimize, stats

from cutting.errors import BadValue
from cutting.grinding.blend import Batch, Blend, Kind, Rule, Tub, chance_over, pearson
from cutting.grinding.blend_solver import NoBlend, cheapest
from cutting.quantities import Unit, UnitPrice, Weight

D = Decimal
SHORT = (Phase.explicit, Phase.reuse, Phase.generate, Phase.target)


def tub(name="t", pounds="20", lean="0.80", cost="3.00", **more):
    kind = more.pop("kind", Kind.LEAN)
    weight = Weight(D(pounds), Unit.LB)
    price = UnitPrice(D(cost), Unit.LB)
    own = {"species": "beef"} | more
    return Tub(name=name, kind=kind, weight=weight, lean=D(lean), cost=price, **own)


def batch(name="b", pounds="10", least="0.14", most="0.16", rule=Rule.GROUND_BEEF, **more):
    return Batch(name, rule, Weight(D(pounds), Unit.LB), D(least), D(most), **more)


@st.composite
def blends(draw):
    tubs = tuple(
        tub(
            f"t{i}",
            str(draw(st.integers(2, 20))),
            f"0.{draw(st.integers(50, 98))}",
            f"{draw(st.integers(50, 900))}e-2",
            kind=draw(st.sampled_from(list(Kind))),
            lean_sd=D(draw(st.integers(0, 5))) / 100,
            must=draw(st.integers(0, 9)) == 0,
            primal=draw(st.sampled_from(["", "chuck"])),
        )
        for i in range(draw(st.integers(2, 7)))
    )
    batches = tuple(
        batch(
            f"b{i}",
            str(draw(st.integers(2, 15))),
            "0.05",
            f"0.{draw(st.integers(15, 40))}",
            draw(st.sampled_from([Rule.GROUND_BEEF, Rule.HAMBURGER])),
            no_ends=draw(st.booleans()),
            primal=draw(st.sampled_from(["", "", "", "chuck"])),
        )
        for i in range(draw(st.integers(1, 3)))
    )
    return Blend(tubs, batches)


def by_scipy(blend):
    """The same blend for scipy.optimize.linprog; None where nothing fits."""
    pairs = [
        (b, t)
        for b, one in enumerate(blend.batches)
        for t, own in enumerate(blend.tubs)
        if one.may(own)
    ]
    if not pairs or any(
        own.must and not any(one.may(own) for one in blend.batches) for own in blend.tubs
    ):
        return None
    cost = [float(blend.tubs[t].cost.amount) for _, t in pairs]
    equal, right, upper, room = [], [], [], []
    for b, one in enumerate(blend.batches):
        own = np.array([float(k == b) for k, _ in pairs])
        fat = np.array([float(blend.tubs[t].fat) * (k == b) for k, t in pairs])
        equal.append(own)
        right.append(float(one.pounds))
        upper += [fat, -fat]
        room += [float(one.top * one.pounds), -float(one.least * one.pounds)]
    for t, own in enumerate(blend.tubs):
        row = np.array([float(k == t) for _, k in pairs])
        if own.must:
            equal.append(row)
            right.append(float(own.pounds))
        else:
            upper.append(row)
            room.append(float(own.pounds))
    found = optimize.linprog(cost, upper, room, equal, right, method="highs")
    return found.fun if found.status == 0 else None


@pytest.mark.long
@settings(max_examples=200, phases=SHORT, deadline=None)
@given(blends())
def test_no_blend_is_cheaper(blend):
    """Reference library: scipy.optimize.linprog."""
    expected = by_scipy(blend)
    if expected is None:
        with pytest.raises(NoBlend):
            cheapest(blend)
        return
    found = cheapest(blend)
    assert float(found.cost) == pytest.approx(expected, abs=1e-7)
    used = [D(0)] * len(blend.tubs)
    for one, own in zip(blend.batches, found.batches, strict=True):
        assert abs(sum(own.take.values()) - one.pounds) < D("1e-20")
        assert one.least - D("1e-12") <= own.fat <= one.top + D("1e-12")
        for t, pounds in own.take.items():
            assert one.may(blend.tubs[t])
            used[t] += pounds
    for t, own in enumerate(blend.tubs):
        assert abs(used[t] + found.left[t] - own.pounds) < D("1e-20")
        assert not own.must or abs(found.left[t]) < D("1e-20")


@settings(max_examples=60, phases=SHORT, deadline=None)
@given(blends())
def test_what_one_more_pound_is_worth_is_the_fall_of_the_cost(blend):
    try:
        found = cheapest(blend)
    except NoBlend:
        return
    small = D("1e-5")
    for t, own in enumerate(blend.tubs):
        if own.must:
            assert t not in found.worth
            continue
        more = replace(own, weight=Weight(own.weight.value + small, Unit.LB))
        wider = replace(blend, tubs=(*blend.tubs[:t], more, *blend.tubs[t + 1 :]))
        fall = (found.cost - cheapest(wider).cost) / small
        assert abs(fall - found.worth.get(t, D(0))) < D("1e-4")


@given(st.integers(2, 20), st.integers(21, 60), st.integers(0, 100), st.integers(1, 50))
def test_two_tubs_are_pearsons_square(lean, fat, between, pounds):
    aim = D(lean) + D(fat - lean) * between / 100
    square = pearson(D(lean) / 100, D(fat) / 100, aim / 100, D(pounds))
    assert abs(square.leaner + square.fatter - pounds) < D("1e-20")
    got = square.leaner * lean + square.fatter * fat
    assert abs(got - pounds * aim) < D("1e-18")
    tubs = (
        tub("lean", "99", f"{1 - D(lean) / 100}"),
        tub("fat", "99", f"{1 - D(fat) / 100}", kind=Kind.ENDS),
    )
    exact = batch("b", str(pounds), f"{aim / 100}", f"{aim / 100}", Rule.NONE)
    take = cheapest(Blend(tubs, (exact,))).batches[0].take
    assert abs(take.get(0, D(0)) - square.leaner) < D("1e-9")


def test_an_aim_outside_the_square_says_what_is_right():
    with pytest.raises(BadValue, match=r"0.1 to 0.3 is right"):
        pearson(D("0.1"), D("0.3"), D("0.4"), D(10))
    with pytest.raises(BadValue, match="two different"):
        pearson(D("0.3"), D("0.3"), D("0.3"), D(10))


def forty_tubs(*, with_chance):
    """As a shop may have it on its worst day."""
    rng = np.random.default_rng(3)
    kinds, animals = list(Kind), ["beef", "beef", "pork"]
    tubs = tuple(
        tub(
            f"t{i}",
            str(int(rng.integers(5, 25))),
            f"{rng.integers(60, 96)}e-2",
            f"{rng.integers(200, 700)}e-2",
            lean_sd=D(int(rng.integers(1, 5))) / 100,
            kind=kinds[int(rng.integers(0, 3))],
            species=animals[int(rng.integers(0, 3))],
        )
        for i in range(40)
    )
    chance = {"limit": D("0.22"), "chance": D("0.01")} if with_chance else {}
    batches = (
        batch("a", "40", "0.10", "0.20", **chance),
        batch("b", "30", "0.08", "0.20", Rule.HAMBURGER, **chance),
        batch("c", "30", "0.15", "0.20", no_ends=True, **chance),
        batch("d", "20", "0.12", "0.20", Rule.NONE, **chance),
        batch("e", "20", "0.12", "0.20", Rule.NONE, **chance),
    )
    return Blend(tubs, batches)


def test_forty_tubs_are_blended_and_every_chance_is_kept():
    found = cheapest(forty_tubs(with_chance=True))
    assert found.cost > cheapest(forty_tubs(with_chance=False)).cost
    for one in found.batches:
        assert one.chance_over <= D("0.01") + D("1e-9")


def with_chance(seed=5, tubs=12):
    rng = np.random.default_rng(seed)
    some = tuple(
        tub(
            f"t{i}",
            str(int(rng.integers(5, 15))),
            f"{rng.integers(70, 96)}e-2",
            f"{rng.integers(200, 700)}e-2",
            lean_sd=D(int(rng.integers(1, 5))) / 100,
        )
        for i in range(tubs)
    )
    return Blend(some, (batch("b", "30", "0.10", "0.20", limit=D("0.20"), chance=D("0.01")),))


@pytest.mark.parametrize("seed", [1, 5, 9])
def test_with_a_chance_nothing_feasible_is_cheaper(seed):
    """Reference library: scipy.optimize.minimize (SLSQP) over the same cone."""
    blend = with_chance(seed)
    found = cheapest(blend)
    own, one = found.batches[0], blend.batches[0]
    z = stats.norm.ppf(0.99)
    assert float(one.quantile) == pytest.approx(z, abs=1e-12)
    bound = own.fat + one.quantile * own.fat_sd
    assert bound <= D("0.20") + D("1e-11")
    assert own.chance_over == pytest.approx(D("0.01"), abs=D("1e-9")) or bound < D("0.1999999")
    fat = np.array([float(t.fat) for t in blend.tubs])
    sd = np.array([float(t.lean_sd) for t in blend.tubs])
    cost = np.array([float(t.cost.amount) for t in blend.tubs])
    start = np.array([float(own.take.get(t, 0)) for t in range(len(blend.tubs))])
    for begin in (start, np.array([30 / len(fat)] * len(fat))):
        answer = optimize.minimize(
            lambda x: cost @ x,
            begin,
            jac=lambda x: cost,
            bounds=[(0, float(t.pounds)) for t in blend.tubs],
            constraints=[
                {"type": "eq", "fun": lambda x: x.sum() - 30},
                {"type": "ineq", "fun": lambda x: fat @ x - 3.0},
                {
                    "type": "ineq",
                    "fun": lambda x: 0.20 * 30 - fat @ x - z * math.sqrt(((sd * x) ** 2).sum()),
                },
            ],
            method="SLSQP",
            options={"maxiter": 500, "ftol": 1e-13},
        )
        if answer.success:
            assert float(found.cost) <= answer.fun + 1e-6


def test_a_batch_without_a_rule_is_of_one_species_the_cheaper_one():
    tubs = (
        tub("beef", "20", "0.80", "3.00"),
        tub("pork", "20", "0.80", "2.00", species="pork"),
        tub("pork fat", "5", "0.05", "0.50", species="pork", kind=Kind.HARD_FAT),
    )
    sausage = batch("sausage", "10", "0.25", "0.30", Rule.NONE)
    found = cheapest(Blend(tubs, (sausage,)))
    assert set(found.batches[0].take) == {1, 2}


@pytest.mark.parametrize(
    ("tubs", "one", "least", "most", "missing", "musts"),
    [
        ([tub(lean="0.90")], batch(), "0.1", "0.1", "0", []),
        ([tub(pounds="4", lean="0.85")], batch(), None, None, "6", []),
        (
            [tub(lean="0.85"), tub("p", species="pork", must=True)],
            batch(),
            "0.15",
            "0.15",
            "0",
            [1],
        ),
        ([tub(lean="0.85", kind=Kind.HARD_FAT)], batch(), None, None, "10", []),
    ],
)
def test_what_cannot_be_says_what_can(tubs, one, least, most, missing, musts):
    with pytest.raises(NoBlend) as none:
        cheapest(Blend(tuple(tubs), (one,)))
    (reached,) = none.value.reaches
    assert reached.least == (None if least is None else D(least))
    assert reached.most == (None if most is None else D(most))
    assert none.value.missing == [D(missing)]
    assert none.value.musts == musts


def test_the_chance_over_a_limit_is_the_normal_tail():
    """Reference library: scipy.stats.norm."""
    found = chance_over(D("0.17"), D("0.15"), D("0.004"))
    assert float(found) == pytest.approx(stats.norm.sf(5), rel=1e-9)
    assert chance_over(None, D("0.1"), D("0.1")) is None
    assert chance_over(D("0.1"), D("0.1"), D(0)) == 0
    assert chance_over(D("0.1"), D("0.11"), D(0)) == 1


@pytest.mark.parametrize(
    ("make", "says"),
    [
        (lambda: tub(lean="1.2"), "0 to 1"),
        (lambda: tub(lean_sd=D(-1)), "0 or more"),
        (lambda: batch(least="0.3", most="0.2"), "the least first"),
        (lambda: batch(limit=D("0.2")), "both or none"),
        (lambda: batch(limit=D("0.2"), chance=D("0.6")), "at most 0.5"),
        (lambda: Blend((), ()), "at least one tub"),
    ],
)
def test_what_cannot_be_asked_says_why(make, says):
    with pytest.raises(BadValue, match=says):
        make()


@pytest.mark.parametrize("limit", ["0.20", "0.22", "0.30"])
def test_a_bound_on_the_chance_of_tubs_without_a_spread_is_the_bound_itself(limit):
    """Nothing is uncertain then: 20 % fat is at its limit, and no chance is left."""
    tubs = (tub("a", "20", "0.70", "3.00"), tub("b", "20", "0.92", "5.00"))
    sure = batch(pounds="10", least="0.05", most="0.30", limit=D(limit), chance=D("0.05"))
    found = cheapest(Blend(tubs, (sure,)))
    plain = cheapest(Blend(tubs, (batch(pounds="10", least="0.05", most=limit),)))
    assert abs(found.cost - plain.cost) < D("1e-9")
