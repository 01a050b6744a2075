"""The morning page: every line with its reason and its action, few queries at any size."""

import uuid
from datetime import timedelta
from decimal import Decimal

import pytest
from django.urls import reverse
from django.utils import timezone

from rooms.bench.actions.piles import move_weighing
from rooms.bench.actions.weighings import take_back, take_weight
from rooms.catalog.models import Piece
from rooms.common.db.seen import last_change
from rooms.cooler.actions.bags import set_seal
from rooms.cooler.actions.days import keep_days
from rooms.cooler.models import Bag, Delivery, Reading
from rooms.demand.actions.want import want
from rooms.demand.models import Wanted
from rooms.pricebook.models import Product
from rooms.pricing.actions.save import Saving, save_prices
from rooms.pricing.queries.building import price_view
from rooms.pricing.queries.wishes import Wish
from rooms.today.queries.morning import moved_prices, today
from tests.conftest import capture

pytestmark = pytest.mark.django_db
D = Decimal
MOST = 17  # four of them: who asks, the shop's settings, what lies in the tubs and in trays


def test_a_leaker_stands_first_with_its_reason_and_its_action(client, fill):
    _old, leaker = fill(("beef-tenderloin", 39, "6.17"), ("lamb-leg", 3, "7"))
    set_seal(leaker.pk, "leaking", None)
    page = client.get("/").content.decode()
    assert page.index("Lamb leg") < page.index("Tenderloin")
    assert "leaking: cut it today" in page
    assert reverse("bench:open", args=["lamb-leg"]) + f"?bag={leaker.pk}" in page
    assert client.get(reverse("today:lines")).status_code == 200
    assert 'class="wall"' in client.get("/", {"wall": "1"}).content.decode()


def test_an_empty_morning_says_so(client, shop):
    page = client.get("/").content.decode()
    assert "No bag must be cut today" in page
    assert "Nothing is wanted today yet" in page


def test_the_wanted_list_is_kept_by_day_and_compared_with_what_is_due(client, fill):
    fill(("beef-tenderloin", 39, "10.00"))
    filet = Product.objects.get(cut__key="beef-centre-filet")
    days = [str(timezone.localdate().weekday()), "6"]
    data = {"product": filet.pk, "weekdays": days, "least": "8", "most": "12"}
    assert client.post(reverse("demand:wanted"), data).status_code == 302
    found = today(timezone.localdate()).wanted.missing[0][0]
    assert (found.want.product, found.usual, found.missing) == (filet.name, D("4.80"), D("3.20"))
    assert "3.2 lb missing" in client.get("/").content.decode()
    wrong = client.post(reverse("demand:wanted"), data | {"most": "7"})
    assert wrong.status_code == 422
    assert "8 or more is right" in wrong.content.decode()
    none = data | {"least": "0", "most": "0", "seen": last_change(Wanted)}
    assert client.post(reverse("demand:wanted"), none).status_code == 302
    assert not Wanted.objects.exists()


def test_what_came_off_the_block_today_is_had(client, opened):
    """Weighed, moved and taken back: the case has what the block shows, and nothing twice."""
    rows = opened()
    test, day = rows.test.pk, timezone.localdate()
    filet = Product.objects.get(cut__key="beef-centre-filet")
    want(filet, day.weekday(), D(100), D(120))
    pile = next(output for output in rows.outputs if output.cut_id == filet.cut_id)
    other = next(output for output in rows.outputs if output.cut_id is None)

    def had(expected):
        assert today(day).wanted.missing[0][0].have == expected
        assert f"{expected} cut" in client.get("/").content.decode()

    for value in ("1.5", "0.8", "0.4"):
        rows = take_weight(test, capture(pile, value, portions="2"), None)
    had(D("2.7"))
    first, second, _ = rows.of(pile)
    rows = move_weighing(test, str(first.pk), str(other.pk), str(pile.pk), None)
    had(D("1.2"))
    take_back(test, str(second.pk), None)
    had(D("0.4"))


def test_a_price_whose_invoice_moved_no_longer_holds(weighed, fill):
    rows = weighed()
    view = price_view(rows, Wish())
    save_prices(rows, Wish(shown=view.shown), Saving(None))
    assert moved_prices()[0] == []
    fill(("beef-tenderloin", 10, "6"), price="7.49")
    assert moved_prices()[0] == []
    fill(("beef-tenderloin", 10, "6"), price="11.90")
    found, _ = moved_prices()
    assert {one.price.product.cut.key for one in found} >= {"beef-centre-filet"}
    assert all((one.paid_then, one.paid_now) == (D("7.49"), D("11.90")) for one in found)
    assert all(one.margin < one.target for one in found)


@pytest.mark.long
@pytest.mark.parametrize("bags", [500, pytest.param(5000, marks=pytest.mark.long)])
def test_few_queries_with_many_bags(
    client, weighed, opened, fill, django_assert_max_num_queries, bags
):
    rows = weighed()
    save_prices(rows, Wish(shown=price_view(rows, Wish()).shown), Saving(None))
    opened()
    fill(("beef-tenderloin", 39, "6"))
    delivery, pieces = Delivery.objects.first(), list(Piece.objects.all())
    day, now = timezone.localdate(), timezone.now()
    Bag.objects.bulk_create(
        [
            Bag(
                pk=uuid.uuid4(),
                delivery=delivery,
                piece=pieces[i % len(pieces)],
                weight_value=D("9.00"),
                weight_unit="lb",
                price_amount=D("5"),
                freight=D(0),
                discount=D(0),
                packed_on=day - timedelta(days=i % 60),
                came_at=now,
            )
            for i in range(bags)
        ],
        batch_size=1000,
    )
    keep_days(Bag.objects.in_cooler())
    Reading.objects.bulk_create(
        Reading(at=now - timedelta(minutes=i), stamp=int(now.timestamp()) - 60 * i, value=1800)
        for i in range(1, 3000)
    )
    wanted = Product.objects.filter(is_sold=True)[:60]
    for product in wanted:
        want(product, day.weekday(), D(2), D(4))
    for address in ("/", reverse("cooler:cooler"), reverse("cooler:calendar")):
        with django_assert_max_num_queries(MOST):
            answer = client.get(address)
        assert answer.status_code == 200
        assert len(answer.content) < 150_000
    page = client.get("/").content.decode()
    assert page.count('class="want-bar"') == len(wanted) == 60
    assert page.index("is-missing") < page.index("Enough of")
