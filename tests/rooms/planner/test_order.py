"""The next order: what the cooler does not cover, cases, what is coming, sent and taken back."""

import csv
import io
import uuid
from datetime import timedelta
from decimal import Decimal

import pytest
from django.urls import reverse
from django.utils import timezone

from rooms.catalog.models import Piece
from rooms.cooler.models import Bag, Delivery
from rooms.demand.actions.want import want
from rooms.planner.actions.order import set_terms
from rooms.planner.models import NextOrder
from rooms.planner.queries.ordering import asking_order, buyable
from rooms.pricebook.models import Product
from rooms.shop.models import Shop
from tests.conftest import words_of

pytestmark = pytest.mark.django_db
D = Decimal


@pytest.fixture
def filets(fill, shop):
    """A tenderloin in the cooler, and filets that are wanted every day."""
    (bag,) = fill(("beef-tenderloin", 20, "6.17"), price="9.10")
    product = (
        Product.objects.filter(cut__planoutput__plan__piece__key="beef-tenderloin", is_sold=True)
        .filter(prices__isnull=False)
        .distinct()
        .first()
    )
    for weekday in range(7):
        want(product, weekday, D(1), D("1.5"))
    return bag, product


def work_out(client, **more):
    return client.post(reverse("planner:order"), {"key": str(uuid.uuid4()), **more})


def rows_of(order):
    return {row["name"]: row for row in order.answer["products"]}


def test_what_the_cooler_does_not_cover_is_ordered_and_shown(client, filets, solving):
    bag, product = filets
    key = str(uuid.uuid4())
    for _ in range(2):
        assert work_out(client, key=key).status_code == 302
    order = NextOrder.objects.get()
    assert timezone.localdate() < order.arrives_on < order.lasts_until
    line = rows_of(order)[f"p{product.pk}"]
    assert D(line["covered"]) > 0
    assert D(line["short"]) == 0
    assert [buy["offer"] for buy in order.answer["buys"]] == [str(bag.piece_id)]
    words = words_of(client.get(reverse("planner:order")))
    assert "Tenderloin" in words
    assert "wanted till then" in words
    assert f"from {bag.piece.shown_name}" in words


def test_a_fuller_cooler_needs_less_and_an_empty_list_needs_nothing(client, filets, solving, fill):
    work_out(client)
    few = NextOrder.objects.first().answer["buys"][0]["pieces"]
    fill(("beef-tenderloin", 20, "6.10"), ("beef-tenderloin", 20, "6.30"), price="9.10")
    work_out(client)
    more = NextOrder.objects.first().answer["buys"]
    assert sum(buy["pieces"] for buy in more) == max(few - 2, 0)
    for weekday in range(7):
        want(filets[1], weekday, D(0), D(0))
    work_out(client)
    assert NextOrder.objects.first().answer["buys"] == []
    assert "nothing needs to be ordered" in words_of(client.get(reverse("planner:order")))


def test_what_is_sent_is_coming_and_what_is_taken_back_is_not(client, filets, solving):
    work_out(client)
    first = NextOrder.objects.first()
    send, back = (reverse(f"planner:{name}", args=[first.pk]) for name in ("send", "unsend"))
    for _ in range(2):
        assert client.post(send).status_code == 302
    assert "sent at" in words_of(client.get(reverse("planner:order")))
    work_out(client)
    assert NextOrder.objects.first().answer["buys"] == []
    for _ in range(2):
        assert client.post(back).status_code == 302
    work_out(client)
    assert NextOrder.objects.first().answer["buys"] == first.answer["buys"]
    late = client.post(send)
    assert late.status_code == 422
    assert "a newer one was worked out since" in words_of(late)


def test_what_was_sent_is_coming_until_a_delivery_of_its_day_is_here(client, filets, solving):
    work_out(client)
    order = NextOrder.objects.first()
    client.post(reverse("planner:send", args=[order.pk]))
    today = timezone.localdate()

    def coming(arrives, delivered):
        NextOrder.objects.filter(pk=order.pk).update(arrives_on=arrives)
        Delivery.objects.update(received_at=timezone.now() - timedelta(days=delivered))
        bags = asking_order(today).document["day"]["bags"]
        return any(row["id"].startswith(str(order.key)) for row in bags)

    assert coming(today + timedelta(days=1), delivered=0)
    assert coming(today, delivered=2)  # this morning, before the ferry
    assert not coming(today, delivered=0)
    assert coming(today - timedelta(days=1), delivered=2)  # a late ferry
    assert not coming(today - timedelta(days=9), delivered=20)


