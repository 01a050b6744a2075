"""The demo shop's cooler: deliveries by ferry, a leaker, a short date, one warm evening."""

import random
import uuid
from datetime import UTC, datetime, timedelta
from decimal import Decimal
from typing import Any

from django.utils import timezone

from cutting.cooler.temperature import Reading as CoreReading
from cutting.cooler.temperature import excursions
from cutting.quantities import Unit, Weight
from devices.probe import SimulatedProbe
from rooms.catalog.models import Piece
from rooms.cooler.actions.bags import leave, set_quality, set_seal, weigh_again
from rooms.cooler.actions.deliveries import Check, Header, add_bags, close_delivery, start_delivery
from rooms.cooler.models import Bag, Delivery, Excursion, ProductCode, Reading
from rooms.cooler.queries.new_bag import NewBag
from rooms.demand.actions.factors import FactorSet, set_factor
from rooms.demand.actions.standing_orders import Standing, set_standing
from rooms.demand.actions.want import want
from rooms.demand.models import Sold
from rooms.demo import shop
from rooms.planner.actions.order import set_terms
from rooms.pricebook.models import Product
from rooms.staff.models import Person

FERRY = (1, 4)
WEEKS = 6
HISTORY = timedelta(days=14)
AGES = {"beef": (4, 24), "pork": (1, 5), "lamb": (2, 8)}


def make_cooler(now: datetime, people: dict[str, Person], rng: random.Random) -> None:
    """Deliveries on the ferry's days of the last weeks, and the temperature since."""
    if Delivery.objects.exists():
        return
    days = [now - timedelta(days=back) for back in range(WEEKS * 7, 0, -1)]
    for number, day in enumerate(day for day in days if day.weekday() in FERRY):
        _delivery(day.replace(hour=13, minute=20, second=0, microsecond=0), number, people, rng)
    _incidents(now, people["ines"])
    make_readings(now)


def _delivery(at: datetime, number: int, people: dict[str, Any], rng: random.Random) -> None:
    supplier = shop.SUPPLIERS[number % len(shop.SUPPLIERS)]
    header = Header(
        random_key(rng), supplier, shop.ESTABLISHMENTS[supplier], f"{40210 + number * 17}"
    )
    delivery = start_delivery(header, people["bram"].pk, at)
    keys = rng.sample(sorted(shop.COOLER_PRICES), 3)
    bags = []
    for key in keys:
        piece = Piece.objects.get(key=key)
        low, high = AGES[piece.species]
        packed = (at - timedelta(days=rng.randint(low, high))).date()
        for _ in range(rng.choice((1, 2, 2, 3))):
            weight = (piece.usual_weight * Decimal(repr(round(rng.gauss(1, 0.06), 3)))).quantize(
                Decimal("0.01")
            )
            bags.append(
                NewBag(
                    weight=weight,
                    unit="lb",
                    packed_on=packed,
                    piece=piece,
                    key=random_key(rng),
                    gtin=shop.COOLER_CODES.get(key, ""),
                    serial=f"{rng.randrange(10**6):06d}",
                    lot=f"L{rng.randrange(1000, 9999)}",
                    price=Decimal(shop.COOLER_PRICES[key]),
                    country="New Zealand" if piece.species == "lamb" else "",
                )
            )
    add_bags(delivery.pk, bags, people["bram"].pk)
    freight = Decimal(len(bags)) * Decimal("3.20")
    close_delivery(
        delivery.pk,
        Check(freight=freight, arrival=rng.randrange(1100, 3400, 100)),
        people["bram"].pk,
    )


