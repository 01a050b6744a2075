"""Seven days at one look."""

from datetime import timedelta
from decimal import Decimal

import pytest
from django.urls import reverse
from django.utils import timezone

from rooms.cooler.models import Bag
from rooms.demand.actions.want import want
from rooms.planner.queries.week import week
from rooms.pricebook.models import Product
from tests.conftest import words_of

pytestmark = pytest.mark.django_db


def test_each_bag_stands_on_the_days_on_which_something_changes(client, fill, shop):
    today = timezone.localdate()
    bags = fill(
        ("beef-ribeye", 20, "14.50"), ("beef-ribeye", 20, "13.00"), ("pork-loin", 3, "8.60")
    )
    later = today + timedelta(days=2)
    Bag.objects.filter(pk__in=[bag.pk for bag in bags[:2]]).update(ends_on=later)
    Bag.objects.filter(pk=bags[2].pk).update(
        ends_on=today - timedelta(days=1), old_enough_on=today + timedelta(days=3)
    )
    want(Product.objects.filter(is_sold=True).first(), later.weekday(), Decimal(2), Decimal(5))
    found = week(today)
    assert len(found.days) == 7
    assert [(group.many, group.weight) for group in found.days[2].due] == [(2, Decimal("27.50"))]
    assert found.days[2].wanted >= 1
    assert [group.piece for group in found.days[3].ready] == ["Pork loin, boneless"]
    assert found.past[0].many == 1
    words = words_of(client.get(reverse("planner:week")))
    assert "Falls due" in words
    assert "decided about first" in words


def test_an_empty_cooler_has_a_quiet_week(client, shop):
    assert "No bag changes." in words_of(client.get(reverse("planner:week")))


def test_what_the_cooler_cannot_give_is_short_from_its_first_day(client, fill, shop):
    (bag,) = fill(("beef-tenderloin", 20, "6.00"), price="9.10")
    today = timezone.localdate()
    product = Product.objects.get(cut__key="beef-centre-filet")
    for weekday in range(7):
        want(product, weekday, Decimal(2), Decimal(3))
    share = max(
        one.share for one in product.cut.planoutput_set.filter(plan__piece=bag.piece) if one.share
    )
    lasts = int(share * 6 / 2)
    found = week(today)
    short = [number for number, day in enumerate(found.days) if day.short]
    assert short == [lasts]
    assert "Center filet" in found.days[lasts].short[0]
    later = today + timedelta(days=lasts + 1)
    Bag.objects.filter(pk=bag.pk).update(old_enough_on=later)
    assert week(today).days[0].short
    assert "Short from here" in words_of(client.get(reverse("planner:week")))


@pytest.mark.parametrize("name", ["planner:day", "planner:week", "planner:order", "demand:demand"])
def test_pages_of_the_planner_take_few_queries(
    client, shop, fill, name, django_assert_max_num_queries
):
    fill(*[("beef-shoulder-clod", 20, "19.00"), ("beef-tenderloin", 20, "6.10")] * 10)
    address = reverse(name)
    client.get(address)
    with django_assert_max_num_queries(14):
        assert client.get(address).status_code == 200
