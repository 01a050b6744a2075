"""The demo shop's grinder: clean, set up, tubs of the last days' trim with what the eye says of them."""

import random
from datetime import datetime, timedelta
from decimal import Decimal
from typing import Any

from django.utils import timezone

from cutting.grinding.judging import How
from cutting.quantities import Unit, Weight
from rooms.bench.models import CuttingTest
from rooms.catalog.models import Pile
from rooms.demo.cooler import random_key
from rooms.grinder.actions.batch import clean_down
from rooms.grinder.actions.tubs import NewTub, hand_over, judge, put_in, start_tub
from rooms.grinder.models import TrimTub
from rooms.grinder.queries.tubs import waiting

TUBS = {
    # name, kind, primal, lean by eye, pounds from before, its lot, days ago, cost a lb
    "chuck": ("Chuck, yesterday", "lean", "chuck", "0.80", "14.2", "L9427", 1, "4.10"),
    "knuckle": ("Knuckle, today", "lean", "round", "0.93", "6.1", "L8104", 0, "4.60"),
    "clod": ("Clod, today", "lean", "chuck", "0.84", "9.4", "L8425", 0, "4.20"),
    "ends": ("Round ends", "ends", "round", "0.90", "5.2", "L6630", 0, "5.40"),
    "fat": ("Hard fat", "hard_fat", "", "0.18", "7.6", "L8425", 0, "0.35"),
}
OF_PIECE = {"beef-knuckle": "knuckle", "beef-shoulder-clod": "clod"}


def make_grinder(now: datetime, people: dict[str, Any], rng: random.Random) -> None:
    """Once."""
    if TrimTub.objects.exists():
        return
    ines = people["ines"].pk
    for what in ("cleaned", "set_up"):
        clean_down(random_key(rng), what, ines)
    tubs = {}
    for key, (name, kind, primal, lean, pounds, lot, back, cost) in TUBS.items():
        tub = start_tub(NewTub(random_key(rng), name, "beef", kind, primal), ines)
        day = timezone.localdate(now) - timedelta(days=back)
        lots = [{"lot": lot, "supplier": "Skerry Point Packing", "establishment": "M-0417"}]
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
