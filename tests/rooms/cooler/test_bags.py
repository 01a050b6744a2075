"""Bags in the cooler: their order, what happens to them, opening them at the bench."""

import uuid
from datetime import UTC, datetime, timedelta
from decimal import Decimal

import pytest
from django.db import connection
from django.test.utils import CaptureQueriesContext
from django.urls import reverse
from django.utils import timezone

from cutting.cooler.ageing import Urgency, Window
from cutting.quantities import Unit, UnitPrice, Weight, storable
from rooms.bench.actions.open_test import Opening, start_test
from rooms.bench.actions.pieces import put_back
from rooms.bench.actions.weighings import take_weight
from rooms.bench.models import CuttingTest, TestBag
from rooms.bench.queries.opening import of_bags
from rooms.bench.queries.rows import load
from rooms.catalog.models import Piece
from rooms.common.errors import BadInput, Refused
from rooms.cooler.actions.bags import leave, set_seal, set_window
from rooms.cooler.models import AgeWindow, Bag, Delivery, Excursion
from rooms.cooler.queries.bags import cooler, in_order
from rooms.cooler.queries.days import core_bags
from rooms.cooler.queries.windows import repacked, usual, windows
from tests.conftest import capture

pytestmark = pytest.mark.django_db
D = Decimal


def test_the_cooler_is_sorted_by_what_is_due(fill):
    old, leaking, best, young = fill(
        ("beef-tenderloin", 39, "6"),
        ("beef-ribeye", 2, "14"),
        ("beef-tenderloin", 20, "6"),
        ("beef-top-round", 3, "20"),
    )
    set_seal(leaking.pk, "leaking", None)
    order = [(bag.pk, bag.urgency) for bag in in_order(timezone.localdate())]
    assert order == [
        (leaking.pk, Urgency.NOW),
        (old.pk, Urgency.SOON),
        (best.pk, Urgency.BEST),
        (young.pk, Urgency.YOUNG),
    ]
    view = cooler(timezone.localdate(), wanted_on=timezone.localdate() + timedelta(days=7))
    assert (view.count, view.due_today, view.weight) == (4, 2, 46)
    assert view.worth == D("46") * D("7.49") + D("2.00")
    assert [one.missing_days for one in view.bags] == [0, 0, 0, 4]  # 14 days at least, 10 by then


def test_the_page_shows_reasons_and_doors(client, fill):
    bag, _ = fill(("beef-tenderloin", 39, "6.17"), ("lamb-leg", 5, "7"))
    page = client.get(reverse("cooler:cooler")).content.decode()
    assert "best window over, 1 day to its end" in page
    assert reverse("bench:open", args=["beef-tenderloin"]) + f"?bag={bag.pk}" in page
    for name in ("calendar", "windows", "receive"):
        assert client.get(reverse(f"cooler:{name}")).status_code == 200
    assert "last day" in client.get(reverse("cooler:calendar")).content.decode().lower()


def test_an_excursion_is_flagged_on_the_bags_that_lived_through_it(fill, client):
    bag, late = fill(("pork-loin", 3, "8"), ("pork-loin", 3, "8"))
    now = timezone.now()
    Bag.objects.filter(pk=bag.pk).update(came_at=now - timedelta(hours=30))
    end = now - timedelta(hours=15)
    Excursion.objects.create(
        started_at=now - timedelta(hours=20), peak=9000, last_at=end, ended_at=end
    )
    core = core_bags(Bag.objects.select_related("piece"))
    assert core[bag.pk].warm == timedelta(hours=5)
    assert core[late.pk].warm == timedelta(0)
    assert core[bag.pk].ends_on == core[late.pk].ends_on - timedelta(days=1)
    page = client.get(reverse("cooler:bag", args=[bag.pk])).content.decode()
    assert "lived through 300 min above the limit, 1 day off its end" in page


def test_a_shops_own_window_holds_and_can_be_given_back(client, fill):
    bag = fill(("beef-tenderloin", 20, "6"))[0]
    address = reverse("cooler:window", args=["beef-tenderloin"])
    wrong = {"least": "10", "best_from": "9", "best_to": "20", "end": "30"}
    answer = client.post(address, wrong)
    assert answer.status_code == 422
    assert "10 or more is right" in answer.content.decode()
    assert client.post(address, wrong | {"best_from": "12"}).status_code == 302
    assert windows([bag.piece])[bag.piece_id] == Window(10, 12, 20, 30)
    set_window(bag.piece, usual(bag.piece))
    assert not AgeWindow.objects.exists()


