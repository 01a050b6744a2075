"""The ad planner and what to buy, as pages."""

from decimal import Decimal

import pytest
from django.urls import reverse

from rooms.bench.actions.finishing import approve
from rooms.bench.models import CuttingTest
from rooms.catalog.models import Plan
from rooms.planner.queries.ads import ad_view
from rooms.planner.queries.buying import buy_view
from rooms.planner.queries.costed import gave, groups
from rooms.pricebook.models import Product
from tests.cases import some_often
from tests.conftest import capture, words_of

pytestmark = pytest.mark.django_db
D = Decimal


def pk(key):
    return str(Product.objects.get(cut__key=key).pk)


def week(**more):
    return {
        "product-0": pk("beef-tip-roast"),
        "price-0": "3.99",
        "usual-0": "6.99",
        "cost-0": "4.20",
        "pounds-0": "300",
        "usual-pounds-0": "60",
        "product-1": pk("beef-tip-centre-steak"),
        "price-1": "8.49",
        "cost-1": "4.60",
        "pounds-1": "80",
        "usual-pounds-1": "50",
    } | more


def test_an_ad_week_beside_a_usual_one(client, shop, django_assert_max_num_queries):
    """300 × (3.99 − 4.20) + 80 × (8.49 − 4.60) = 248.20; usual 167.40 + 50 × 5.39 = 436.90,
    as the steak's book price of 9.99 does not count: the row's own price holds for both weeks.
    """
    with django_assert_max_num_queries(15):
        page = client.get(reverse("planner:ad"), week()).content.decode()
    view = ad_view(week())
    assert view.ad.week.gp == D("248.20")
    assert view.ad.usual.gp == D("361.90")
    assert "900.00" in page
    assert "231.4" in page


@pytest.mark.parametrize(
    ("more", "says"),
    some_often(
        [
            ({"price-0": ""}, "ad price: it is empty"),
            ({"price-0": "x"}, "not a plain number"),
            ({"cost-1": ""}, "the book knows none"),
            ({"pounds-0": "-1"}, "0 or more"),
            ({"goal": "99"}, "at most 95"),
            ({"price-1": "0"}, "more than 0"),
        ]
    ),
)
def test_a_wrong_number_is_named_and_what_was_typed_stays(client, shop, more, says):
    answer = client.get(reverse("planner:ad"), week(**more))
    text = answer.content.decode()
    assert answer.status_code == 422
    assert says in text
    assert 'value="80"' in text


def knuckle(opened, shop, plan):
    """A knuckle cut by a plan, in balance and approved."""
    from rooms.bench.actions.weighings import take_weight
    from tests.conftest import finish

    rows = opened("beef-knuckle", "10.00", "4.60")
    CuttingTest.objects.filter(pk=rows.test.pk).update(plan=plan, plan_name=plan.name)
    for output, weight in zip(rows.outputs[:3], ("5.00", "3.00", "1.98"), strict=True):
        rows = take_weight(rows.test.pk, capture(output, weight), None)
    finish(rows.test.pk, str(rows.revision))
    approve(rows.test.pk, "", shop["bram"].pk)
    return rows


def test_the_share_to_merchandise_comes_from_tests_or_says_that_it_does_not(client, opened, shop):
    seamed = Plan.objects.get(piece__key="beef-knuckle", name__startswith="Seamed")
    basic = Plan.objects.get(piece__key="beef-knuckle", name__startswith="Basic")
    assert ad_view(week()).merchandising is None  # no invoice known yet
    knuckle(opened, shop, seamed)
    view = ad_view(week(goal="40"))
    m = view.merchandising
    assert (m.plain.plan, m.other.plan) == (basic, seamed)
    assert (m.plain.tests, m.other.tests) == (0, 1)
    assert 0 < m.share < 1
    page = client.get(reverse("planner:ad"), week(goal="40")).content.decode()
    assert "no test of it yet" in page
    assert "a single test" in page
    assert 'id="ad-figures"' in page
    chosen = ad_view(week(plain=str(seamed.pk), other=str(basic.pk), goal="90"))
    assert chosen.merchandising.share is None
    easy = ad_view(week(goal="5")).merchandising
    assert easy.share == 0
    assert easy.chart["makes"] == easy.chart["margin"][0] > easy.chart["goal"] == 5
    words = " ".join(words_of(client.get(reverse("planner:ad"), week(goal="5"))).split())
    assert f"the ad pieces make {easy.chart['makes']} % as they are, and 5.0 % is the goal" in words


def test_what_to_buy_takes_yields_from_tests_and_assumptions_over_them(client, weighed, shop):
    for i, piles in enumerate(
        (("3.45", "0.80", "0.93", "0.68", "0.22", "0.06"), ("3.20", "0.90", "1.00", "0.75", "0.28"))
    ):
        rows = weighed(piles=piles)
        CuttingTest.objects.filter(pk=rows.test.pk).update(supplier=f"Packer {i}")
        approve(rows.test.pk, "", shop["bram"].pk)
    found = {group.key: group for group in groups()}
    assert len(found) == 3  # both together, and each supplier
    both = next(group for key, group in found.items() if key.endswith("||"))
    given = gave(both)
    assert given.tests == 2
    assert abs(given.ready.share - D("6.65") / D("12.34")) < D("1e-25")
    page = client.get(reverse("planner:buy")).content.decode()
    assert "Packer 0" in page
    assert "so it is not sure" in page
    typed = {
        "group-0": both.key,
        "price-0": "7.49",
        "minutes-0": "1.5",
        "credits-0": "1.45",
        "ready-0": "42",
        "name-1": "Skinned",
        "price-1": "15.20",
        "ready-1": "97",
        "minutes-1": "0.2",
    }
    answer = [(each.one.spec.name[:7], round(each.one.cost, 2)) for each in buy_view(typed).answer]
    assert answer == [("Tenderl", D("15.81")), ("Skinned", D("15.75"))]


@pytest.mark.parametrize(
    ("typed", "says"),
    [
        ({"name-0": "A", "price-0": "x"}, "not a plain number"),
        ({"name-0": "A", "ready-0": "40"}, "A, price: it is empty"),
        ({"name-0": "A", "price-0": "4"}, "A, yield: it is empty"),
        ({"name-0": "A", "price-0": "4", "ready-0": "101"}, "at most 100"),
        ({"rate": "-1"}, "0 or more"),
    ],
)
def test_a_specification_that_cannot_be_is_named(client, shop, typed, says):
    answer = client.get(reverse("planner:buy"), {"group-0": "", **typed})
    assert answer.status_code == 422
    assert says in answer.content.decode()


def test_one_row_alone_asks_for_another(client, shop):
    page = client.get(
        reverse("planner:buy"), {"group-0": "", "name-0": "A", "price-0": "4", "ready-0": "50"}
    ).content.decode()
    assert "Fill in at least two rows" in page
