"""What the tests of the rooms share: a small shop, and a test on the block."""

import gc
import itertools
import os
import uuid
from decimal import Decimal
from pathlib import Path

import pytest
from hypothesis import settings

from cutting.quantities import UnitPrice, Weight
from tests.database import put_back

os.environ.setdefault("DJANGO_ALLOW_ASYNC_UNSAFE", "true")
gc.set_threshold(
    100_000, 50, 100
)  # a tenth less time: the tests make little that goes round in circles
# A slow machine is no fault of the rule. The same commit gives the same answer; new examples are
# looked for with `make search`.
settings.register_profile("house", deadline=None, derandomize=True)
settings.register_profile("search", deadline=None)
settings.load_profile("house")
SEQUENCE = itertools.count(1)


def words_of(answer):
    """A page's text on one line: a template breaks its lines where nobody sees it."""
    return " ".join(answer.content.decode().split())


def capture(output, value, unit="lb", **more):
    """A capture as the page sends it."""
    from rooms.bench.actions.weighings import Capture

    more.setdefault("key", str(uuid.uuid4()))
    return Capture(output=str(output.pk), value=value, unit=unit, **more)


def finish(test_id, seen, at=None):
    """Finish a test, agreeing to whatever is left open, as a page that told it."""
    from rooms.bench.actions.finishing import finish as act
    from rooms.bench.queries.finishing import everything_open
    from rooms.bench.queries.rows import load

    rows = load(test_id)
    return act(test_id, seen, at, agreed=everything_open(rows) if rows else None)


def reading(weight, unit="lb", **more):
    """A steady reading as the block scale's bridge signs it; `key` signs with another."""
    import time

    from devices.signing import sign

    key = more.pop("key", "test-scale")
    message = {
        "scale": "block",
        "run": "test",
        "sequence": str(next(SEQUENCE)),
        "unit": unit,
        "at": f"{time.time():.3f}",
        "weight": weight,
        "division": "0.01",
        "state": "steady",
        "tare": "0",
        **more,
    }
    return message | {"signature": sign(key, message)}


def shown(output, weight, unit="lb", proof=None, **more):
    """A capture of what the scale shows, with its signed reading."""
    from rooms.bench.queries.reading import Proof

    message = proof or reading(weight, unit)
    more.setdefault("division", message["division"])
    return capture(output, more.pop("value", weight), unit, proof=Proof(**message), **more)


def address(name, rows, room="bench"):
    """The address of a test's page."""
    from django.urls import reverse

    return reverse(f"{room}:{name}", args=[rows.test.pk])


@pytest.fixture(scope="session")
def django_db_setup(django_test_environment, django_db_blocker, django_db_modify_db_settings):
    """A copy of the migrated database with the catalog; a journey gets it back after it."""
    from django.conf import settings
    from django.db import connection
    from django.test import TransactionTestCase

    name = str(settings.DATABASES["default"]["TEST"]["NAME"])
    for end in ("", "-wal", "-shm"):
        Path(f"{name}{end}").unlink(missing_ok=True)
    with django_db_blocker.unblock():
        connection.close()
        settings.DATABASES["default"]["NAME"] = connection.settings_dict["NAME"] = name
        put_back(name)
        _make_shop()
    TransactionTestCase._fixture_teardown = lambda self: put_back(name)
    yield
    with django_db_blocker.unblock():
        connection.close()


@pytest.fixture(autouse=True)
def _as_shipped():
    """What an earlier test has read of its shop's settings is forgotten, and its time zone."""
    from django.utils import timezone

    from rooms.shop.queries.current import forget

    forget()
    timezone.deactivate()


@pytest.fixture
def catalog(db):
    """The shipped catalog, which every database of the tests has."""


@pytest.fixture
def shop(catalog):
    """Catalog, people and priced products of the demo shop, without any test."""
    from rooms.shop.queries.current import forget
    from rooms.staff.models import Person

    _put(SHOP_ROWS)
    forget()
    return {one.username: one for one in Person.objects.all()}


def decide(**values):
    """The shop decides some of its settings, whatever was before; told and agreed."""
    from rooms.shop.actions.change import Asked, Changer, change

    try:
        return change(values, Changer(None))
    except Asked as asked:
        return change(values, Changer(None, agreed=asked.agreed))


SHOP_ROWS: list[tuple[str, int, list[tuple]]] = []
"""What makes the shop, by table: made once by the application, then put in as it is."""


def _make_shop():
    """Into `SHOP_ROWS`; the database stays empty."""
    from django.db import transaction
    from django.utils import timezone

    from rooms.demo.generator import make_people, make_products, make_settings
    from rooms.shop.queries.current import forget

    before = _counts()
    with transaction.atomic():
        manager = make_people()["bram"]
        make_settings(manager)
        make_products(timezone.now(), manager)
        SHOP_ROWS.extend(_rows_beyond(before))
        transaction.set_rollback(True)
    forget()


def _counts():
    from django.db import connection

    with connection.cursor() as cursor:
        tables = connection.introspection.table_names(cursor)
        return {table: _all(cursor, table, "count(*)")[0][0] for table in tables}