def test_a_piece_that_needs_fourteen_days_is_never_usual_before_them(shop):
    for piece in Piece.objects.exclude(least_age_days=None):
        assert usual(piece).least >= piece.least_age_days


def test_a_seal_said_twice_is_one_event_and_a_bag_leaves_once_with_a_reason(fill, client, shop):
    bag = fill(("lamb-leg", 5, "7"))[0]
    for _ in range(2):
        client.post(reverse("cooler:seal", args=[bag.pk]), {"seal": "leaking"})
    assert bag.events.filter(kind="seal").count() == 1
    assert client.post(reverse("cooler:seal", args=[bag.pk]), {"seal": "torn"}).status_code == 422
    address = reverse("cooler:leave", args=[bag.pk])
    assert client.post(address, {"state": "back", "reason": " "}).status_code == 422
    assert client.post(address, {"state": "back", "reason": "torn film"}).status_code == 302
    assert client.post(address, {"state": "out", "reason": "again"}).status_code == 409
    assert (
        "sent back to the supplier: torn film"
        in client.get(reverse("cooler:bag", args=[bag.pk])).content.decode()
    )
    with pytest.raises(Refused, match="sent back since"):
        leave(bag.pk, "out", "x", None)


# --- opened at the bench ---


def open_bags(client, bags, **more):
    """Through the page, as from the cooler."""
    address = reverse("bench:open", args=[bags[0].piece.key])
    address += "?" + "&".join(f"bag={bag.pk}" for bag in bags)
    page = client.get(address)
    form = page.context["form"]
    data = {bound.html_name: bound.value() or "" for bound in form if bound.value() != []}
    data["plan"] = bags[0].piece.plans.first().pk
    return client.post(address, data | more), data


def test_opening_bags_fills_in_weight_price_lot_and_age_and_traces_both_ways(client, fill):
    bags = fill(("beef-tenderloin", 20, "6.17"), ("beef-tenderloin", 21, "5.92"))
    answer, data = open_bags(client, bags, weight="99", price="1.00", opened="12.00")
    test = CuttingTest.objects.get()
    assert answer.url == reverse("bench:test", args=[test.pk])
    assert (test.weight_value, test.price_amount) == (D("12.09"), D("7.49"))  # not what was typed
    assert (test.freight, test.supplier, test.lot) == (
        D("2.00"),
        "Skerry Point Packing",
        "L20, L21",
    )
    assert (timezone.localdate() - test.packed_on).days == 21
    assert test.opened_value == D("12.00")
    assert {row.bag_id for row in TestBag.objects.all()} == {bag.pk for bag in bags}
    events = [bag.events.last().words for bag in bags]
    assert all("opened for test 1; first in the order" in words for words in events)
    again = client.post(
        reverse("bench:open", args=["beef-tenderloin"]) + f"?bag={bags[0].pk}", data
    )
    assert again.url == answer.url  # the same request twice leads to the same test
    assert CuttingTest.objects.count() == 1
    of_bag = client.get(reverse("bench:of_bag", args=[bags[0].pk]))
    assert of_bag.url == reverse("bench:test", args=[test.pk])


def test_a_younger_bag_taken_first_is_kept_as_such(client, fill):
    _, younger = fill(("beef-ribeye", 30, "15"), ("beef-ribeye", 10, "15"))
    open_bags(client, [younger])
    assert younger.events.last().words == (
        "opened for test 1; 1 of the same piece stood before it in the order"
    )


def test_bags_that_do_not_go_together_are_refused_plainly(client, fill):
    one, other = fill(("beef-ribeye", 20, "15"), ("lamb-leg", 5, "7"))
    dear = fill(("beef-ribeye", 20, "15"), price="9")[0]
    address = reverse("bench:open_bags")
    for ids, status, says in (
        ([one, other], 409, "different pieces"),
        ([one, dear], 409, "different prices"),
        ([], 422, "1 to 40"),
    ):
        answer = client.get(address, {"bag": [bag.pk for bag in ids]})
        assert answer.status_code == status
        assert says in answer.content.decode()
    assert client.get(address, {"bag": ["x"]}).status_code == 422
    leave(one.pk, "out", "spoilt", None)
    assert client.get(address, {"bag": [one.pk]}).status_code == 409