def test_an_empty_order_and_one_whose_day_has_come_are_not_sent(client, filets, solving):
    work_out(client)
    order = NextOrder.objects.first()
    order.arrives_on = timezone.localdate()
    order.save()
    send = reverse("planner:send", args=[order.pk])
    assert "its delivery was on" in words_of(client.post(send))
    order.answer["buys"] = []
    order.save()
    assert "nothing is in it" in words_of(client.post(send))


def test_what_stays_short_says_why(client, filets, solving):
    bag, product = filets
    ham = Product.objects.get(cut__key="lamb-rib-chop")
    want(ham, timezone.localdate().weekday(), D(2), D(3))
    work_out(client)
    words = words_of(client.get(reverse("planner:order")))
    assert "no piece with a price gives it" not in words  # nothing there knows the product
    for weekday in range(7):
        want(product, weekday, D("0.1"), D("0.1"))
    Bag.objects.filter(pk=bag.pk).update(state=Bag.State.OPENED, left_at=timezone.now())
    work_out(client)
    words = words_of(client.get(reverse("planner:order")))
    assert "short: a piece more would not pay" in words


def test_cases_are_cheaper_than_pieces_alone_and_go_into_the_file(client, filets, solving):
    set_terms(filets[0].piece, 2, D("0.40"))
    for weekday in range(7):
        want(filets[1], weekday, D(3), D(4))
    work_out(client)
    order = NextOrder.objects.first()
    (buy,) = order.answer["buys"]
    assert buy["cases"] * 2 + buy["singles"] == buy["pieces"]
    assert buy["cases"] >= 1
    text = client.get(reverse("planner:order_file", args=[order.pk])).content.decode()
    (row,) = csv.DictReader(io.StringIO(text))
    assert row["in a case"] == "2"
    assert D(row["price"]) == D("9.10")
    assert row["for"] == order.arrives_on.isoformat()


def test_a_bag_too_young_until_then_covers_nothing_and_what_ages_here_is_ordered_for_later(
    filets, shop, fill
):
    bag, product = filets
    today = timezone.localdate()
    plain = asking_order(today)
    assert [row["id"] for row in plain.document["day"]["bags"]] == [str(bag.pk)]
    before = buyable()[bag.piece_id].lag
    Bag.objects.filter(pk=bag.pk).update(
        old_enough_on=timezone.localdate(bag.came_at) + timedelta(days=before + 10)
    )
    later = asking_order(today)
    (offer,) = later.document["offers"]
    assert offer["lag"] == before + 10

    def least(asked):
        rows = asked.document["day"]["products"]
        return D(next(row for row in rows if row["name"] == f"p{product.pk}")["least"]["value"])

    assert least(later) > least(plain)
    Bag.objects.filter(pk=bag.pk).update(ends_on=today - timedelta(days=1))
    assert asking_order(today).document["day"]["bags"] == []


def test_no_delivery_day_and_no_price_say_so(client, filets, solving):
    Shop.objects.update(delivery_days=[])
    answer = work_out(client)
    assert answer.status_code == 422
    assert "at least one day of the week is right" in words_of(answer)
    Shop.objects.update(delivery_days=[1, 4])
    Bag.objects.update(price_amount=None)
    answer = work_out(client)
    assert answer.status_code == 422
    assert "none has a price" in words_of(answer)
    assert client.post(reverse("planner:order"), {"key": "x"}).status_code == 422


@pytest.mark.parametrize(
    ("sent", "says"),
    [
        ({"piece": "whale"}, "Select a valid choice"),
        ({"in_case": "0"}, "greater than or equal to 1"),
        ({"more": "x"}, "not a plain number"),
    ],
)
def test_terms_that_cannot_be_say_why(client, shop, sent, says):
    plain = {"piece": "beef-tenderloin", "in_case": "6", "more": "0.35"}
    assert client.post(reverse("planner:terms"), plain).status_code == 302
    assert Piece.objects.get(key="beef-tenderloin").terms.in_case == 6
    answer = client.post(reverse("planner:terms"), {**plain, **sent})
    assert answer.status_code == 422
    assert says in words_of(answer)


def test_what_to_buy_stands_in_the_planner_and_its_old_address_leads_there(client, shop):
    old = client.get("/counter/buy/?name-0=A")
    assert old.status_code == 302
    assert old["Location"] == "/planner/buy/?name-0=A"
    assert "The next order" in words_of(client.get(reverse("planner:buy")))
