"""The demo shop's grinder: clean, set up, tubs of the last days' trim with what the eye says of them."""

import random
from collections import defaultdict
from datetime import date, datetime, time, timedelta
from decimal import Decimal
from typing import Any

from django.utils import timezone

from cutting.grinding.checks import CLEANING, SETTING_UP
from cutting.grinding.judging import How
from cutting.quantities import Unit, Weight, round_half_up, storable
from rooms.bench.models import CuttingTest
from rooms.bench.queries.rows import load_all
from rooms.catalog.models import Pile
from rooms.demo.cooler import random_key
from rooms.grinder.actions.batch import clean_down
from rooms.grinder.actions.house import save_seasoning
from rooms.grinder.actions.tubs import NewTub, hand_over, judge, put_in, start_tub
from rooms.grinder.models import (
    Batch,
    Came,
    CleanDown,
    Judged,
    Packed,
    Tested,
    TrimTub,
    TubIn,
    TubLot,
    TubOut,
)
from rooms.grinder.queries.sources import lots_of_test
from rooms.grinder.queries.tubs import waiting
from rooms.pricebook.models import Product

TUBS = {
    # name, kind, primal, lean by eye, pounds from before, its lot, days ago, cost a lb
    "chuck": ("Chuck, yesterday", "lean", "chuck", "0.80", "14.2", "L9427", 1, "4.10"),
    "knuckle": ("Knuckle, today", "lean", "round", "0.93", "6.1", "L8104", 0, "4.60"),
    "clod": ("Clod, today", "lean", "chuck", "0.84", "9.4", "L8425", 0, "4.20"),
    "ends": ("Round ends", "ends", "round", "0.90", "5.2", "L6630", 0, "5.40"),
    "fat": ("Hard fat", "hard_fat", "", "0.18", "7.6", "L8425", 0, "0.35"),
}
OF_PIECE = {"beef-knuckle": "knuckle", "beef-shoulder-clod": "clod"}


SEASONINGS: tuple[tuple[str, str, str, list[str], str], ...] = (
    ("House sausage", "0.02", "salt, black pepper, sage, nutmeg", [], "9.80"),
    (
        "Lamb kofta",
        "0.03",
        "breadcrumbs (wheat flour, yeast), salt, cumin, mint",
        ["wheat"],
        "8.40",
    ),
)
PAST = 12
"""Days with a batch before today."""
FROM = {"supplier": "Skerry Point Packing", "establishment": "M-0417"}
EYE_IS_OFF = Decimal("0.002")
"""How much leaner than it is Ines judges trim."""


def make_grinder(now: datetime, people: dict[str, Any], rng: random.Random) -> None:
    """Once."""
    if TrimTub.objects.exists():
        return
    ines = people["ines"].pk
    for name, share, words, allergens, cost in SEASONINGS:
        made = {"share": Decimal(share), "ingredients": words, "allergens": allergens}
        save_seasoning({"name": name, "cost": Decimal(cost), "per": "lb", **made}, None)
    _past(now, people, rng)
    for what in ("cleaned", "set_up"):
        clean_down(random_key(rng), what, ines)
    tubs = {}
    for key, (name, kind, primal, lean, pounds, lot, back, cost) in TUBS.items():
        tub = start_tub(NewTub(random_key(rng), name, "beef", kind, primal), ines)
        day = timezone.localdate(now) - timedelta(days=back)
        grade = "USDA Select" if key == "ends" else "USDA Choice"
        lots = [{"lot": lot, "grade": grade, **FROM}]
        weight = Weight(Decimal(pounds), Unit.LB)
        put_in(random_key(rng), tub.pk, weight, lots, day, ines, Decimal(cost))
        judge(tub.pk, How.EYE, Decimal(lean), ines)
        tubs[key] = tub
    for one in waiting():
        test: CuttingTest = one.output.test
        key = "fat" if one.output.pile == Pile.FAT else OF_PIECE.get(test.piece.key, "")
        late = test.finished_at < now - timedelta(days=1)
        if key and test.species == "beef" and not late and test.number % 2:
            hand_over(random_key(rng), tubs[key].pk, one.output.pk, ines)


def _past(now: datetime, people: dict[str, Any], rng: random.Random) -> None:
    """A batch for each of the last days with beef on the block: cleaned, ground, tested, packed."""
    by_day: dict[date, list[CuttingTest]] = defaultdict(list)
    tests = CuttingTest.objects.finished().filter(species="beef", imported_at=None)
    for test in tests.filter(finished_at__lt=now - timedelta(days=2)):
        by_day[timezone.localdate(test.finished_at)].append(test)
    product = Product.objects.get(cut__key="beef-ground")
    days = sorted(by_day)[-PAST:]
    yesterday = timezone.localdate(now) - timedelta(days=1)
    for number, day in enumerate(days, 1):
        ground_on = yesterday if day == days[-1] else day
        _past_batch(number, ground_on, by_day[day], product, people, rng)
    if days:  # half of the last one waits to be packed with labels
        last = Packed.objects.order_by("batch__number").last()
        half = round_half_up(last.batch.got / 2, 2)
        Packed.objects.filter(pk=last.pk).update(weight=half, trays=int(half) or 1)


