"""The shop's settings: checked, told, dated; two managers at once; what would falsify a record."""

import re
from datetime import UTC, datetime, timedelta
from decimal import Decimal
from zoneinfo import ZoneInfo

import pytest
from django.urls import reverse
from django.utils import timezone

from cutting.quantities import Unit
from rooms.bench.models import CuttingTest
from rooms.catalog.models import Cut
from rooms.common.db.seen import state_of
from rooms.common.errors import Overtaken
from rooms.cooler.actions.temperature import take_reading
from rooms.cooler.models import Delivery, Excursion
from rooms.pricebook.models import NeighbourPrice, Product, TraySize
from rooms.shop.actions.change import Asked, Changer, change
from rooms.shop.forms import SECTIONS, names_of
from rooms.shop.models import Shop
from rooms.shop.queries import progress as first_day
from rooms.shop.queries.changes import changes
from rooms.shop.queries.choices import currencies, is_zone
from rooms.shop.queries.consequences import consequences
from rooms.shop.queries.current import forget, house
from rooms.shop.queries.house import House, Plate, short
from tests.conftest import decide, words_of
from wording.dates import Clock, DayOrder

pytestmark = pytest.mark.django_db
GOOD = {
    "name": {"name": "Far Holm", "unit": "lb", "currency": "USD", "names_first": "us"},
    "place": {
        "time_zone": "America/New_York",
        "day_order": "day",
        "clock": "24",
        "lock_minutes": "30",
    },
    "money": {
        "labour_rate": "31.50",
        "target_margin": "40",
        "floor_margin": "25",
        "school": "flat",
        "price_way": "each",
        "endings": "0.49 0.99 under 20; 0.99",
        "ending_direction": "up",
    },
    "cooler": {"delivery_days": ["0", "3"], "origin_asked": [], "warmest": "4", "coldest": "0.5"},
    "scales": {"label-0": "Block scale", "capacity-0": "15", "unit-0": "kg", "division-0": "0.005"},
    "house": {
        "fat_level": "1/8 in",
        "steak_trim": "each",
        "silver_skin": "grind",
        "leg_cap": "grind",
        "boning": "tunnel",
    },
}


def page(client, key, **more):
    row = Shop.objects.first()
    seen = {"seen": state_of(row) if row else ""}
    return client.post(reverse("shop:section", args=[key]), {**GOOD[key], **seen, **more})


def test_every_page_is_kept_and_read_back_as_it_was_typed(client, catalog):
    for key in SECTIONS:
        assert page(client, key).status_code == 302
    forget()
    now = house()
    assert (now.name, now.labour_rate, now.floor_margin) == (
        "Far Holm",
        Decimal("31.50"),
        Decimal("0.25"),
    )
    assert (now.delivery_days, now.origin_asked, now.warmest, now.coldest) == (
        (0, 3),
        (),
        4000,
        500,
    )
    assert now.scales == (Plate("block", "Block scale", "15", "kg", "0.005"),)
    assert now.house_rules["boning"] == "tunnel"
    kept = Shop.history.count()
    for key in SECTIONS:  # the same again changes nothing
        page(client, key)
        typed = client.get(reverse("shop:section", args=[key])).context["form"]
        assert not typed.is_bound
    assert Shop.history.count() == kept
    assert House.of(Shop.objects.get()) == House.of(Shop(id=1, **now.columns))


@pytest.mark.parametrize(
    ("key", "typed", "says"),
    [
        ("name", {"name": " "}, "required"),
        ("name", {"name": "x" * 61}, "60"),
        ("name", {"currency": "XAU"}, "Select a valid choice"),
        ("name", {"currency": "JPY"}, "Select a valid choice"),
        ("name", {"unit": "oz"}, "Select a valid choice"),
        ("place", {"time_zone": "Moon/Sea"}, "Select a valid choice"),
        ("money", {"labour_rate": "0"}, "more than 0"),
        ("money", {"target_margin": "96"}, "at most 95"),
        ("money", {"floor_margin": "41"}, "The floor is above the target"),
        ("money", {"endings": "0.99 under x"}, "write them like"),
        ("cooler", {"warmest": "11"}, "at most 10"),
        ("cooler", {"coldest": "4"}, "not below the upper limit"),
        ("cooler", {"delivery_days": ["7"]}, "Select a valid choice"),
        ("scales", {"division-0": "0"}, "more than 0"),
        ("scales", {"division-0": ""}, "what stands on the plate is right"),
        ("scales", {"label-0": ""}, "Block scale is usual"),
        ("scales", {"division-0": "0.00001"}, "too fine to be a scale"),
        ("house", {"boning": "both"}, "Select a valid choice"),
    ],
)
def test_what_cannot_be_is_told_beside_it_and_changes_nothing(client, catalog, key, typed, says):
    answer = page(client, key, **typed)
    assert answer.status_code == 422
    assert says in words_of(answer).replace("&#x27;", "'")
    assert not Shop.objects.exists()


