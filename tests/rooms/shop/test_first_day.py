"""The first day: each step led to until it is done or put aside, on any tablet."""

import pytest
from django.urls import reverse

from rooms.catalog.models import Piece
from rooms.pricebook.models import Product
from rooms.shop.models import FirstDayMark
from rooms.shop.queries.current import house
from rooms.shop.queries.first_day import first_day, next_section
from rooms.shop.queries.progress import LEADING, SECTIONS, STEPS
from tests.conftest import at_tablet, words_of
from tests.rooms.shop.test_settings import page

pytestmark = pytest.mark.django_db


def states():
    return [one.state for one in first_day().steps]


def aside(client, key, kind="aside"):
    return client.post(reverse("shop:step", args=[key]), {"kind": kind})


def test_every_step_has_a_door_and_an_end():
    assert set(LEADING) == set(STEPS)
    for step in LEADING.values():
        assert reverse(step.door)


def test_it_leads_from_step_to_step_and_ends_when_somebody_says_so(client, catalog, as_role):
    assert states() == ["now", *["later"] * 5]
    for number, key in enumerate(SECTIONS):
        assert next_section() == key
        answer = page(client, key, walk="1")
        after = SECTIONS[number + 1] if number < 5 else None
        assert answer.url == (f"/shop/{after}/?walk=1" if after else "/")
    client.post(reverse("catalog:bought"), {"piece": ["beef-tenderloin", "pork-loin"]})
    assert states()[:3] == ["done", "done", "now"]
    for key in STEPS[2:]:
        aside(client, key)
    assert states() == ["done", "done", *["aside"] * 4]
    assert "Start the day" in words_of(client.get("/"))
    aside(client, "scale", "again")
    assert states()[4] == "now"
    assert "Start the day" not in words_of(client.get("/"))
    aside(client, "scale")
    client.post(reverse("shop:over"))
    assert (house().is_set_up, first_day()) == (True, None)
    assert "The first day" not in words_of(client.get("/"))


def test_the_same_mark_twice_is_one_and_a_step_nobody_knows_is_refused(client, catalog):
    aside(client, "scale")
    aside(client, "scale")
    assert FirstDayMark.objects.count() == 1
    assert aside(client, "moon").status_code == 422


def test_who_is_no_manager_is_told_that_one_does_it(as_role, catalog):
    answer = words_of(as_role("ines").get("/"))
    assert "A manager does that" in answer
    assert "Not now" not in answer


def test_a_tablet_and_a_pin_end_the_step_of_the_people(catalog):
    at_tablet("ines")
    assert first_day().steps[3].state == "done"


def test_two_tablets_tick_pieces_and_neither_undoes_the_other(client, catalog):
    client.post(reverse("catalog:bought"), {"piece": ["beef-rib", "pork-loin"]})
    first = {"piece": ["beef-rib", "pork-loin", "lamb-leg"], "shown": ["beef-rib", "pork-loin"]}
    second = {"piece": ["beef-rib"], "shown": ["beef-rib", "pork-loin"]}  # a page of the same time
    client.post(reverse("catalog:bought"), first)
    client.post(reverse("catalog:bought"), second)
    bought = Piece.objects.filter(is_bought=True).values_list("key", flat=True)
    assert sorted(bought) == ["beef-rib", "lamb-leg"]
    assert Piece.history.filter(history_change_reason="bought or not").count() == 4


def test_empty_rooms_lead_on(client, catalog):
    answer = words_of(client.get(reverse("pricebook:products")))
    assert "Nothing is sold yet" in answer
    assert reverse("pricebook:from_catalog") in answer
    assert not Product.objects.exists()