def _past_batch(
    number: int,
    day: date,
    tests: list[CuttingTest],
    product: Product,
    people: dict[str, Any],
    rng: random.Random,
) -> None:
    def at(hour: int, minute: int = 0) -> datetime:
        return timezone.make_aware(datetime.combine(day, time(hour, minute)))

    ines, bram = people["ines"], people["bram"]
    made = {"key": random_key(rng), "by": bram}
    clean = CleanDown.objects.create(what="cleaned", points=list(CLEANING), at=at(6, 12), **made)
    made = {"key": random_key(rng), "by": bram}
    ready = CleanDown.objects.create(what="set_up", points=list(SETTING_UP), at=at(6, 30), **made)
    tub = TrimTub(id=random_key(rng), name="Beef trim", species="beef", kind="lean", unit="lb")
    tub.started_at, tub.started_by, tub.closed_at = at(7), ines, at(16)
    tub.save()
    pounds = Decimal(rng.randint(1400, 2600)) / 100
    bought = TubIn.objects.create(
        key=random_key(rng),
        tub=tub,
        source=TubIn.Source.BOUGHT,
        weight=pounds,
        lots=[{"lot": f"B{day:%j}", "piece": "boxed trim", "grade": "", **FROM}],
        cost=Decimal("3.60"),
        day=day,
        at=at(8),
        by=ines,
    )
    TubLot.objects.create(entry=bought, lot=f"B{day:%j}")
    spent = pounds * bought.cost
    for rows in load_all(tests):
        for output in rows.piles:
            own = sum((w.reading.weight.to(Unit.LB) for w in rows.of(output)), Decimal(0))
            if output.pile != Pile.LEAN or not own:
                continue
            weight = storable(Weight(own, Unit.LB), Unit.LB).value
            entry = TubIn.objects.create(
                key=random_key(rng),
                tub=tub,
                source=TubIn.Source.TEST,
                weight=weight,
                output=output,
                from_test=rows.test,
                lots=lots_of_test(rows.test),
                cost=output.credit or Decimal("3.00"),
                day=timezone.localdate(rows.test.finished_at),
                at=at(14),
                by=ines,
            )
            TubLot.objects.bulk_create(
                TubLot(entry=entry, lot=lot["lot"]) for lot in entry.lots if lot["lot"]
            )
            pounds, spent = pounds + weight, spent + weight * entry.cost
    lean = Decimal(rng.randint(780, 860)) / 1000
    Judged.objects.create(tub=tub, how=How.EYE, lean=lean + EYE_IS_OFF, at=at(14, 20), by=ines)
    lost, rest = Decimal(rng.randint(6, 14)) / 1000, Decimal("0.30")
    got = round_half_up(pounds * (1 - lost) - rest, 2)
    stated = round_half_up(1 - lean + Decimal("0.005"), 2)
    asked = {"value": f"{pounds:f}", "unit": "lb"}
    answer: dict[str, Any] = {
        "name": "ground beef",
        "take": [{"tub": str(tub.pk), "weight": asked}],
        "fat": f"{1 - lean - EYE_IS_OFF:f}",
        "fat_sd": "0.04",
        "cost": f"{round_half_up(spent, 4):f}",
        "cost_per_unit": f"{round_half_up(spent / pounds, 4):f}",
    }
    batch = Batch.objects.create(
        id=random_key(rng),
        number=number,
        product=product,
        name="ground beef",
        rule="ground_beef",
        species="beef",
        weight=pounds,
        unit="lb",
        fat=Decimal(answer["fat"]),
        fat_sd=Decimal("0.04"),
        stated=stated,
        document={"name": "ground beef", "weight": asked},
        answer=answer,
        cleaned=clean,
        set_up=ready,
        begun_at=at(14, 30),
        begun_by=ines,
        celsius_in=2200,
        celsius_out=3900,
        got=got,
        machine=rest,
        finished_at=at(14, 50),
        finished_by=ines,
        cost=Decimal(answer["cost"]),
    )
    said = {"at": at(14, 50), "by": ines}
    Came.objects.create(batch=batch, got=got, machine=rest, celsius=3900, **said)
    TubOut.objects.create(
        key=random_key(rng), tub=tub, batch=batch, weight=pounds, at=at(14, 30), by=ines
    )
    fat = 1 - lean + Decimal(rng.randint(-8, 8)) / 1000
    Tested.objects.create(key=random_key(rng), batch=batch, fat=fat, at=at(14, 55), by=ines)
    Packed.objects.create(
        key=random_key(rng),
        batch=batch,
        trays=max(int(got // 1), 1),
        weight=got,
        at=at(15, 10),
        by=ines,
    )
