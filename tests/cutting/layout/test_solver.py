"""The layout against every cut set of a coarse grid, and what holds for every layout."""

import itertools
import json
from dataclasses import replace
from decimal import Decimal
from fractions import Fraction

import pytest
from hypothesis import Phase, given, settings
from hypothesis import strategies as st

from cutting.errors import BadValue
from cutting.layout.kept import plain_task, task_of
from cutting.layout.profile import Profile, Section, Station, reversed_profile
from cutting.layout.solver import NoLayout, lay_out, plain_rule
from cutting.layout.task import ACCEPT, NO_CUT, NO_PRODUCT, NOTCH, Slice, Task, Zone, turned
from cutting.layout.ways import equal_thickness, sold
from cutting.quantities import Unit, UnitPrice, Weight

D = Decimal
SHORT = (Phase.explicit, Phase.reuse, Phase.generate, Phase.target)
"""Without making a failure smaller, which takes minutes where every cut set is tried."""


def box(*sides, length=None):
    """A box whose height and width at even stations are as given."""
    step = D(length or 10 * (len(sides) - 1)) / (len(sides) - 1)
    return Profile(
        Section.BOX, tuple(Station(i * step, D(side), D(side)) for i, side in enumerate(sides))
    )


def rows(task):
    """Every row of parts on the grid: (start, end, product or None), never two gaps together."""
    last, kerf = task.last, int(task.kerf / task.step)

    def go(start, after_gap):
        for end in range(start + 1, last + 1):
            if end < last and not (end + kerf < last and _may_mark(task, end)):
                continue
            for product in (None, *range(len(task.products))):
                if product is None and (
                    after_gap or task.at(end) - task.at(start) < task.least_gap
                ):
                    continue
                if product is not None and not fits(task, product, start, end):
                    continue
                part = (start, end, product)
                if end == last:
                    yield (part,)
                else:
                    yield from ((part, *rest) for rest in go(end + kerf, product is None))

    for row in go(0, False):
        first = {one.name: one for one in reversed(task.products)}
        cut = [task.products[p] for _, _, p in row if p is not None]
        counts = {name: sum(one.across for one in cut if one.name == name) for name in first}
        if all(
            one.least <= counts[name] and (one.most is None or counts[name] <= one.most)
            for name, one in first.items()
        ):
            yield row


def _may_mark(task, place):
    at = task.at(place)
    if task.bone_cuts is not None and at not in task.bone_cuts:
        return False
    kerf = at, at + task.kerf
    return not any(z.rule == NO_CUT and kerf[0] < z.end and kerf[1] > z.start for z in task.zones)


def weight_of(task, start, end):
    before, a, b = task.profile.before, Fraction(task.at(start)), Fraction(task.at(end))
    volume = before(b) - before(a)
    for zone in task.zones:
        if zone.rule == NOTCH:
            low, high = max(a, Fraction(zone.start)), min(b, Fraction(zone.end))
            if low < high:
                volume -= Fraction(zone.share) * (before(high) - before(low))
    return volume * task.per_volume


def fits(task, number, start, end):
    one, a, b = task.products[number], task.at(start), task.at(end)
    weight = weight_of(task, start, end)
    if one.thinnest is not None and not one.thinnest <= b - a <= one.thickest:
        return False
    if one.lightest is not None and not (
        task.in_unit(one.lightest)
        <= weight * (1 - Fraction(one.lost)) / one.across
        <= task.in_unit(one.heaviest)
    ):
        return False
    if one.bones is not None:
        cuts = [int(c / task.step) for c in task.bone_cuts]
        starts = [0, *(c + int(task.kerf / task.step) for c in cuts)]
        ends = [*cuts, task.last]
        if start not in starts or end not in ends:
            return False
        if ends.index(end) - starts.index(start) + 1 != one.bones:
            return False
    if a < max(task.near, one.start or 0) or b > task.profile.length - task.far:
        return False
    if one.end is not None and b > one.end:
        return False
    return not any(z.rule == NO_PRODUCT and a < z.end and b > z.start for z in task.zones)


