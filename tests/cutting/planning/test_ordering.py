"""The next order against every order there is; delivery days."""

import itertools
from datetime import date
from decimal import Decimal

import pytest
from hypothesis import Phase, given, settings
from hypothesis import strategies as st

from cutting.errors import BadValue
from cutting.planning.day import DayProduct, DayWay
from cutting.planning.order_solver import best_order
from cutting.planning.ordering import Buy, Offer, Order, delivery_after, net_costs, order_figures
from cutting.quantities import Unit, UnitPrice, Weight

D = Decimal
SHORT = (Phase.explicit, Phase.reuse, Phase.generate, Phase.target)
MOST = 3


@st.composite
def orders(draw):
    ways = tuple(
        DayWay(
            f"w{i}",
            f"way {i}",
            D(draw(st.integers(0, 9))),
            D(1),
            (
                ("steak", D(draw(st.integers(0, 5))) / 10),
                ("roast", D(draw(st.integers(0, 5))) / 10),
            ),
        )
        for i in range(2)
    )
    offers = tuple(
        Offer(
            f"o{i}",
            f"offer {i}",
            Weight(D(draw(st.integers(4, 12))), Unit.LB),
            UnitPrice(D(draw(st.integers(2, 9))), Unit.LB),
            ("w0", "w1") if i == 0 else ("w1",),
            draw(st.integers(1, 2)),
            UnitPrice(D(draw(st.integers(2, 9))), Unit.LB),
        )
        for i in range(draw(st.integers(1, 2)))
    )
    products = []
    for name, price in (("steak", "12"), ("roast", "7.50")):
        least = draw(st.integers(0, 12))
        most = draw(st.sampled_from([None, least, least + 4]))
        have = D(draw(st.integers(0, 4)))
        more = None if most is None else D(most)
        products.append(DayProduct(name, UnitPrice.of(price, "lb"), have, D(least), more, D(2)))
    rate = D(draw(st.sampled_from([0, 24])))
    return Order(offers, ways, tuple(products), rate, MOST)


def every(order):
    each = []
    for offer in order.offers:
        own = []
        for pieces in itertools.product(range(MOST + 1), repeat=len(offer.ways)):
            total = sum(pieces)
            for cases in range(MOST // offer.in_case + 1 if offer.in_case > 1 else 1):
                singles = total - cases * offer.in_case
                if 0 <= singles <= MOST:
                    cut = tuple(
                        (way, many) for way, many in zip(offer.ways, pieces, strict=True) if many
                    )
                    own.append(Buy(cases, singles, cut))
        each.append(own)
    return [order_figures(order, buys) for buys in itertools.product(*each)]


@pytest.mark.long
@settings(max_examples=60, phases=SHORT, deadline=None)
@given(orders())
def test_no_order_is_better(order):
    """Brute force over every order of at most three of each."""
    found = best_order(order)
    assert found.order() == min(one.order() for one in every(order))


def test_the_cheaper_spec_is_bought_and_a_case_where_it_is_cheaper():
    """Worked by hand: 12 lb ready are missing; peeled at 80 % for 10, or full at 60 % for 6 with more
    minutes: 12.50 a ready pound against 10 + labour; four in a case 0.50 a lb less."""
    ways = (
        DayWay("peeled", "peeled", D(0), D(1), (("filet", D("0.8")),)),
        DayWay("full", "full", D(0), D(3), (("filet", D("0.6")),)),
    )
    filet = DayProduct("filet", UnitPrice.of("20", "lb"), D(0), D(12), D(13))
    offers = (
        Offer(
            "p", "Tenderloin, peeled", Weight(D(5), Unit.LB), UnitPrice.of("10", "lb"), ("peeled",)
        ),
        Offer(
            "f",
            "Tenderloin, full",
            Weight(D(5), Unit.LB),
            UnitPrice.of("6", "lb"),
            ("full",),
            4,
            UnitPrice.of("5.50", "lb"),
        ),
    )
    found = best_order(Order(offers, ways, (filet,), D(24)))
    assert found.buys == (Buy(0, 0, ()), Buy(1, 0, (("full", 4),)))
    assert found.cost == 20 * D("5.50")
    assert found.labour == 60 * 24 / D(60)
    assert found.shortfall == 0
    order = Order(offers, ways, (filet,), D(24))
    costs = [(one.offer.id, one.amount) for one in net_costs(order, filet)]
    assert costs == [("f", (30 + 6) / D(3)), ("p", (50 + 2) / D(4))]
    dear = best_order(Order(offers, ways, (filet,), D(120)))
    assert dear.buys[0] == Buy(0, 3, (("peeled", 3),))


@pytest.mark.parametrize(
    ("day", "weekdays", "next_one"),
    [
        (date(2026, 11, 26), [1, 4], date(2026, 11, 27)),
        (date(2026, 11, 27), [1, 4], date(2026, 12, 1)),
        (date(2026, 11, 27), [4], date(2026, 12, 4)),
    ],
)
def test_the_next_delivery_is_on_the_next_of_its_days(day, weekdays, next_one):
    assert delivery_after(day, weekdays) == next_one


def test_what_cannot_be_ordered_says_why():
    with pytest.raises(BadValue, match="at least one day"):
        delivery_after(date(2026, 11, 27), [])
    offer = Offer("o", "Clod", Weight(D(9), Unit.LB), UnitPrice.of("4", "lb"), ())
    with pytest.raises(BadValue, match="as many as are cut"):
        order_figures(Order((offer,), (), ()), [Buy(0, 1, ())])
    with pytest.raises(BadValue, match="1 or more"):
        Offer("o", "Clod", Weight(D(9), Unit.LB), UnitPrice.of("4", "lb"), (), 0)