def _incidents(now: datetime, cutter: Person) -> None:
    """Old stock was cut; one bag leaks, one is short, one is suspect, one is gouged."""
    bags = list(Bag.objects.in_cooler().select_related("piece", "delivery"))
    for bag in bags:
        old = {"beef": 40, "pork": 13, "lamb": 19}[bag.piece.species]
        if (now.date() - bag.packed_on).days > old:
            leave(
                bag.pk,
                Bag.State.OUT,
                "cut before the cooler was written down",
                cutter.pk,
                min(bag.came_at + timedelta(days=6), now),
            )
    fresh = list(Bag.objects.in_cooler().order_by("-came_at", "id"))
    if len(fresh) > 4:
        set_seal(fresh[2].pk, "leaking", cutter.pk)
        set_seal(fresh[4].pk, "suspect", cutter.pk)
        set_quality(fresh[0].pk, ["gouged"], 4, "", cutter.pk)
        set_quality(fresh[3].pk, [], 6, "grass fed", cutter.pk)
        short = fresh[1]
        own = Weight.of(f"{short.weight_value - Decimal('0.31'):f}", short.weight_unit)
        weigh_again(short.pk, own, cutter.pk)


def make_readings(now: datetime) -> None:
    """A reading a minute, with one warm evening and an hour without the sensor."""
    last = int(now.timestamp()) // 60 * 60
    evening = last - 5 * 86400
    probe = SimulatedProbe(
        doors=[(evening, evening + 1500)], lost=[(last - 2 * 86400, last - 2 * 86400 + 3600)]
    )
    first = last - int(HISTORY.total_seconds())
    rows, core = [], []
    for stamp in range(first, last, 60):
        at, value = datetime.fromtimestamp(stamp, UTC), probe.read(stamp)
        rows.append(Reading(at=at, stamp=stamp, value=value))
        core.append(CoreReading(at, value))
    Reading.objects.bulk_create(rows, batch_size=2000)
    Excursion.objects.bulk_create(
        Excursion(started_at=one.start, last_at=one.last, ended_at=one.end, peak=one.peak)
        for one in excursions(core)
    )


def make_codes() -> None:
    """What the suppliers' case codes stand for."""
    pieces = Piece.objects.in_bulk(list(shop.COOLER_CODES), field_name="key")
    for key, gtin in shop.COOLER_CODES.items():
        ProductCode.objects.get_or_create(gtin=gtin, defaults={"piece": pieces[key]})


def make_wanted() -> None:
    """What the case should hold, more of it before the weekend."""
    products = {
        p.cut.key: p for p in Product.objects.filter(cut__key__in=shop.WANTED).select_related("cut")
    }
    for key, (least, most) in shop.WANTED.items():
        for weekday in range(7):
            more = Decimal("1.5") if weekday in (4, 5) else Decimal(1)
            want(products[key], weekday, Decimal(least) * more, Decimal(most) * more)


def make_demand() -> None:
    """Restaurants, a holiday ahead, and how the dear pieces are bought."""
    today = timezone.localdate()
    for customer, key, spec, count, weight, unit, weekday in shop.RESTAURANTS:
        product = Product.objects.get(cut__key=key)
        portion = Weight(Decimal(weight), Unit(unit))
        set_standing(Standing(customer, product, spec, count, portion, weekday), None)
    name, first, last, percent = shop.HOLIDAY
    days = today + timedelta(days=first), today + timedelta(days=last)
    set_factor(FactorSet("holiday", name, None, *days, Decimal(percent)), None)
    for key, (many, more) in shop.CASES.items():
        set_terms(Piece.objects.get(key=key), many, Decimal(more))


SOLD_WEEKS = 9


def make_sales(now: datetime, rng: random.Random) -> None:
    """What the invented till sold in the last weeks: about the list, more before the weekend."""
    products = Product.objects.filter(cut__key__in=shop.WANTED).select_related("cut")
    today = timezone.localdate(now)
    rows = []
    for product in products:
        least, most = (Decimal(value) for value in shop.WANTED[product.cut.key])
        for back in range(1, SOLD_WEEKS * 7):
            day = today - timedelta(days=back)
            usual = float(least + most) / 2 * (1.5 if day.weekday() in (4, 5) else 1.0)
            weight = Decimal(repr(round(max(rng.gauss(usual * 0.9, usual * 0.2), 0), 2)))
            rows.append(Sold(product=product, day=day, weight=weight, taken_at=now))
    Sold.objects.bulk_create(rows)


def random_key(rng: random.Random) -> uuid.UUID:
    return uuid.UUID(int=rng.getrandbits(128), version=4)