def worth(task, row):
    money, rest = Fraction(0), task.price_in_unit(task.rest)
    for start, end, product in row:
        weight = weight_of(task, start, end)
        if product is None:
            money += weight * rest
            continue
        one = task.products[product]
        money += weight * Fraction(one.lost) * rest
        if one.each is not None:
            money += Fraction(one.each) * one.across
        else:
            money += weight * (1 - Fraction(one.lost)) * task.price_in_unit(one.price)
    return money


def by_brute_force(task):
    """The best row as the contract orders them; None where no slice is possible."""
    many = len(task.products)

    def order(row):
        slices = [p for _, _, p in row if p is not None]
        marks = [end for _, end, _ in row[:-1]]
        ranks = [many if p is None else p for _, _, p in row]
        return (-worth(task, row), len(slices), len(marks), marks, ranks)

    return min(rows(task), key=order, default=None)


sides = st.lists(st.integers(1, 6), min_size=2, max_size=4)
products = st.builds(
    lambda name, thin, more, band, across, lost, price, each, least, most, start: Slice(
        name,
        thinnest=D(thin),
        thickest=D(thin + more),
        lightest=band and Weight(D(band) / across, Unit.LB),
        heaviest=band and Weight(D(band + 1) / across, Unit.LB),
        across=across,
        lost=D(lost),
        price=None if each else UnitPrice(D(price), Unit.LB),
        each=D(price) if each else None,
        least=least,
        most=None if most is None else max(most, least, 1),
        start=None if start is None else D(start),
    ),
    name=st.sampled_from("xyz"),
    thin=st.integers(1, 3),
    more=st.integers(0, 3),
    band=st.sampled_from([None, None, None, 1]),
    across=st.sampled_from([1, 1, 2]),
    lost=st.sampled_from(["0", "0", "0.25"]),
    price=st.integers(1, 4),
    each=st.booleans(),
    least=st.integers(0, 2),
    most=st.sampled_from([None, None, 1, 2]),
    start=st.sampled_from([None, None, 2, 5]),
)
zones = st.builds(
    lambda start, size, rule: Zone(
        "z", D(start), D(min(start + size, 6)), rule, D("0.3" if rule == NOTCH else 0)
    ),
    st.integers(0, 4),
    st.integers(1, 3),
    st.sampled_from([NO_CUT, NO_PRODUCT, NOTCH, ACCEPT]),
)
tasks = st.builds(
    lambda shape, many, kerf, near, far, some, rest, weight, gap: Task(
        Weight(D(weight), Unit.LB),
        box(*shape, length="6.5"),
        tuple(many),
        kerf=D(kerf),
        near=D(near),
        far=D(far),
        zones=tuple(some),
        rest=None if rest == 0 else UnitPrice(D(rest), Unit.LB),
        least_gap=D(gap),
    ),
    sides,
    st.lists(products, min_size=1, max_size=2),
    st.integers(0, 1),
    st.integers(0, 2),
    st.sampled_from([D(0), D("1.5")]),
    st.lists(zones, max_size=1),
    st.integers(0, 3),
    st.sampled_from([4, 7]),
    st.sampled_from([0, 0, 2]),
)


def is_any_slice(task):
    """Whether a slice fits somewhere, whatever the counts."""
    kerf = int(task.kerf / task.step)
    ends = [e for e in range(1, task.last) if e + kerf < task.last and _may_mark(task, e)]
    starts = [0, *(end + kerf for end in ends)]
    return any(
        fits(task, number, start, end)
        for number in range(len(task.products))
        for start in starts
        for end in (*ends, task.last)
        if end > start
    )


@pytest.mark.long
@settings(max_examples=70, phases=SHORT)
@given(tasks)
def test_no_cut_set_of_the_grid_brings_more_and_ties_fall_as_agreed(task):
    best = by_brute_force(task) if is_any_slice(task) else None
    if best is None:
        with pytest.raises(NoLayout):
            lay_out(task)
        return
    found = lay_out(task)
    assert tuple((p.start, p.end, p.product) for p in found.parts) == best
    assert found.money == worth(task, best)


