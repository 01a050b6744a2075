"""What the tests of the rooms share: a small shop, and a test on the block."""

import os
import uuid
from decimal import Decimal

import pytest
from hypothesis import settings

from cutting.quantities import UnitPrice, Weight

os.environ.setdefault("DJANGO_ALLOW_ASYNC_UNSAFE", "true")
settings.register_profile("house", deadline=None)  # a slow machine is no fault of the rule
settings.load_profile("house")


def capture(output, value, unit="lb", **more):
    """A capture as the page sends it."""
    from rooms.bench.actions.take_weight import Capture

    more.setdefault("key", str(uuid.uuid4()))
    return Capture(output=str(output.pk), value=value, unit=unit, **more)


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

    def weigh(piles=("3.45", "0.80", "0.93", "0.68", "0.22", "0.06"), **more):
        rows = opened(**more)
        for output, value in zip(rows.outputs, piles, strict=False):
            if Decimal(value):
                rows = take_weight(rows.test.pk, capture(output, value, portions="8"), None)
        finish(rows.test.pk, str(rows.revision))
        return load(rows.test.pk)

    return weigh
