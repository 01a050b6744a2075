"""Six weeks of the invented shop, dated back from today. Runs the same actions as the bench."""

import random
from dataclasses import dataclass
from datetime import datetime, timedelta
from decimal import Decimal

from django.contrib.auth.hashers import make_password
from django.utils import timezone
from simple_history.utils import bulk_create_with_history

from cutting.quantities import UnitPrice, Weight
from rooms.bench.actions.finishing import approve, finish
from rooms.bench.actions.open_test import Opening, start_test
from rooms.bench.actions.record import add_note, check_step
from rooms.bench.actions.weighings import Capture, take_weight
from rooms.bench.models import CuttingTest
from rooms.bench.queries.finishing import everything_open
from rooms.bench.queries.rows import load_known
from rooms.bench.queries.steps import checks_of
from rooms.catalog.models import Cut, Piece
from rooms.demo import shop
from rooms.demo.block import make_block, make_marks, signed
from rooms.demo.cooler import (
    make_codes,
    make_cooler,
    make_demand,
    make_sales,
    make_wanted,
    random_key,
)
from rooms.demo.cutting_room import cut
from rooms.demo.grinder import make_grinder
from rooms.demo.pricing import make_book, make_counter
from rooms.demo.trays import make_trays
from rooms.pricebook.actions.prices import NewPrice, Origin, set_prices
from rooms.pricebook.models import Product
from rooms.pricing.actions.save import Saving, save_prices
from rooms.pricing.queries.building import price_view
from rooms.pricing.queries.wishes import Wish
from rooms.shop.actions.change import Changer, change
from rooms.shop.queries.current import house
from rooms.shop.queries.house import House
from rooms.staff.models import Person

SEED = 20_26
FINISHED = 20
PIECES = tuple(shop.INVOICE)


@dataclass(frozen=True)
class Script:
    """How one demo test goes."""

    piece: str
    days_ago: int
    cutter: str
    supplier: str
    rough: float = 1.0
    part: float = 1.0
    captured_twice: bool = False
    is_approved: bool = True
    sets_prices: bool = False
    is_timed: bool = False
    note: str = ""


def make_shop(now: datetime) -> int:
    """People, products, prices and tests. Returns how many tests; 0 when they were there."""
    people = make_people()
    make_settings(people["bram"])
    if CuttingTest.objects.exists():
        return 0
    make_products(now - timedelta(days=70), people["bram"])
    own = random.Random(SEED + 1)  # noqa: S311
    make_counter(timezone.localtime(now).date(), people["bram"], own)
    rng = random.Random(SEED)  # noqa: S311 (an invented shop, not a secret)
    scripts = _scripts(rng)
    for script in scripts:
        _run(script, now, rng, people)
    make_book(now, people["bram"], own)
    make_codes()
    make_cooler(now, people, rng)
    make_wanted()
    make_demand()
    make_sales(now, random.Random(SEED + 2))  # noqa: S311
    make_block(now, people, rng)
    make_grinder(now, people, random.Random(SEED + 3))  # noqa: S311
    make_trays(people, random.Random(SEED + 4))  # noqa: S311
    return len(scripts)


def make_people() -> dict[str, Person]:
    people = {}
    for username, name, role, pin in shop.PEOPLE:
        person, is_new = Person.objects.get_or_create(
            username=username, defaults={"first_name": name, "role": role}
        )
        if is_new or not person.pin:
            person.pin = make_password(pin)
            person.is_under_18 = username == shop.UNDER_18
            person.password = make_password(shop.PASSWORD if role == "manager" else None)
            person.save()
        people[username] = person
    return people


def make_settings(manager: Person) -> None:
    """The shop's name; what somebody has changed since stays."""
    if house().name == House.name:
        change({"name": shop.NAME, "is_set_up": True}, Changer(manager.pk))


def make_products(at: datetime, manager: Person) -> None:
    """The price list of the first day. Plain rows: how they are priced is `make_counter`'s."""
    cuts = Cut.objects.in_bulk(field_name="key")
    products = bulk_create_with_history(
        [
            Product(
                cut=cuts[line.cut],
                name=line.name or cuts[line.cut].name,
                transfer=_maybe(line.transfer),
                ready_cut=_maybe(line.ready_cut),
                target_margin=_maybe(line.target),
                floor_margin=_maybe(line.floor),
                tray_weight=_maybe(line.tray),
                is_sold=line.retail is not None,
            )
            for line in shop.PRODUCTS
        ],
        Product,
        default_user=manager,
    )
    prices = [
        NewPrice(product, Decimal(line.retail))
        for product, line in zip(products, shop.PRODUCTS, strict=True)
        if line.retail is not None
    ]
    set_prices(prices, Origin(manager.pk, why="first price list"), at)