def grade(name="steak", thin=19, thick=26, price="12", **more):
    return Slice(name, thinnest=D(thin), thickest=D(thick), price=UnitPrice.of(price, "lb"), **more)


def ribeye(**more):
    """A rib-eye of 40 cm and 14 lb, thicker in its middle."""
    shape = [(0, 130, 70), (120, 150, 85), (300, 145, 80), (400, 110, 60)]
    stations = tuple(Station(D(at), D(w), D(h)) for at, w, h in shape)
    more.setdefault("products", (grade(),))
    return Task(Weight.of("14", "lb"), Profile(Section.ELLIPSE, stations), **more)


@settings(max_examples=25)
@given(
    st.integers(0, 3),
    st.integers(0, 20),
    st.integers(0, 20),
    st.sampled_from(["0.5", "9"]),
    st.integers(1, 6),
)
def test_parts_and_dust_sum_to_the_piece_and_keep_their_limits(kerf, near, far, rest, most):
    task = ribeye(
        products=(grade(most=most), grade("roast", 60, 90, "9")),
        kerf=D(kerf),
        near=D(near),
        far=D(far),
        rest=UnitPrice.of(rest, "lb"),
    )
    found = lay_out(task)
    assert sum(p.weight for p in found.parts) + found.kerf_weight == 14
    assert found.parts[0].start == 0
    assert found.parts[-1].end == task.last
    for one, other in itertools.pairwise(found.parts):
        assert other.start - one.end == kerf
        assert one.product is not None or other.product is not None
    for part in found.slices:
        assert fits(task, part.product, part.start, part.end)
    assert found.counts[0] <= most


def test_a_heavier_piece_scales_every_weight_and_its_money():
    light, heavy = (
        lay_out(ribeye()),
        lay_out(Task(**{**vars(ribeye()), "weight": Weight.of("28", "lb")})),
    )
    assert heavy.marks == light.marks
    assert [p.weight for p in heavy.parts] == [2 * p.weight for p in light.parts]
    assert heavy.money == 2 * light.money


def test_a_piece_turned_round_brings_the_same_and_its_parts_come_the_other_way():
    task = ribeye(products=(grade("each", 20, 24, each=D(9), price="1"),))
    task = Task(
        **{**vars(task), "products": (Slice("e", thinnest=D(20), thickest=D(24), each=D(9)),)}
    )
    turned = Task(**{**vars(task), "profile": reversed_profile(task.profile)})
    assert lay_out(task).money == lay_out(turned).money
    assert lay_out(task).counts == lay_out(turned).counts


def test_halves_quarters_then_three_or_four_are_twelve_or_sixteen():
    """Common practice, no published source: a boneless rib-eye gives 12 at 1 in, 16 at 3/4 in."""
    length = D("304.8")  # 12 in
    profile = ribeye().profile.scaled(length)
    for thick, count in (("25.4", 12), ("19.05", 16)):
        one = grade(thin=thick, thick=thick)
        found = plain_rule(Task(**{**vars(ribeye()), "profile": profile, "products": (one,)}))
        assert (found.count, found.out_of_limits) == (count, 0)
    assert plain_rule(ribeye(bone_cuts=(D(100),))) is None


@pytest.mark.parametrize("outside", [None, "0", "9.99"])
def test_what_is_a_little_over_its_limit_still_sells(outside):
    """By hand: slices of 1/12 and of 1/16 of a straight piece are all too heavy, so all bring what the product
    brings outside its limits, else what the rest does. The search does not look at it."""
    box = Profile(Section.BOX, tuple(Station(D(at), D(100), D(80)) for at in (0, 300)))
    one = Slice(
        "steak",
        lightest=Weight(D(200), Unit.G),
        heaviest=Weight(D(250), Unit.G),
        price=UnitPrice.of("20", "kg"),
        outside=None if outside is None else UnitPrice.of(outside, "kg"),
    )
    task = Task(Weight(D(6), Unit.KG), box, (one,), rest=UnitPrice.of("2", "kg"))
    found = plain_rule(task)
    worth = 6 * Fraction(outside or "2")
    assert (found.count, found.out_of_limits, found.money) == (12, 12, worth)
    assert sold(equal_thickness(task, 12)) == worth
    plain = replace(task, products=(replace(one, outside=None),))
    assert lay_out(task).marks == lay_out(plain).marks
    assert task_of(json.loads(json.dumps(plain_task(task)))).products == task.products