@pytest.mark.parametrize(
    ("name", "shown"),
    [
        ("The shop", "The shop"),
        ("Gull Quay Co-operative", "Gull Quay"),
        ("Fleischereigenossenschaft Nord", "Fleischereigenos"),
        ("肉屋", "肉屋"),
    ],
)
def test_the_short_name_follows_the_name(name, shown):
    assert short(name) == shown
    assert House(name=name, own_short_name="Own").short_name == "Own"


def test_two_managers_at_once_are_told_and_nothing_is_lost(client, as_role, shop):
    page(client, "house")
    seen = state_of(Shop.objects.get())
    assert page(client, "money", seen=seen).status_code == 302
    answer = page(client, "money", seen=seen, target_margin="44")
    text = words_of(answer)
    assert answer.status_code == 409
    assert "Bram has changed the settings since this page was shown" in text
    assert "Target margin, % of sales is now <b>40 %</b>" in text
    assert 'value="44"' in text
    assert house().target_margin == Decimal("0.40")
    seen = re.search(r'name="seen" value="([^"]+)"', text)[1]
    assert page(client, "money", seen=seen, target_margin="44").status_code == 302
    forget()
    assert house().target_margin == Decimal("0.44")


def test_who_changed_what_is_kept_and_shown(client, shop):
    page(client, "house")
    answer = words_of(client.get(reverse("shop:history")))
    assert "Bram" in answer
    assert (
        "A lamb shoulder is boned: opened like a book, the gland in sight → <b>by tunnel" in answer
    )
    assert [name for name, _, _ in changes()[0].values] == [
        "fat_level",
        "steak_trim",
        "silver_skin",
        "leg_cap",
        "boning",
    ]


def test_a_currency_that_would_falsify_a_record_is_refused_and_counted(client, weighed):
    weighed()
    answer = page(client, "name", currency="EUR")
    assert answer.status_code == 422
    assert re.search(
        r"Currency: [\d,]+ prices, .*1 cutting test are written in USD", words_of(answer)
    )
    assert house().currency == "USD"


def test_a_currency_is_free_while_nothing_is_recorded(client, catalog):
    assert page(client, "name", currency="EUR").status_code == 302
    forget()
    assert house().currency == "EUR"


def test_another_unit_is_told_agreed_to_and_leaves_records_as_they_are(client, opened):
    rows = opened()
    answer = page(client, "name", unit="kg")
    text = words_of(answer)
    assert answer.status_code == 409
    assert "products, 1 open test stay in the unit they have" in text
    agreed = re.search(r'name="agreed" value="(\w+)"', text)[1]
    assert page(client, "name", unit="kg", agreed="something else").status_code == 409
    assert page(client, "name", unit="kg", agreed=agreed).status_code == 302
    forget()
    assert house().unit is Unit.KG
    test = CuttingTest.objects.get(pk=rows.test.pk)
    assert (test.weight_unit, rows.outputs[0].price_per) == ("lb", "lb")


def test_a_time_zone_that_moves_today_says_what_becomes_of_it(opened, shop):
    """At half past nine in the evening in New York it is the next day in Auckland."""
    rows = opened()
    at = datetime(2026, 11, 27, 2, 30, tzinfo=UTC)
    CuttingTest.objects.filter(pk=rows.test.pk).update(started_at=at)
    (told,) = consequences(house(), House(time_zone="Pacific/Auckland"), at)
    assert told.words.startswith(
        "The clock here says 26 Nov 21:30 now; there it says 27 Nov 15:30."
    )
    assert "Today becomes Friday 27 November 2026: every bag is a day older" in told.words
    assert "1 cutting test will be shown on another day" in told.words
    with pytest.raises(Asked) as asked:
        change({"time_zone": "Pacific/Auckland"}, Changer(None))
    change({"time_zone": "Pacific/Auckland"}, Changer(None, agreed=asked.value.agreed))


def test_every_page_runs_in_the_shops_own_time(client, shop):
    decide(time_zone="Pacific/Auckland", day_order=DayOrder.MONTH, clock=Clock.H12)
    here = timezone.now().astimezone(ZoneInfo("Pacific/Auckland"))
    answer = words_of(client.get("/"))
    assert f"{here:%A}, {here:%B} {here.day}" in answer
    assert re.search(r"as of \d?\d:\d\d [ap]m", answer)


def test_a_limit_above_the_codes_is_told_first(client, catalog):
    answer = page(client, "cooler", warmest="7")
    assert answer.status_code == 409
    assert "7 °C is above 5 °C (41 °F)" in words_of(answer)
    assert page(client, "cooler", warmest="3").status_code == 302