def test_part_of_a_bag_goes_back_with_a_clock_of_its_own(client, fill):
    bag = fill(("beef-tenderloin", 20, "6.00"))[0]
    Bag.objects.filter(pk=bag.pk).update(discount=D("4.00"))
    open_bags(client, [bag])
    test = CuttingTest.objects.get(number=1)
    key = uuid.uuid4()
    for _ in range(2):
        put_back(test.pk, key, Weight.of("1.50", "lb"), None)
    test.refresh_from_db()
    part = Bag.objects.get(part_of=bag)
    assert (test.weight_value, part.weight_value) == (D("4.50"), D("1.50"))
    assert (test.freight, part.freight) == (D("1.50"), D("0.50"))
    assert (test.discount, part.discount) == (D("3.00"), D("1.00"))
    core = core_bags([part])[part.pk]
    assert core.window == repacked(part.piece)  # a shorter clock than that of a sealed bag
    assert core.ends_on <= part.use_by == core_bags([bag])[bag.pk].ends_on
    sheet = client.get(reverse("bench:sheet", args=[test.pk])).content.decode()
    assert reverse("cooler:bag", args=[bag.pk]) in sheet
    again, _ = open_bags(client, [part])
    assert again.status_code == 302
    assert part.packed_on == timezone.localdate()
    assert (part.price_amount, part.lot) == (D("7.49"), "L20")
    assert test.notes.get().text == "1.50 lb packed again, put back."
    for weight, says in (("9", "at most the 4.50 lb still"), ("4.5", "not all of it")):
        with pytest.raises(BadInput, match=says):
            put_back(test.pk, uuid.uuid4(), Weight.of(weight, "lb"), None)
    answer = client.post(
        reverse("bench:part_back", args=[test.pk]), {"key": uuid.uuid4(), "back": "1", "unit": "lb"}
    )
    assert answer.status_code == 302
    assert Bag.objects.filter(part_of=bag).count() == 2


def test_a_bag_past_its_end_is_decided_and_an_open_delivery_is_closed_before_the_cut(client, fill):
    old = fill(("pork-loin", 20, "8"))[0]
    address = reverse("bench:open", args=["pork-loin"]) + f"?bag={old.pk}"
    page = client.get(address).content.decode()
    assert "6 days past its end: it is decided before it is cut" in page
    assert "never one of yield" in page
    Delivery.objects.update(closed_at=None)
    answer = client.get(address)
    assert answer.status_code == 409
    assert "Delivery 1 is not closed" in answer.content.decode()


def test_a_remainder_never_outlives_its_first_bag(client, fill):
    bag = fill(("lamb-leg", 19, "7.00"))[0]
    open_bags(client, [bag])
    put_back(CuttingTest.objects.get().pk, uuid.uuid4(), Weight.of("2", "lb"), None)
    part = core_bags(Bag.objects.filter(part_of=bag)).popitem()[1]
    assert part.ends_on == bag.packed_on + timedelta(days=21)
    assert part.old_enough_on == timezone.localdate()


def test_nothing_goes_back_from_a_test_without_a_bag(opened):
    with pytest.raises(Refused, match="not opened from a bag"):
        put_back(opened().test.pk, uuid.uuid4(), Weight.of("1", "lb"), None)


# --- what two rooms know of one bag ---


def test_a_test_opened_from_bags_starts_with_what_the_bags_say(fill):
    (bag,) = fill(("beef-tenderloin", 20, "6.17"))
    plan = bag.piece.plans.first()
    right = {
        "weight": Weight.of("6.17", "lb"),
        "price": UnitPrice.of("7.49", "lb"),
        "freight": bag.freight,
    }
    for name, wrong in (
        ("weight", Weight.of("99.00", "lb")),
        ("weight", Weight.of("2.79870", "kg")),
        ("price", UnitPrice.of("1.00", "lb")),
        ("freight", D("9.00")),
        ("discount", D("1.00")),
    ):
        with pytest.raises(Refused, match="is not what the bags say"):
            start_test(Opening(uuid.uuid4(), plan, bags=(bag.pk,), **right | {name: wrong}), None)
    test = start_test(Opening(uuid.uuid4(), plan, bags=(bag.pk,), **right), None)
    assert TestBag.objects.get().test == test