def test_a_rack_is_cut_between_its_bones_only():
    """Seven bones: a roast of three, a thick steak of one, the rest apart."""
    cuts = tuple(D(60 * i) for i in range(1, 7))
    products = (
        Slice("roast", bones=3, price=UnitPrice.of("14", "lb"), most=1),
        Slice("steak", bones=1, price=UnitPrice.of("18", "lb"), most=2),
    )
    task = Task(Weight.of("16", "lb"), box(60, 70, 60, length=420), products, bone_cuts=cuts)
    found = lay_out(task)
    assert found.counts == (1, 2)
    assert set(found.marks) <= {int(cut) for cut in cuts}
    assert found.plain is None


@pytest.mark.parametrize(
    ("products", "more", "path", "says"),
    [
        ((grade(thin=500, thick=600),), {}, "products[0].thickness", "mm"),
        (
            (
                Slice(
                    "x",
                    lightest=Weight.of("20", "lb"),
                    heaviest=Weight.of("30", "lb"),
                    thinnest=D(10),
                    thickest=D(20),
                    price=UnitPrice.of("1", "lb"),
                ),
            ),
            {},
            "products[0].weight",
            "is what its slices weigh",
        ),
        ((grade(least=40),), {}, "products[0].least", "at most 2"),
        (
            (grade("a", least=12), grade("b", 60, 90, least=4)),
            {},
            "products[1].least",
            "or fewer is right",
        ),
        ((grade(start=D(395)),), {}, "products[0].thickness", "mm is what its weights give"),
    ],
)
def test_what_cannot_be_says_which_limit_and_the_nearest_that_works(products, more, path, says):
    with pytest.raises(NoLayout) as none:
        lay_out(ribeye(products=products, **more))
    (reason,) = none.value.reasons
    assert reason.field == path
    assert says in str(reason)


@pytest.mark.parametrize(
    ("stations", "says"),
    [
        ([(0, 5, 5)], "2 to 60 stations"),
        ([(1, 5, 5), (9, 5, 5)], "0 is right"),
        ([(0, 5, 5), (9, 5, 5), (9, 4, 4)], "more than 9"),
        ([(0, 5, 5), (4, 0, 5), (9, 5, 5)], "more than 0"),
        ([(0, 0, 5), (9, 0, 5)], "no volume"),
    ],
)
def test_stations_that_make_no_piece_are_named(stations, says):
    with pytest.raises(BadValue, match=says):
        Profile(Section.BOX, tuple(Station(D(a), D(w), D(h)) for a, w, h in stations))


@pytest.mark.parametrize(("start", "end"), [("9", "11"), ("8", "12"), ("10", "11")])
def test_the_kerf_keeps_out_of_a_zone_whichever_end_the_piece_is_laid_from(start, end):
    """A saw takes what stands behind its mark: it would go through a bone that only the mark missed."""
    zone = Zone(name="bone", start=D(start), end=D(end), rule=NO_CUT)
    shape = box(30, 30, length="20")
    own = Task(Weight.of("3", "lb"), shape, (grade("x", 2, 9),), kerf=D(2), zones=(zone,))
    found = [(one, lay_out(one)) for one in (own, turned(own))]
    for task, laid in found:
        (bone,) = task.zones
        for part in laid.parts:
            after = task.at(part.end), task.at(part.end) + task.kerf
            assert part.end == max(p.end for p in laid.parts) or not (
                after[0] < bone.end and after[1] > bone.start
            )
    assert found[0][1].money == found[1][1].money
