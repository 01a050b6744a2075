"""What goes on after a test: another time zone, a correction, another shop, the same again."""

import json
import uuid
from datetime import timedelta
from decimal import Decimal
from zoneinfo import ZoneInfo

import pytest
from django.urls import reverse
from django.utils import timezone

from cutting.quantities import UnitPrice, Weight
from rooms.bench.actions.correct import Correcting, correct
from rooms.bench.actions.open_test import LAST, Opening, start_test
from rooms.bench.actions.weighings import take_weight
from rooms.bench.models import CuttingTest
from rooms.bench.queries.rows import load
from rooms.catalog.models import Piece
from rooms.cooler.models import Bag
from rooms.cooler.queries.days import DAYS, core_bags
from rooms.shop.actions.change import Asked, Changer, change
from tests.conftest import capture, finish, person, words_of

pytestmark = pytest.mark.django_db


def move_to(zone):
    """Read what it does, and agree."""
    try:
        change({"time_zone": zone}, Changer(None))
    except Asked as asked:
        change({"time_zone": zone}, Changer(None, agreed=asked.agreed))


def document_of(client, test):
    return client.get(reverse("bench:document", args=[test.pk])).content.decode()


def bring(client, text):
    return client.post(reverse("bench:files"), {"text": text})


@pytest.mark.parametrize("zone", ["Asia/Tokyo", "Pacific/Honolulu", "Pacific/Auckland"])
def test_a_file_says_the_same_after_the_shop_moved_its_time_zone(weighed, client, zone):
    rows = weighed()
    text = document_of(client, rows.test)
    move_to(zone)
    answer = bring(client, text)
    assert answer.status_code < 400, words_of(answer)
    assert CuttingTest.objects.count() == 1


@pytest.mark.parametrize("zone", ["Asia/Tokyo", "Pacific/Honolulu"])
def test_days_that_are_kept_follow_the_time_zone(fill, shop, zone):
    """A thawed bag has the days of one packed on the day it came, which is another day there."""
    bags = fill(*[("beef-tenderloin", 1, "6.17")] * 3, was_frozen=True)
    for number, bag in enumerate(bags):
        came = timezone.now().replace(hour=3 + 8 * number, minute=0)
        Bag.objects.filter(pk=bag.pk).update(came_at=came - timedelta(days=1))
    move_to(zone)
    with timezone.override(ZoneInfo(zone)):
        kept = list(Bag.objects.select_related("piece").filter(pk__in=[bag.pk for bag in bags]))
        core = core_bags(kept)
        for bag in kept:
            assert {name: getattr(bag, name) for name in DAYS} == {
                name: getattr(core[bag.pk], name) for name in DAYS
            }


def corrected(rows):
    first = rows.standing[0]
    asked = Correcting(
        str(uuid.uuid4()), "scale was misread", {first.pk: "3.44"}, {}, {}, str(rows.revision)
    )
    correct(rows.test.pk, asked, person("bram").pk)


def test_a_corrected_sheet_says_so_in_its_file_and_to_another_shop(weighed, client):
    rows = weighed()
    old = document_of(client, rows.test)
    corrected(rows)
    new = json.loads(document_of(client, rows.test))
    (said,) = new["record"]["corrections"]
    assert (said["reason"], said["by"]) == ("scale was misread", "Bram")
    answer = bring(client, old)
    assert answer.status_code == 422
    assert "the sheet was corrected since the file was written" in words_of(answer)
    other = {**new, "id": str(uuid.uuid4())}
    other["record"].pop("number")
    for output in other["outputs"]:
        for weighing in output["weighings"]:
            weighing.pop("key")
    assert bring(client, json.dumps(other)).status_code < 400
    taken = CuttingTest.objects.get(pk=other["id"])
    assert "scale was misread" in " ".join(note.text for note in taken.notes.all())
    other["id"], other["record"]["corrections"] = str(uuid.uuid4()), [{"reason": 3}]
    answer = bring(client, json.dumps(other))
    assert answer.status_code == 422
    assert "no list of corrections" in words_of(answer)


def test_as_last_time_takes_no_shares_of_two_plans_into_a_test_of_one(shop):
    piece = Piece.objects.get(key="beef-tenderloin")
    one, two = list(piece.plans.all())[:2]
    what = {"weight": Weight.of("6.17", "lb"), "price": UnitPrice.of("7.49", "lb")}
    mixed = start_test(
        Opening(uuid.uuid4(), one, **what, rest_by=two, split=Decimal("0.5")), shop["ines"].pk
    )
    rows = load(mixed.pk)
    for output in rows.outputs[:4]:
        rows = take_weight(mixed.pk, capture(output, "1.50"), None)
    finish(mixed.pk, str(rows.revision))
    new = load(start_test(Opening(uuid.uuid4(), one, **what, start_from=LAST), shop["ines"].pk).pk)
    assert all(one.share_one is None and one.share_rest is None for one in new.outputs)
