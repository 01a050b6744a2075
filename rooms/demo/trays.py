"""The demo shop's trays: what empty ones weigh, numbers of products, a few trays of today."""

import random
from datetime import timedelta
from decimal import Decimal
from typing import Any

from cutting.labels.codes import check_digit
from cutting.labels.tray_life import Life
from cutting.quantities import Unit, Weight
from rooms.bench.models import CuttingTest, TestBag
from rooms.cooler.models import Bag, Delivery
from rooms.cooler.queries.days import set_days
from rooms.demo.cooler import random_key
from rooms.grinder.models import Batch
from rooms.pricebook.models import Product, TraySize
from rooms.trays.actions.house import change_label_rules, number_product
from rooms.trays.actions.life import becomes
from rooms.trays.actions.pack import Packing, measure_tare, pack_tray
from rooms.trays.models import PrintJob, TrayTare
from rooms.trays.queries.packing import sources

NUMBERED = ("beef-flat-iron", "beef-ground", "beef-stew", "beef-ribeye-steak", "beef-strip-steak")
PACKED = (("beef-flat-iron", "1.28", 2), ("beef-stew", "1.06", None), ("beef-flat-iron", "1.22", 2))
GROUND = ("1.34", "1.28", "1.31", "1.36", "1.25", "1.30", "1.33")
LIVES = (Life.IN_CASE, Life.IN_CASE, Life.SOLD, Life.IN_CASE, Life.SOLD, Life.IN_CASE)


def make_trays(people: dict[str, Any], rng: random.Random) -> None:
    """Once."""
    if TrayTare.objects.exists():
        return
    ines, bram = people["ines"].pk, people["bram"].pk
    _bags_of_tests(rng)
    for at, size in enumerate(TraySize.objects.filter(is_dropped=False)):
        measure_tare(size.pk, Weight(Decimal("0.03") + Decimal(at) / 100, Unit.LB), ines)
    change_label_rules(
        {
            "place": "Gull Quay",
            "link": "https://shop.example",
            "store_code": "price_13",
            "keeps_ground_days": 2,
            "tells_origin": True,
        },
        bram,
    )
    for at, key in enumerate(NUMBERED, 1):
        product = Product.objects.filter(cut__key=key).first()
        if product is None:
            continue
        item = f"{12300 + at}"
        body = f"2000000{item}"
        values = {"item": item, "gtin": (body + check_digit(body)).zfill(14)}
        number_product(product, values | {"keeps_days": None, "serving": None}, bram)
    size = TraySize.objects.filter(is_dropped=False).first()
    for key, gross, pieces in PACKED:
        product = Product.objects.filter(cut__key=key).first()
        if product is None or size is None:
            continue
        weight = Weight(Decimal(gross), Unit.LB)
        there = (one.text for one in sources(product) if one.left.to(Unit.LB) >= weight.value)
        source = next(there, "")
        why = "" if source else "cut before the log was kept"
        packing = Packing(
            random_key(rng), product.pk, size.pk, source, weight, None, pieces, no_lot_reason=why
        )
        pack_tray(packing, ines)
    _of_batch(size, ines, rng)
    PrintJob.objects.update(state=PrintJob.State.PRINTED)


def _bags_of_tests(rng: random.Random) -> None:
    """The bags that the demo's finished tests were opened from."""
    deliveries = {one.supplier: one for one in Delivery.objects.all()}
    usual = next(iter(deliveries.values()), None)
    for test in CuttingTest.objects.exclude(lot="").filter(bags=None):
        delivery = deliveries.get(test.supplier, usual)
        if delivery is None:
            return
        bag = Bag(
            pk=random_key(rng),
            delivery=delivery,
            piece=test.piece,
            lot=test.lot,
            weight_value=test.weight_value,
            weight_unit=test.weight_unit,
            price_amount=test.price_amount,
            price_per=test.price_per,
            freight=Decimal(0),
            discount=Decimal(0),
            packed_on=test.packed_on or test.started_at.date() - timedelta(days=21),
            state=Bag.State.OPENED,
            came_at=test.started_at - timedelta(days=6),
            left_at=test.started_at,
        )
        set_days([bag])
        bag.save(force_insert=True)
        TestBag.objects.create(test=test, bag=bag)


def _of_batch(size: TraySize | None, by_id: int, rng: random.Random) -> None:
    """Trays of the last batch, in the case, two of them sold; one is packed and not put there yet."""
    batch = Batch.objects.exclude(got=None).order_by("number").last()
    if batch is None or batch.product is None or size is None:
        return
    trays = []
    for gross in GROUND:
        weight = Weight(Decimal(gross), Unit.LB)
        source = f"batch:{batch.pk}"
        packing = Packing(random_key(rng), batch.product.pk, size.pk, source, weight)
        trays.append(pack_tray(packing, by_id))
    for tray, life in zip(trays, LIVES, strict=False):
        becomes(random_key(rng), tray.pk, Life.IN_CASE, by_id)
        if life is not Life.IN_CASE:
            becomes(random_key(rng), tray.pk, life, by_id)
