"""A bag's days are columns: they say what the core says, whatever moved them. So does the order."""

import random
import uuid
from datetime import timedelta
from decimal import Decimal

import pytest
from django.core.management import call_command
from django.utils import timezone

from cutting.cooler import ageing
from cutting.cooler.ageing import Window
from rooms.catalog.actions.edit import Editor, digest, save_piece
from rooms.catalog.models import Piece
from rooms.catalog.queries.rows import document_of
from rooms.cooler.actions.bags import set_seal, set_window
from rooms.cooler.actions.days import keep_days
from rooms.cooler.actions.deliveries import Header, add_bags, name_code, start_delivery
from rooms.cooler.actions.temperature import take_reading
from rooms.cooler.models import Bag, Seal
from rooms.cooler.queries.bags import calendar, in_order
from rooms.cooler.queries.days import DAYS, core_bags
from rooms.cooler.queries.new_bag import NewBag
from rooms.cooler.queries.windows import usual

pytestmark = pytest.mark.django_db
D = Decimal


def days_hold():
    """Every bag's columns against the core, worked out anew."""
    bags = list(Bag.objects.in_cooler().select_related("piece"))
    core = core_bags(bags)
    for bag in bags:
        expected = [getattr(core[bag.pk], name) if bag.piece_id else None for name in DAYS]
        assert [getattr(bag, name) for name in DAYS] == expected, bag
    return {bag.pk: bag for bag in bags}


def test_whatever_moves_a_bags_days_writes_them(fill):
    tenderloin, loin = fill(("beef-tenderloin", 10, "6"), ("pork-loin", 3, "8"))
    before = days_hold()
    piece = tenderloin.piece
    set_window(piece, Window(12, 15, 20, 30))
    assert days_hold()[tenderloin.pk].ends_on == tenderloin.packed_on + timedelta(days=30)
    set_window(piece, usual(piece))
    assert days_hold()[tenderloin.pk].ends_on == before[tenderloin.pk].ends_on
    piece = document_of(only="pork-loin")["pieces"]["pork-loin"]
    save_piece("pork-loin", {**piece, "least_age_days": 9}, Editor(None, digest(piece)))
    assert days_hold()[loin.pk].old_enough_on == loin.packed_on + timedelta(days=9)


@pytest.mark.long
def test_a_warm_spell_takes_days_as_it_lasts_and_a_late_reading_gives_them_back(fill):
    bag, late = fill(("pork-loin", 3, "8"), ("pork-loin", 3, "8"))
    now = timezone.now()
    Bag.objects.filter(pk=bag.pk).update(came_at=now - timedelta(hours=30))
    for minutes in range(20 * 60, 10 * 60 - 1, -4):
        take_reading(now - timedelta(minutes=minutes), 9000)
        if minutes % 60 == 0:
            days_hold()
    found = days_hold()
    assert (found[bag.pk].lost_days, found[late.pk].lost_days) == (2, 0)
    take_reading(now - timedelta(minutes=10 * 60 - 4), 1000)
    days_hold()
    for minutes in range(20 * 60 - 2, 14 * 60, -4):  # in between it was cold, the logger says
        take_reading(now - timedelta(minutes=minutes), 1000)
    assert days_hold()[bag.pk].lost_days == 1


def test_a_shop_of_the_last_state_has_its_bags_days_after_migrating(fill):
    fill(("pork-loin", 3, "8"), ("beef-tenderloin", 20, "6"))
    Bag.objects.update(**dict.fromkeys(DAYS))
    call_command("migrate", verbosity=0)
    assert all(bag.ends_on for bag in days_hold().values())


def test_a_code_that_is_named_gives_its_bags_their_days(shop):
    delivery = start_delivery(Header(uuid.uuid4(), "Ferryman Wholesale"), None)
    gtin = "00012345678905"
    new = NewBag(
        weight=D("9"), unit="lb", gtin=gtin, packed_on=timezone.localdate() - timedelta(days=4)
    )
    (bag,) = add_bags(delivery.pk, [new], None)
    assert days_hold()[bag.pk].ends_on is None
    assert in_order(timezone.localdate()).first().urgency == -1
    name_code(gtin, Piece.objects.get(key="pork-loin"), None)
    assert days_hold()[bag.pk].ends_on is not None


@pytest.mark.long
def test_the_database_orders_bags_as_the_core_does(fill):
    first = fill(("beef-tenderloin", 3, "6"))[0]
    rng, today, now = random.Random(7), timezone.localdate(), timezone.now()
    pieces = list(Piece.objects.all())
    Bag.objects.bulk_create(
        Bag(
            pk=uuid.UUID(int=rng.getrandbits(128)),
            delivery=first.delivery,
            piece=rng.choice(pieces),
            weight_value=D("9"),
            weight_unit="lb",
            freight=D(0),
            discount=D(0),
            packed_on=(packed := today - timedelta(days=rng.randrange(70))),
            use_by=packed + timedelta(days=rng.randrange(60)) if rng.random() < 0.3 else None,
            seal=rng.choices(Seal.values, (8, 1, 1))[0],
            came_at=now - timedelta(hours=rng.randrange(200)),
        )
        for _ in range(400)
    )
    keep_days(Bag.objects.in_cooler())
    for day in (today, today + timedelta(days=11)):
        rows = list(Bag.objects.in_cooler().select_related("piece"))
        core = core_bags(rows)
        found = [ageing.due(core[bag.pk], day) for bag in rows]
        expected = ageing.in_order(
            [(due, core[bag.pk]) for due, bag in zip(found, rows, strict=True)]
        )
        asked = list(in_order(day))
        assert [bag.pk for bag in asked] == [rows[i].pk for i in expected]
        assert [bag.urgency for bag in asked] == [found[i].urgency for i in expected]
        assert day > today or {bag.urgency for bag in asked} == set(ageing.Urgency)
    set_seal(asked[-1].pk, "leaking", None)
    assert in_order(today).get(pk=asked[-1].pk).urgency <= ageing.Urgency.NOW


def test_the_calendar_counts_what_the_core_gives(fill):
    fill(
        *(
            (key, days, "6")
            for key in ("beef-tenderloin", "pork-loin", "lamb-leg")
            for days in range(1, 40, 3)
        )
    )
    today = timezone.localdate()
    rows = Bag.objects.in_cooler().select_related("piece")
    core = core_bags(rows).values()
    for day in calendar(today, [1]):
        assert day.ends.count == sum(max(one.ends_on, today) == day.day for one in core)
        assert day.begins.count == sum(one.best_from == day.day for one in core)
        assert len(day.ends.bags) == min(day.ends.count, 5)
