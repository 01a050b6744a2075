"""The demo shop's trays: what empty ones weigh, numbers of products, a few trays of today."""

import random
from decimal import Decimal
from typing import Any

from cutting.labels.codes import check_digit
from cutting.quantities import Unit, Weight
from rooms.demo.cooler import random_key
from rooms.pricebook.models import Product, TraySize
from rooms.trays.actions.house import change_label_rules, number_product
from rooms.trays.actions.pack import Packing, measure_tare, pack_tray
from rooms.trays.models import PrintJob, TrayTare

NUMBERED = ("beef-flat-iron", "beef-ground", "beef-stew", "beef-ribeye-steak", "beef-strip-steak")
PACKED = (("beef-flat-iron", "1.28", 2), ("beef-stew", "1.06", None), ("beef-flat-iron", "1.22", 2))


def make_trays(people: dict[str, Any], rng: random.Random) -> None:
    """Once."""
    if TrayTare.objects.exists():
        return
    ines, bram = people["ines"].pk, people["bram"].pk
    for at, size in enumerate(TraySize.objects.filter(is_dropped=False)):
        measure_tare(size.pk, Weight(Decimal("0.03") + Decimal(at) / 100, Unit.LB), ines)
    change_label_rules(
        {"place": "Gull Quay", "link": "https://shop.example", "store_code": "price_13"}, bram
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
        pack_tray(Packing(random_key(rng), product.pk, size.pk, "", weight, None, pieces), ines)
    PrintJob.objects.update(state=PrintJob.State.PRINTED)
