"""What the case wants on a day: the list, seasons and ads, restaurants; every page asks one place."""

from datetime import timedelta
from decimal import Decimal

import pytest
from django.urls import reverse
from django.utils import timezone

from cutting.quantities import Unit, Weight
from rooms.demand.actions.factors import FactorSet, set_factor
from rooms.demand.actions.standing_orders import Standing, set_standing
from rooms.demand.actions.want import want
from rooms.demand.models import Factor, StandingOrder
from rooms.demand.queries.wants import wants_of, wants_on
from rooms.planner.queries.week import week
from rooms.pricebook.models import Product
from rooms.today.queries.morning import today as morning
from tests.conftest import words_of

pytestmark = pytest.mark.django_db
D = Decimal


@pytest.fixture
def steak(shop):
    product = Product.objects.get(cut__key="beef-flat-iron")
    for weekday in range(7):
        want(product, weekday, D(4), D(6))
    return product


def ad(product=None, days=2, percent="150", name="Flat iron week"):
    today = timezone.localdate()
    return FactorSet("ad", name, product, today, today + timedelta(days=days), D(percent))


def figures(day):
    return {one.product.pk: (one.least, one.most) for one in wants_on(day)}


def test_an_ad_raises_its_product_on_its_days_and_two_multiply(steak):
    today = timezone.localdate()
    for _ in range(2):
        set_factor(ad(steak), None)
    assert Factor.objects.count() == 1
    assert figures(today)[steak.pk] == (D("6.0"), D("9.0"))
    set_factor(ad(percent="200", name="Feast", days=0), None)
    assert figures(today)[steak.pk] == (D("12.0"), D("18.0"))
    assert figures(today + timedelta(days=1))[steak.pk] == (D("6.0"), D("9.0"))
    assert figures(today + timedelta(days=3))[steak.pk] == (D(4), D(6))


def test_a_restaurant_is_added_on_its_day_in_the_products_unit_until_it_is_stopped(steak, client):
    today = timezone.localdate()
    eight = Standing("The Slip", steak, "tissue out", 12, Weight(D(8), Unit.OZ), today.weekday())
    for _ in range(2):
        set_standing(eight, None)
    assert StandingOrder.objects.count() == 1
    assert figures(today)[steak.pk] == (D(10), D(12))
    assert figures(today + timedelta(days=1))[steak.pk] == (D(4), D(6))
    fewer = Standing("The Slip", steak, "tissue out", 6, Weight(D(8), Unit.OZ), today.weekday())
    set_standing(fewer, None)
    assert figures(today)[steak.pk] == (D(7), D(9))
    now = StandingOrder.objects.get(until=None)
    assert client.post(reverse("demand:standing_off", args=[now.pk])).status_code == 302
    assert figures(today)[steak.pk] == (D(4), D(6))


def test_what_nobody_lists_is_wanted_for_a_restaurant_alone(shop):
    product, today = Product.objects.filter(is_sold=True).first(), timezone.localdate()
    own = Standing("The Slip", product, "", 3, Weight(D(1), Unit.LB), today.weekday())
    set_standing(own, None)
    assert figures(today) == {product.pk: (D(3), D(3))}


def test_the_morning_the_week_and_the_order_show_the_same(steak):
    today = timezone.localdate()
    set_factor(ad(steak, name="Feast"), None)
    found = morning(today).wanted
    (answer, *_), *_ = found.missing + found.enough
    assert (answer.want.least, answer.want.most) == (D("6.0"), D("9.0"))
    assert week(today).days[0].why == ["Feast"]
    days = [today + timedelta(days=ahead) for ahead in range(4)]
    sums = sum(one.least for rows in wants_of(days).values() for one in rows)
    assert sums == 3 * D("6.0") + 4


def test_the_page_keeps_and_takes_off_and_says_what_is_wrong(client, steak):
    today = timezone.localdate()
    sent = {
        "form": "factor",
        "kind": "holiday",
        "name": "Feast",
        "product": "",
        "first": f"{today}",
        "last": f"{today + timedelta(days=3)}",
        "percent": "150",
    }
    page = reverse("demand:demand")
    assert client.post(page, sent).status_code == 302
    assert "Feast" in words_of(client.get(page))
    wrong = client.post(page, {**sent, "last": f"{today - timedelta(days=1)}"})
    assert wrong.status_code == 422
    assert "is before the first" in words_of(wrong)
    for name, value, says in (
        ("percent", "0", "more than 0"),
        ("percent", "900", "at most 500"),
        ("name", "", "required"),
    ):
        wrong = client.post(page, {**sent, name: value})
        assert wrong.status_code == 422
        assert says in words_of(wrong)
    factor = Factor.objects.get()
    for _ in range(2):
        assert client.post(reverse("demand:factor_off", args=[factor.pk])).status_code == 302
    assert figures(today)[steak.pk] == (D(4), D(6))
    standing = {
        "form": "standing",
        "customer": "The Slip",
        "product": steak.pk,
        "spec": "",
        "count": "12",
        "portion": "225",
        "portion_unit": "g",
        "weekday": f"{today.weekday()}",
    }
    assert client.post(page, standing).status_code == 302
    assert "12 × 225 g" in words_of(client.get(page))
    assert client.post(page, {**standing, "count": "0"}).status_code == 422
