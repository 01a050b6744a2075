"""What the tests of the rooms share: a small shop, and a test on the block."""

import itertools
import os
import uuid
from decimal import Decimal

import pytest
from hypothesis import settings

from cutting.quantities import UnitPrice, Weight

os.environ.setdefault("DJANGO_ALLOW_ASYNC_UNSAFE", "true")
settings.register_profile("house", deadline=None)  # a slow machine is no fault of the rule
settings.load_profile("house")
SEQUENCE = itertools.count(1)


def capture(output, value, unit="lb", **more):
    """A capture as the page sends it."""
    from rooms.bench.actions.take_weight import Capture

    more.setdefault("key", str(uuid.uuid4()))
    return Capture(output=str(output.pk), value=value, unit=unit, **more)


def reading(weight, unit="lb", **more):
    """A steady reading as the block scale's bridge signs it; `key` signs with another."""
    import time

    from devices.signing import sign

    key = more.pop("key", "test-scale")
    message = {"scale": "block", "run": "test", "sequence": str(next(SEQUENCE)), "unit": unit,
               "at": f"{time.time():.3f}", "weight": weight, "division": "0.01",
               "state": "steady", "tare": "0", **more}  # fmt: skip
    return message | {"signature": sign(key, message)}


def shown(output, weight, unit="lb", proof=None, **more):
    """A capture of what the scale shows, with its signed reading."""
    from rooms.bench.actions.reading import Proof

    message = proof or reading(weight, unit)
    more.setdefault("division", message["division"])
    return capture(output, more.pop("value", weight), unit, proof=Proof(**message), **more)


@pytest.fixture(scope="session")
def django_db_setup(django_db_setup, django_db_blocker):
    """The shipped catalog is loaded once; a test that empties the database loads it again."""
    from rooms.catalog.actions.load_shipped import load_catalog

    with django_db_blocker.unblock():
        load_catalog()


@pytest.fixture
def catalog(db):
    """The shipped catalog."""
    from rooms.catalog.actions.load_shipped import load_catalog
    from rooms.catalog.models import Piece

    if not Piece.objects.exists():
        load_catalog()


@pytest.fixture
def shop(catalog):
    """Catalog, people and priced products of the demo shop, without any test."""
    from django.utils import timezone

    from rooms.demo.generator import make_people, make_products

    people = make_people()
    make_products(timezone.now(), people["bram"])
    return people


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


def at_tablet(username="ines", name="Block 1"):
    """An enrolled tablet with somebody at its block: the cookies its browser sends."""
    from django.contrib.sessions.backends.signed_cookies import SessionStore
    from django.core.signing import get_cookie_signer
    from django.utils import timezone

    from rooms.staff.actions.tablets import enrol
    from rooms.staff.models import Turn

    tablet, secret = enrol(name, person("bram").pk)
    cookies = {"tablet": get_cookie_signer(salt="tablet" * 2).sign(f"{tablet.pk}:{secret}")}
    if username:
        turn = Turn.objects.create(person=person(username), tablet=tablet, since=timezone.now())
        session = SessionStore()
        session["turn"] = str(turn.pk)
        session.save()
        cookies["sessionid"] = session.session_key
    return cookies


@pytest.fixture
def opened(shop):
    """`opened("beef-tenderloin", "6.17", ...)`: the rows of a new open test."""
    from rooms.bench.actions.start import Opening, start_test
    from rooms.bench.rows import load
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
    from rooms.bench.actions.finish import finish
    from rooms.bench.actions.take_weight import take_weight
    from rooms.bench.rows import load

    def weigh(piles=("3.45", "0.80", "0.93", "0.68", "0.22", "0.06"), *, signed=False, **more):
        rows, make = opened(**more), shown if signed else capture
        for output, value in zip(rows.outputs, piles, strict=False):
            if Decimal(value):
                rows = take_weight(rows.test.pk, make(output, value, portions="8"), None)
        finish(rows.test.pk, str(rows.revision))
        return load(rows.test.pk)

    return weigh
