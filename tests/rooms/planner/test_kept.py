"""Ads and choices of what to buy under a name: kept, opened again, beside each other."""

import re

import pytest
from django.urls import reverse
from django.utils import timezone

from rooms.planner.models import Kept
from rooms.pricebook.models import Price, Product
from rooms.pricing.actions.save import Saving, save_prices
from rooms.pricing.queries.building import price_view
from rooms.pricing.queries.wishes import Wish

pytestmark = pytest.mark.django_db
KEEP = "/counter/ad/keep/"


@pytest.fixture
def priced(weighed):
    rows = weighed()
    save_prices(rows, Wish(shown=price_view(rows, Wish()).shown), Saving(None))
    return [price.product for price in Price.objects.current() if price.cost]


def fields(products, **more):
    ad, around, *_ = products
    return {
        "product-0": str(ad.pk),
        "price-0": "9.99",
        "usual-pounds-0": "20",
        "pounds-0": "50",
        "product-1": str(around.pk),
        "usual-pounds-1": "10",
        "pounds-1": "14",
    } | more


def text_of(answer):
    return re.sub(r"\s+", " ", answer.content.decode())


@pytest.mark.long
def test_an_ad_is_kept_opened_again_and_stands_beside_others(client, priced):
    numbers = fields(priced)
    answer = client.post(KEEP, numbers | {"name": " Week  48 "})
    kept = Kept.objects.get()
    assert (kept.name, kept.fields, kept.revision) == ("Week 48", numbers, 1)
    assert answer.url == f"{reverse('planner:ad')}?kept={kept.pk}"
    client.post(KEEP, numbers | {"name": "Week 48"})  # a repeated request changes nothing
    assert Kept.objects.get().revision == 1
    opened = text_of(client.get(answer.url))
    worked = text_of(client.get(reverse("planner:ad"), numbers))
    given = re.search(r"The ad gives away</dt><dd>([^<]+)", worked)[1]
    assert f"The ad gives away</dt><dd>{given}<" in opened
    assert "Week 48, kept by" in opened
    client.post(KEEP, fields(priced, **{"price-0": "8.99"}) | {"name": "Week 49"})
    beside = text_of(client.get(reverse("planner:kept", args=["ad"])))
    assert f'data-label="gives away">{given}<' in beside
    assert beside.index("Week 49") < beside.index("Week 48")
    assert "Week 49, kept by" in text_of(client.get(reverse("planner:ad")))  # opens on the last
    client.post(reverse("planner:take_off", args=["ad", kept.pk]))
    assert Kept.objects.get().name == "Week 49"


@pytest.mark.long
def test_two_people_who_keep_one_name_lose_nothing(client, priced):
    numbers = fields(priced)
    client.post(KEEP, numbers | {"name": "Week 48"})
    other = numbers | {"pounds-0": "77", "name": "Week 48"}
    refused = client.post(KEEP, other)
    assert refused.status_code == 409
    page = text_of(refused)
    assert "was kept by Bram" in page
    assert 'value="77"' in page
    assert Kept.objects.get().fields["pounds-0"] == "50"
    assert client.post(KEEP + "?over=9", other).status_code == 409  # it has not seen that one
    assert client.post(KEEP + "?over=1", other).status_code == 302
    assert Kept.objects.get().fields["pounds-0"] == "77"
    stale = numbers | {"name": "Week 48", "over": "1"}  # opened before the other one was kept
    assert client.post(KEEP, stale).status_code == 409


@pytest.mark.parametrize(("name", "says"), [("", "it is empty"), ("x" * 61, "61 letters")])
def test_a_wrong_name_is_told_and_the_numbers_stay(client, priced, name, says):
    answer = client.post(KEEP, fields(priced) | {"name": name})
    assert answer.status_code == 422
    assert says in text_of(answer)
    assert 'value="9.99"' in text_of(answer)
    assert not Kept.objects.exists()


def test_a_kept_ad_whose_product_is_gone_says_so_and_keeps_its_numbers(client, priced):
    client.post(KEEP, fields(priced) | {"name": "Тиждень 48 — Паска"})
    kept = Kept.objects.get()
    Product.objects.filter(pk=priced[0].pk).update(is_sold=False)
    answer = client.get(reverse("planner:ad"), {"kept": kept.pk})
    assert answer.status_code == 422
    assert f"{priced[0].name}: it is not on sale any more" in text_of(answer)
    assert 'value="50"' in text_of(answer)
    beside = text_of(client.get(reverse("planner:kept", args=["ad"])))
    assert "Тиждень 48 — Паска" in beside
    assert "it is not on sale any more" in beside


def test_without_a_kept_ad_the_planner_opens_on_what_the_shop_cuts(client, priced):
    page = text_of(client.get(reverse("planner:ad")))
    assert "An example of this shop" in page
    assert "The ad gives away" in page
    assert 'class="bars week-bars"' in page


def test_what_to_buy_is_kept_and_tests_that_are_gone_are_told(client, shop):
    numbers = {
        "name-0": "As it comes",
        "price-0": "7",
        "ready-0": "60",
        "name-1": "Trimmed",
        "price-1": "9",
        "ready-1": "85",
    }
    address = reverse("planner:keep", args=["buy"])
    client.post(address, numbers | {"name": "Tenderloin"})
    client.post(address, numbers | {"name": "From tests", "group-1": "No piece|no plan||"})
    assert "Trimmed costs least ready" in text_of(
        client.get(reverse("planner:buy"), {"kept": Kept.objects.get(name="Tenderloin").pk})
    )
    gone = client.get(reverse("planner:buy"), {"kept": Kept.objects.get(name="From tests").pk})
    assert gone.status_code == 422
    assert "there are no such tests now" in text_of(gone)
    beside = text_of(client.get(reverse("planner:kept", args=["buy"])))
    assert "Trimmed" in beside
    assert "there are no such tests now" in beside


def test_many_kept_ads_ask_no_more_than_one(client, priced, django_assert_max_num_queries):
    for i in range(15):
        Kept.objects.create(
            kind="ad", name=f"Week {i}", fields=fields(priced), kept_at=timezone.now()
        )
    with django_assert_max_num_queries(6):
        client.get(reverse("planner:kept", args=["ad"]))


@pytest.mark.long
@pytest.mark.parametrize("kind", ["ad", "buy"])
def test_every_way_to_the_page_names_all_that_is_kept(client, priced, kind):
    """Opened empty, by name, with numbers, and refused."""
    numbers = fields(priced)
    for name in ("Week 48", "Week 49"):
        Kept.objects.create(kind=kind, name=name, fields=numbers, kept_at=timezone.now())
    page = reverse("planner:ad" if kind == "ad" else "planner:buy")
    pages = [client.get(page), client.get(page, {"kept": Kept.objects.last().pk})]
    pages += [client.get(page, numbers), client.post(f"/counter/{kind}/keep/", numbers)]
    assert pages[-1].status_code == 422
    for answer in pages:
        links = re.findall(r'<a href="[^"]*\?kept=\d+"[^>]*>([^<]+)', answer.content.decode())
        assert links == ["Week 49", "Week 48"]