def test_opening_ten_bags_asks_as_often_as_opening_one(fill):
    counts = []
    for many in (1, 10):
        bags = fill(*[("beef-tenderloin", 20, "6.17")] * many)
        facts = of_bags([str(bag.pk) for bag in bags])
        opening = Opening(
            uuid.uuid4(),
            bags[0].piece.plans.first(),
            Weight(facts.weight, Unit.LB),
            facts.paid,
            freight=facts.freight,
            bags=facts.ids,
        )
        with CaptureQueriesContext(connection) as seen:
            start_test(opening, None)
        counts.append(len(seen))
        assert Bag.objects.filter(pk__in=facts.ids, state="opened").count() == many

    assert counts[1] <= counts[0]


def test_a_bag_priced_by_the_kilo_and_weighed_in_pounds_is_opened_at_its_price(client, fill):
    (bag,) = fill(("beef-tenderloin", 20, "6.17"), price="16.51", price_per="kg")
    again, _ = open_bags(client, [bag])
    assert again.status_code == 302
    test = CuttingTest.objects.get()
    assert (test.price_amount, test.price_per, test.weight_unit) == (D("16.51"), "kg", "lb")


@pytest.mark.parametrize(("back", "unit"), [("1.5", "kg"), ("500", "g"), ("1.10", "lb")])
def test_part_goes_back_in_any_unit_and_is_kept_in_the_bags_own(client, fill, back, unit):
    (bag,) = fill(("beef-tenderloin", 20, "6.17"))
    open_bags(client, [bag])
    test = CuttingTest.objects.get()
    put_back(test.pk, uuid.uuid4(), Weight.of(back, unit), None)
    part = Bag.objects.get(part_of=bag)
    own = storable(Weight.of(back, unit), Unit.LB)
    assert (part.weight_value, part.weight_unit) == (own.value, "lb")
    test.refresh_from_db()
    assert test.weight_value + part.weight_value == D("6.17")


def test_no_more_goes_back_than_still_lies_on_the_block(client, fill):
    (bag,) = fill(("beef-tenderloin", 20, "6.17"))
    open_bags(client, [bag])
    rows = load(CuttingTest.objects.get().pk)
    rows = take_weight(rows.test.pk, capture(rows.outputs[0], "5.00"), None)
    with pytest.raises(BadInput, match=r"at most the 1\.17 lb still on the block"):
        put_back(rows.test.pk, uuid.uuid4(), Weight.of("3.00", "lb"), None)
    seen = rows.revision
    put_back(rows.test.pk, uuid.uuid4(), Weight.of("1.17", "lb"), None)
    assert load(rows.test.pk).revision > seen


def test_moments_are_told_in_the_shops_time(fill):
    (bag,) = fill(("beef-tenderloin", 20, "6.17"))
    leave(bag.pk, "out", "smelled", None, datetime(2026, 11, 25, 3, 30, tzinfo=UTC))
    with pytest.raises(Refused, match="24 Nov 22:30"):
        set_seal(bag.pk, "leaking", None)


def test_a_part_of_a_test_of_two_lots_is_of_the_bag_that_is_chosen(client, fill):
    """Its lot, its end and how much of it there is go with it."""
    one, other = fill(("beef-tenderloin", 20, "6.00"), ("beef-tenderloin", 22, "5.00"))
    open_bags(client, [one, other])
    test = CuttingTest.objects.get()
    sent = {"key": uuid.uuid4(), "back": "1.50", "unit": "lb"}
    address = reverse("bench:part_back", args=[test.pk])
    answer = client.post(address, sent)
    assert answer.status_code == 422
    words = answer.content.decode()
    assert "choose the bag that it was cut from" in words
    assert f'value="{one.pk}"' in words
    assert 'value="1.50"' in words
    assert client.post(address, sent | {"bag": uuid.uuid4()}).status_code == 422
    assert client.post(address, sent | {"bag": one.pk}).status_code == 302
    part = Bag.objects.get(part_of__isnull=False)
    assert (part.part_of, part.lot) == (one, one.lot)
    assert (
        client.post(address, sent | {"key": uuid.uuid4(), "back": "5", "bag": one.pk}).status_code
        == 422
    )