def _maybe(text: str | None) -> Decimal | None:
    return None if text is None else Decimal(text)


def _scripts(rng: random.Random) -> list[Script]:
    """Twenty finished tests, oldest first, and two that are still on the block."""
    scripts = []
    for i in range(FINISHED):
        days = 43 - 2 * i - (i % 3 == 0)
        bad_week = 20 <= days <= 27
        supplier = shop.BAD_SUPPLIER if bad_week else rng.choice(shop.SUPPLIERS)
        scripts.append(
            Script(
                piece=PIECES[i % len(PIECES)],
                days_ago=max(days, 1),
                cutter="tove" if i % 5 == 4 else "ines",
                supplier=supplier,
                rough=1.35 if bad_week else 1.0,
                captured_twice=i == 13,
                is_approved=i != FINISHED - 1,
                sets_prices=i in (6, 8, 9, 11),
                is_timed=i % 3 != 1,
                note="Heavy purge, film loose at one end." if bad_week and i % 2 else "",
            )
        )
    scripts.append(
        Script("beef-shoulder-clod", 0, "ines", shop.SUPPLIERS[0], part=0.55, is_timed=True)
    )
    scripts.append(Script("beef-tenderloin", 0, "tove", shop.SUPPLIERS[1], part=0.4))
    return scripts


def _run(script: Script, now: datetime, rng: random.Random, people: dict[str, Person]) -> None:
    piece = Piece.objects.get(key=script.piece)
    plan = piece.plans.first()
    by = people[script.cutter]
    started = _working_hour(now, script.days_ago, rng)
    weight = (piece.usual_weight * Decimal(repr(round(rng.gauss(1, 0.06), 3)))).quantize(
        Decimal("0.01")
    )
    price = Decimal(shop.INVOICE[script.piece]) * Decimal(repr(round(rng.gauss(1, 0.02), 3)))
    test = start_test(
        Opening(
            key=random_key(rng),
            plan=plan,
            weight=Weight.of(str(weight), "lb"),
            price=UnitPrice.of(str(price.quantize(Decimal("0.01"))), "lb"),
            supplier=script.supplier,
            lot=f"L{rng.randrange(1000, 9999)}",
            packed_on=(started - timedelta(days=rng.randrange(16, 26))).date(),
        ),
        by.pk,
        started,
    )
    outputs = load_known(test.pk).outputs
    readings = cut(outputs, weight, rng, script.rough)
    readings = readings[: max(int(len(readings) * script.part), 1)]
    if script.captured_twice:
        readings.append(readings[-2])
    at = started + timedelta(minutes=6)
    for reading in readings:
        at += timedelta(seconds=rng.randrange(14, 70))
        capture = Capture(
            key=str(random_key(rng)),
            output=str(outputs[reading.output].pk),
            value=str(reading.value),
            unit=reading.unit,
            division=str(reading.division),
            proof=signed(
                str(reading.value),
                reading.unit,
                rng.randrange(2**40),
                min(at, now),
                str(reading.division),
            ),
        )
        take_weight(test.pk, capture, by.pk, min(at, now))
    if script.is_timed:
        make_marks(test, started, at, by, rng)
    if script.part == 1.0 and not script.captured_twice:
        for tick in checks_of(load_known(test.pk).test):
            check_step(test.pk, tick.key, by.pk, is_done=True, at=min(at, now))
    if script.note:
        add_note(test, str(random_key(rng)), script.note, by.pk)
    if script.part == 1.0:
        _close(test, script, at + timedelta(minutes=2), people["bram"])


def _close(test: CuttingTest, script: Script, at: datetime, manager: Person) -> None:
    rows = load_known(test.pk)
    finish(test.pk, str(rows.revision), at, agreed=everything_open(rows))
    if script.is_approved:
        reason = (
            "One tub was captured twice; seen on the tub sheet." if script.captured_twice else ""
        )
        approve(test.pk, reason, manager.pk, at + timedelta(minutes=20))
    if script.sets_prices:
        rows = load_known(test.pk)
        wish = Wish(shown=price_view(rows, Wish()).shown)
        save_prices(rows, wish, Saving(manager.pk), at + timedelta(minutes=30))


def _working_hour(now: datetime, days_ago: int, rng: random.Random) -> datetime:
    if days_ago == 0:
        return now - timedelta(minutes=rng.randrange(20, 45))
    day = now - timedelta(days=days_ago)
    return day.replace(
        hour=rng.randrange(11, 15), minute=rng.randrange(60), second=0, microsecond=0
    )
