"""Days for tests: small ones of every kind, and one as a shop has it."""

import itertools
from dataclasses import replace
from decimal import Decimal

import numpy as np
from hypothesis import strategies as st

from cutting.planning.day import Day, DayBag, DayProduct, DayWay, day_figures, fits
from cutting.planning.hands import Block, Cutter, Grind
from cutting.quantities import Unit, UnitPrice, Weight

D = Decimal
SHARES = st.sampled_from(["0", "0.1", "0.25", "0.4", "0.5"])


def way(number, one, other, minutes, per_lb):
    outputs = (("steak", D(one)), ("roast", D(other)))
    return DayWay(f"w{number}", f"way {number}", D(minutes), D(per_lb), outputs)


ways = st.lists(
    st.tuples(SHARES, SHARES, st.integers(0, 8), st.sampled_from(["0", "0.5", "1"])),
    min_size=1,
    max_size=2,
).map(lambda rows: tuple(way(i, *row) for i, row in enumerate(rows)))
bags = st.lists(
    st.tuples(st.integers(2, 12), st.integers(5, 60), st.booleans(), st.booleans()),
    min_size=1,
    max_size=4,
)
products = st.tuples(
    st.integers(0, 6), st.integers(0, 6), st.sampled_from([None, 0, 3, 8]), st.integers(0, 5)
)


@st.composite
def days(draw):
    made = draw(ways)
    ids = tuple(one.id for one in made)
    rows = draw(bags)
    some = tuple(
        DayBag(f"b{i}", Weight(D(lb), Unit.LB), D(cost), ids if both else ids[:1], must)
        for i, (lb, cost, must, both) in enumerate(rows)
    )
    wanted = []
    for name, price in (("steak", "12"), ("roast", "7.50")):
        have, least, more, over = draw(products)
        most = None if more is None else D(least + more)
        wanted.append(DayProduct(name, UnitPrice.of(price, "lb"), D(have), D(least), most, D(over)))
    return Day(D(draw(st.integers(0, 40))), made, some, tuple(wanted), draw(st.integers(0, 2)))


def every(day):
    """Every choice that keeps to minutes, musts and the number of products."""
    options = [[None, *(day.by_id[one] for one in bag.ways)] for bag in day.bags]
    found = (day_figures(day, choice) for choice in itertools.product(*options))
    return [one for one in found if fits(day, one)]


def large(bags=24, ways=6, products=10, seed=3):
    """A day as a shop has it, its figures whole so that equal is equal."""
    rng = np.random.default_rng(seed)
    names = [f"p{i}" for i in range(products)]
    made = []
    for i in range(ways):
        some = rng.choice(products, 3, replace=False)
        outputs = tuple((names[j], D(int(rng.integers(5, 30))) / 100) for j in some)
        made.append(DayWay(f"w{i}", f"way {i}", D(int(rng.integers(2, 9))), D("1.5"), outputs))
    some = []
    for b in range(bags):
        ids = tuple(f"w{int(i)}" for i in rng.choice(ways, 2, replace=False))
        weight = Weight(D(int(rng.integers(400, 2000))) / 100, Unit.LB)
        cost = D(int(weight.value * 400)) / 100
        some.append(DayBag(f"b{b}", weight, cost, ids, b < 2))
    wanted = [
        DayProduct(
            name,
            UnitPrice(D(int(rng.integers(600, 2000))) / 100, Unit.LB),
            D(int(rng.integers(0, 6))),
            D(int(rng.integers(0, 8))),
            D(int(rng.integers(10, 30))),
            D(2),
        )
        for name in names
    ]
    return Day(D(330), tuple(made), tuple(some), tuple(wanted), 4)


MACHINES = [frozenset(), frozenset(["saw"]), frozenset(["saw", "grinder"])]
hands = st.lists(
    st.tuples(
        st.integers(8, 22),
        st.sampled_from([*MACHINES, MACHINES[2]]),
        st.sampled_from([None, None, ["w0"], ["w1"]]),
    ),
    min_size=1,
    max_size=2,
)


@st.composite
def days_with_hands(draw):
    """A small day with those who are there: rights, washes, the saw, firmed meat, the grinder."""
    day = draw(days())
    looks = draw(
        st.lists(
            st.tuples(
                st.sampled_from(["beef", "lamb"]),
                st.booleans(),
                st.sampled_from([False, False, True]),
            ),
            min_size=2,
            max_size=2,
        )
    )
    ways = tuple(
        replace(
            one,
            minutes_per_lb=one.minutes_per_lb or D(1),
            species=species,
            machines=MACHINES[1 if sawn else 0],
            waits=waits,
        )
        for one, (species, sawn, waits) in zip(day.ways, looks, strict=False)
    )
    cutters = tuple(
        Cutter(f"c{i}", D(minutes), machines, own if own is None else frozenset(own))
        for i, (minutes, machines, own) in enumerate(draw(hands))
    )
    block = Block(
        cutters,
        wash=D(draw(st.integers(0, 9))),
        saw=D(draw(st.integers(0, 6))),
        wait=D(draw(st.integers(0, 20))),
        freezer=draw(st.sampled_from([None, Weight(D(9), Unit.LB)])),
        grind=draw(st.sampled_from([None, Grind(frozenset(["roast"]), D(3), D("0.5"))])),
    )
    return replace(day, ways=ways, block=block, minutes=block.minutes)


def with_hands(day, minutes=165):
    """A shop's day with two cutters, three animals, a saw and a grinder."""
    species = ["beef", "pork", "lamb"]
    ways = tuple(
        replace(
            one, species=species[i % 3], machines=MACHINES[1 if i % 5 == 0 else 0], waits=i % 6 == 1
        )
        for i, one in enumerate(day.ways)
    )
    both = (
        Cutter("Ines", D(minutes), frozenset(["saw", "grinder"])),
        Cutter("Tove", D(minutes)),
    )
    block = Block(both, grind=Grind(frozenset([day.products[3].name])))
    return replace(day, ways=ways, block=block, minutes=block.minutes)
