"""Products and what they share: forms, rules, neighbours, filters."""

from datetime import timedelta
from decimal import Decimal

import pytest
from django.urls import reverse
from django.utils import timezone

from cutting.quantities import Direction
from rooms.catalog.models import Cut
from rooms.common.db.seen import state_of
from rooms.pricebook.actions.prices import newest_price
from rooms.pricebook.models import (
    Adder,
    Ending,
    Family,
    NeighbourPrice,
    Price,
    Product,
    TraySize,
)
from rooms.pricebook.queries.product_terms import endings, endings_of, loads_of
from rooms.shop.queries.endings import bands_of, words_of

pytestmark = pytest.mark.django_db
D = Decimal
GOOD = {"name": "Flat iron", "per": "lb", "counter": "self", "tray_unit": "lb", "is_sold": "on"}


@pytest.fixture
def flat_iron(shop):
    return Product.objects.get(cut__key="beef-flat-iron")


def save(client, product, **more):
    sent = GOOD | {"seen": state_of(product)} | more
    return client.post(reverse("pricebook:product", args=[product.pk]), sent)


def test_a_product_keeps_all_it_is_priced_by_and_its_history_who_changed_it(
    client, flat_iron, shop
):
    tray = TraySize.objects.create(code="4", fits=4, tray_cost=D("0.12"), film_cost=D("0.04"))
    family = Family.objects.create(name="Steaks", comfort=D("30"))
    tie = Adder.objects.create(name="Tie", price=D("0.20"))
    answer = save(
        client,
        flat_iron,
        target_margin="42.5 %",
        floor_margin="25",
        shrink="1.5",
        tax="8",
        tray=tray.pk,
        tray_weight="0.80",
        portions="2",
        minutes="1.5",
        carries_labour="on",
        carries_packaging="on",
        family=family.pk,
        adders=[tie.pk],
        story="Hot pan.",
        shows_both="on",
    )
    assert answer.status_code == 302
    flat_iron = Product.objects.select_related("tray").get(pk=flat_iron.pk)
    assert (flat_iron.target_margin, flat_iron.shrink, flat_iron.tax) == (
        D("0.425"),
        D("0.015"),
        D("0.08"),
    )
    loads = loads_of(flat_iron)
    assert (loads.labour, loads.packaging) == (D("0.6"), D("0.2"))  # 1.5 × 24 / 60; 0.16 / 0.80
    assert list(flat_iron.adders.all()) == [tie]
    assert flat_iron.history.first().history_user == shop["bram"]
    page = client.get(reverse("pricebook:product", args=[flat_iron.pk])).content.decode()
    assert 'value="42.5"' in page
    assert "Hot pan." in page


@pytest.mark.parametrize(
    ("wrong", "says"),
    [
        ({"target_margin": "96"}, "at most 95"),
        ({"floor_margin": "x"}, "not a plain number"),
        ({"target_margin": "30", "floor_margin": "31"}, "at most the target"),
        ({"per": "kg"}, "Its prices are by the lb and would be read by the kg; lb is right"),
        ({"name": ""}, "required"),
        ({"portions": "0"}, "greater than or equal to 1"),
        ({"family": "77"}, "valid choice"),
    ],
)
def test_a_wrong_value_is_told_at_its_field_and_what_was_typed_stays(
    client, flat_iron, wrong, says
):
    answer = save(client, flat_iron, story="Keep this.", **wrong)
    text = answer.content.decode()
    assert answer.status_code == 422
    assert says in text
    assert "Keep this." in text
    assert Product.objects.get(pk=flat_iron.pk).story == ""


def test_a_cut_without_a_product_becomes_one(client, shop):
    cut = Cut.objects.create(key="own-cut", species="beef", name="Own cut")
    answer = client.post(reverse("pricebook:new_product"), GOOD | {"name": "New", "cut": cut.pk})
    product = Product.objects.get(cut=cut)
    assert answer.url == reverse("pricebook:product", args=[product.pk])
    again = client.post(reverse("pricebook:new_product"), GOOD | {"name": "Two", "cut": cut.pk})
    assert again.status_code == 422  # each cut is one product