def _all(cursor, table, what="*"):
    return cursor.execute(f"SELECT {what} FROM {table}").fetchall()


def _rows_beyond(before):
    from django.db import connection

    with connection.cursor() as cursor:
        grown = [table for table, count in _counts().items() if count > before[table]]
        found = [(table, _all(cursor, table)) for table in grown]
    return [(table, len(rows[0]), rows) for table, rows in found]


def _put(tables):
    from django.db import connection, transaction

    with transaction.atomic(), connection.cursor() as cursor:
        for table, width, rows in tables:
            marks = ", ".join(["%s"] * width)
            cursor.executemany(f"INSERT OR IGNORE INTO {table} VALUES ({marks})", rows)


def person(username):
    """One of the demo's people, whether the shop is there or not."""
    from rooms.demo.generator import make_people

    return make_people()[username]


@pytest.fixture
def as_role(db):
    """`as_role("ines")`: a client logged in to the office as one of the demo's people."""
    from django.test import Client

    def log_in(username="bram", **more):
        client = Client(**more)
        client.force_login(person(username), "django.contrib.auth.backends.ModelBackend")
        return client

    return log_in


@pytest.fixture
def client(as_role):
    """The manager, logged in."""
    return as_role()


def at_tablet(username="ines", name="Block 1", *, is_confirmed=False):
    """An enrolled tablet with somebody at its block: the cookies its browser sends. `is_confirmed`: they gave
    their password a moment ago."""
    from django.contrib.sessions.backends.signed_cookies import SessionStore
    from django.core.signing import get_cookie_signer
    from django.utils import timezone

    from rooms.staff.actions.tablets import enrol
    from rooms.staff.models import Turn
    from rooms.staff.sessions import CONFIRMED

    tablet, secret = enrol(name, person("bram").pk)
    cookies = {"tablet": get_cookie_signer(salt="tablet" * 2).sign(f"{tablet.pk}:{secret}")}
    if username:
        turn = Turn.objects.create(person=person(username), tablet=tablet, since=timezone.now())
        session = SessionStore()
        session["turn"] = str(turn.pk)
        if is_confirmed:
            session[CONFIRMED] = [session["turn"], int(timezone.now().timestamp())]
        session.save()
        cookies["sessionid"] = session.session_key
    return cookies


@pytest.fixture
def opened(shop):
    """`opened("beef-tenderloin", "6.17", ...)`: the rows of a new open test."""
    from rooms.bench.actions.open_test import Opening, start_test
    from rooms.bench.queries.rows import load
    from rooms.catalog.models import Piece

    def start(piece="beef-tenderloin", paid="6.17", at="7.49", **more):
        plan = Piece.objects.get(key=piece).plans.first()
        more.setdefault("key", uuid.uuid4())
        opening = Opening(
            plan=plan, weight=Weight.of(paid, "lb"), price=UnitPrice.of(at, "lb"), **more
        )
        return load(start_test(opening, shop["ines"].pk).pk)

    return start


@pytest.fixture
def weighed(opened):
    """A tenderloin of 6.17 lb, weighed out and finished, in balance."""
    from rooms.bench.actions.weighings import take_weight
    from rooms.bench.queries.rows import load

    def weigh(piles=("3.45", "0.80", "0.93", "0.68", "0.22", "0.06"), *, signed=False, **more):
        rows, make = opened(**more), shown if signed else capture
        for output, value in zip(rows.outputs, piles, strict=False):
            if Decimal(value):
                rows = take_weight(rows.test.pk, make(output, value, portions="8"), None)
        finish(rows.test.pk, str(rows.revision))
        return load(rows.test.pk)

    return weigh


@pytest.fixture
def fill(shop):
    """`fill(("beef-tenderloin", 20, "6.17"), …)`: bags of a closed delivery, days old."""
    from datetime import timedelta

    from django.utils import timezone

    from rooms.catalog.models import Piece
    from rooms.cooler.actions.deliveries import (
        Check,
        Header,
        add_bags,
        close_delivery,
        start_delivery,
    )
    from rooms.cooler.models import Bag
    from rooms.cooler.queries.new_bag import NewBag

    def make(*bags, price="7.49", **more):
        today = timezone.localdate()
        delivery = start_delivery(Header(uuid.uuid4(), "Skerry Point Packing"), None)
        pieces = Piece.objects.in_bulk([key for key, _, _ in bags], field_name="key")
        new = [
            NewBag(
                weight=Decimal(weight),
                unit="lb",
                packed_on=today - timedelta(days=age),
                piece=pieces[key],
                price=Decimal(price),
                lot=f"L{age}",
                country="New Zealand",
                **more,
            )
            for key, age, weight in bags
        ]
        found = add_bags(delivery.pk, new, None)
        close_delivery(delivery.pk, Check(freight=Decimal("2.00"), arrival=2000), None)
        return [Bag.objects.select_related("piece").get(pk=bag.pk) for bag in found]

    return make