def test_a_late_reading_is_held_to_the_limit_of_its_own_moment(shop):
    """4.5 °C was fine an hour ago; since the limit is 4 °C it is not."""
    now = timezone.now()
    past = now - timezone.timedelta(minutes=30)
    Shop.history.update(history_date=now - timezone.timedelta(days=2))
    decide(warmest=4000)
    Shop.history.filter(warmest=4000).update(history_date=now - timezone.timedelta(minutes=10))
    take_reading(now, 4500)
    assert Excursion.objects.get().started_at == now
    take_reading(past, 4500)
    assert Excursion.objects.get().started_at == now
    late = now - timezone.timedelta(minutes=4)
    take_reading(late, 4500)
    assert Excursion.objects.get().started_at == late


def test_a_delivery_keeps_the_unit_it_was_closed_in(client, fill):
    fill(("beef-tenderloin", 20, "6"))
    delivery = Delivery.objects.get()
    decide(unit=Unit.KG)
    assert Delivery.objects.get().invoice_unit == "lb"
    answer = words_of(client.get(reverse("cooler:delivery", args=[delivery.pk])))
    assert "6.00 lb" in answer


def test_the_house_decides_what_stands_first_in_a_guide(client, catalog):
    def first_plan():
        answer = words_of(client.get(reverse("catalog:guide", args=["lamb-shoulder"])))
        return answer.index("Opened, boned") < answer.index("Tunnel boned")

    assert first_plan()
    decide(boning="tunnel")
    assert not first_plan()


def test_the_pages_and_the_choices_agree():
    assert tuple(SECTIONS) == first_day.SECTIONS
    held = [name for kind in SECTIONS.values() for name in names_of(kind)]
    assert sorted([*held, "is_set_up"]) == sorted(House().columns)
    assert [code for code, _ in currencies()][:2] == ["USD", "CAD"]
    assert {"JPY", "XAU", "KWD"}.isdisjoint(code for code, _ in currencies())
    assert is_zone("America/Argentina/Ushuaia")
    assert not is_zone("Moon/Sea")


def test_a_stale_page_that_says_the_same_is_no_conflict(shop):
    decide(boning="open")
    seen = state_of(Shop.objects.get())
    decide(boning="tunnel")
    change({"boning": "tunnel"}, Changer(None, seen))
    with pytest.raises(Overtaken):
        change({"boning": "open"}, Changer(None, seen))


def test_what_was_agreed_to_holds_while_the_clock_and_the_counts_go_on(opened, monkeypatch):
    opened()
    moment = datetime(2026, 11, 27, 2, 30, tzinfo=UTC)
    monkeypatch.setattr("rooms.shop.actions.change.timezone.now", lambda: moment)
    with pytest.raises(Asked) as asked:
        change({"time_zone": "Pacific/Auckland"}, Changer(None))
    opened()
    monkeypatch.setattr(
        "rooms.shop.actions.change.timezone.now", lambda: moment + timedelta(minutes=7)
    )
    with pytest.raises(Asked):  # agreed to another zone
        change({"time_zone": "Asia/Tokyo"}, Changer(None, agreed=asked.value.agreed))
    change({"time_zone": "Pacific/Auckland"}, Changer(None, agreed=asked.value.agreed))
    assert house().time_zone == "Pacific/Auckland"


@pytest.mark.parametrize("key", ["name", "money", "scales"])
def test_two_managers_on_the_first_day_are_told_and_one_press_keeps_both(client, catalog, key):
    """Neither page has seen a row of settings."""
    assert not Shop.objects.exists()
    assert page(client, "house").status_code == 302
    late = page(client, key, seen="")
    assert late.status_code == 409
    assert "since this page was shown" in words_of(late)
    seen = re.search(r'name="seen" value="([^"]+)"', words_of(late))[1]
    assert page(client, key, seen=seen).status_code == 302
    forget()
    assert house().boning == "tunnel"


@pytest.mark.parametrize("what", ["value", "tray", "neighbor"])
def test_money_that_is_no_price_keeps_the_currency_too(client, catalog, what):
    """A by-product's value, a tray's cost, what the neighbor asks: amounts without a currency of their own."""
    product = Product.objects.create(cut=Cut.objects.first(), per="lb")
    if what == "value":
        Product.objects.filter(pk=product.pk).update(transfer=Decimal("1.10"))
    elif what == "tray":
        TraySize.objects.create(code="2", tray_cost=Decimal("0.04"))
    else:
        NeighbourPrice.objects.create(
            product=product,
            place="Next door",
            amount=Decimal("9.99"),
            per="lb",
            seen_on=timezone.localdate(),
        )
    answer = page(client, "name", currency="EUR")
    assert answer.status_code == 422
    assert "are written in USD" in words_of(answer)