def test_a_price_by_hand_keeps_what_it_rests_on(client, flat_iron):
    address = reverse("pricebook:price_by_hand", args=[flat_iron.pk])
    Price.objects.filter(product=flat_iron).update(cost=D("6.20"), school="flat")
    assert (
        client.post(
            address, {"amount": "12.49", "why": "ad ends", "seen": newest_price()}
        ).status_code
        == 302
    )
    now = Price.objects.current().get(product=flat_iron)
    assert (now.amount, now.cost, now.school, now.version.why) == (
        D("12.49"),
        D("6.20"),
        "flat",
        "ad ends",
    )
    long_ago = {"amount": "5", "effective_on": "2001-01-01"}
    for wrong, says in (({"amount": "0"}, "more than 0"), (long_ago, "today or a day")):
        answer = client.post(address, wrong)
        assert answer.status_code == 422
        assert says in answer.content.decode()


def test_what_neighbours_ask_is_noted_once_with_day_and_place(client, flat_iron):
    address, day = reverse("pricebook:neighbour", args=[flat_iron.pk]), timezone.localdate()
    note = {"place": "North end market", "amount": "11.49", "per": "lb", "seen_on": day}
    for _ in range(2):
        assert client.post(address, note).status_code == 302
    assert NeighbourPrice.objects.count() == 1
    later = client.post(address, note | {"seen_on": day + timedelta(days=1)})
    assert later.status_code == 422
    assert "is to come" in later.content.decode()


@pytest.mark.parametrize(
    ("kind", "good", "wrong", "says"),
    [
        ("families", {"name": "Roasts", "comfort": "45"}, {"comfort": "0"}, "more than 0"),
        (
            "endings",
            {"name": "Odd", "bands": "0.49 0.99 under 20; 0.99", "direction": "up"},
            {"bands": "1.5"},
            "write them like",
        ),
        ("trays", {"code": "4", "fits": "4", "tray_cost": "0.12"}, {"fits": "0"}, "equal to 1"),
        ("adders", {"name": "Tie", "price": "0.2", "pick_up": "2"}, {"minutes": "-1"}, "0 or more"),
    ],
)
def test_what_products_share_is_added_changed_and_named_once(client, shop, kind, good, wrong, says):
    new = reverse("pricebook:shared_row", args=[kind, 0])
    assert client.post(new, good).url == reverse("pricebook:shared")
    assert says in client.post(new, good | wrong).content.decode()
    again = client.post(new, good)
    assert again.status_code == 422
    assert "is taken" in again.content.decode()
    model = {"families": Family, "endings": Ending, "trays": TraySize, "adders": Adder}[kind]
    row = model.objects.get()
    page = client.get(reverse("pricebook:shared_row", args=[kind, row.pk])).content.decode()
    assert str(row) in page
    assert (
        client.post(reverse("pricebook:shared_row", args=[kind, row.pk]), good).status_code == 302
    )
    assert model.objects.count() == 1


@pytest.mark.parametrize("words", ["0.99", "0.49 0.99 under 20; 0.99", "9.00 every 10"])
def test_endings_are_written_as_a_shop_says_them(words):
    assert words_of(bands_of(words)) == words


def test_a_products_rule_comes_before_its_familys_and_the_shops(flat_iron):
    assert endings_of(flat_iron) == endings() == endings_of(None)
    family = Ending.objects.create(name="a", bands=bands_of("0.99"), direction="up")
    flat_iron.family = Family.objects.create(name="Steaks", ending=family)
    assert endings_of(flat_iron).direction is Direction.UP
    flat_iron.ending = Ending.objects.create(name="b", bands=bands_of("0.99"), direction="down")
    assert endings_of(flat_iron).direction is Direction.DOWN


def test_products_are_found_by_any_name_and_sorted(client, shop):
    address = reverse("pricebook:products")
    found = client.get(address, {"name": "infraspinatus"}).content.decode()
    assert "Flat iron steak" in found
    assert "Center filet" not in found
    lamb = client.get(address, {"species": "lamb", "is_sold": "True", "order": "name"})
    names = [product.name for product, _ in lamb.context["lines"]]
    assert names == sorted(names)
    assert len(names) > 5
    assert client.get(address, {"species": "cow"}).status_code == 422
    assert "No product fits" in client.get(address, {"name": "moon"}).content.decode()
