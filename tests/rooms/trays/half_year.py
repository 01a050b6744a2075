"""Half a year of a small shop, row by row as its actions leave them, with books of their own beside it.

The books know of each tub, batch and tray how much of each lot is in it, and nothing of links or entries.
"""

import random
import uuid
from collections import defaultdict
from datetime import timedelta
from decimal import Decimal

from django.utils import timezone

from cutting.labels.tray_life import Life
from cutting.quantities import Unit, working
from rooms.bench.models import CuttingTest, Output, TestBag, Weighing
from rooms.cooler.models import Bag
from rooms.grinder.models import CleanDown, Packed, TrimTub, TubIn, TubLot, TubOut
from rooms.recall.queries.weights import OF_LIFE, End
from rooms.trays.models import Tray, TrayEvent
from tests.rooms.trays.helpers import written_batch

D = Decimal
ROLES = (("Steak", "main", "portions-1"), ("Trim", "credit", "lean"), ("Bone", "discard", "bone"))


class HalfYear:
    """`ends`: of each lot, what of it is where, in pounds."""

    def __init__(self, like_bag, like_test, product, size, seed=1, days=180):
        self.rng, self.bag_like, self.test_like = random.Random(seed), like_bag, like_test
        self.product, self.size = product, size
        self.ends = defaultdict(lambda: defaultdict(lambda: D(0)))
        self.received = defaultdict(lambda: D(0))
        self.numbers = defaultdict(int)
        self.cooler, self.case, self.carry = [], [], None
        self.tub, self.inside = None, {}
        start = timezone.now() - timedelta(days=days)
        self.clean = CleanDown.objects.create(key=self.key(), what="cleaned", at=start)
        with working():
            for day in range(days):
                self.now = start + timedelta(days=day)
                self.day(day)
            for bag in self.cooler:
                self.end({bag.lot: bag.weight_value}, End.COOLER)
            for tray, made_of in self.case:
                self.end(made_of, OF_LIFE[tray.state])
            self.end(self.inside, End.TUB)

    def key(self):
        return uuid.UUID(int=self.rng.getrandbits(128))

    def pounds(self, low, high):
        return D(self.rng.randint(int(low * 100), int(high * 100))) / 100

    def number(self, what):
        self.numbers[what] += 1
        return 10_000 + self.numbers[what]

    def later(self):
        self.now += timedelta(minutes=3)
        return self.now

    def end(self, made_of, end, share=1):
        for lot, weight in made_of.items():
            self.ends[lot][end] += weight * share

    def day(self, day):
        if day % 3 == 0:
            self.receive(day)
        if self.tub is None:
            self.tub = TrimTub.objects.create(
                name=f"Trim {day}", species="beef", kind="lean", unit="lb", started_at=self.later()
            )
            self.inside = {}
        if self.cooler:
            self.cut(self.cooler.pop(0))
        self.sell()
        if sum(self.inside.values()) > 5:
            self.grind()
        if self.rng.random() < 0.1 and self.tub is not None:
            self.throw()

    def receive(self, day):
        for _ in range(self.rng.randint(1, 3)):
            lot = f"L{day // 9}-{self.rng.randint(1, 2)}"
            bag = Bag.objects.get(pk=self.bag_like)
            bag.pk, bag.serial, bag.lot = (
                self.key(),
                "",
                self.rng.choice([lot, lot.replace("-", "")]),
            )
            bag.weight_value, bag.weight_unit = self.pounds(8, 16), "lb"
            bag.save(force_insert=True)
            bag.lot = lot
            self.received[lot] += bag.weight_value
            lost = self.rng.random()
            if lost < 0.05:
                state, end = (("back", End.SENT_BACK), ("out", End.THROWN))[lost < 0.02]
                Bag.objects.filter(pk=bag.pk).update(state=state, left_at=self.later())
                self.end({lot: bag.weight_value}, end)
            else:
                self.cooler.append(bag)

    def cut(self, bag):
        """A bag is weighed out: steaks into trays, trim into the tub, the rest lost."""
        whole = bag.weight_value
        weights = [round(whole * D(share), 2) for share in ("0.55", "0.30", "0.10")]
        test = CuttingTest.objects.get(pk=self.test_like)
        test.pk, test.number, test.lot = self.key(), self.number("test"), ""
        test.weight_value, test.weight_unit = whole, "lb"
        test.save(force_insert=True)
        TestBag.objects.create(test=test, bag=bag)
        Bag.objects.filter(pk=bag.pk).update(state="opened", left_at=self.later())
        outputs = []
        is_sold = self.numbers["test"] % 2 == 0  # some shops sell their trim as it is
        for at, (name, role, pile) in enumerate(ROLES):
            own = "secondary" if name == "Trim" and is_sold else role
            output = Output.objects.create(test=test, position=at, name=name, role=own, pile=pile)
            Weighing.objects.create(
                key=self.key(),
                test=test,
                output=output,
                value=weights[at],
                unit="lb",
                taken_at=self.now,
            )
            outputs.append(output)
        self.end({bag.lot: whole - sum(weights)}, End.UNACCOUNTED)
        self.end({bag.lot: weights[2]}, End.WASTE)
        left = weights[0]
        while left > 2 and self.rng.random() < 0.9:
            net = self.pounds(0.8, 1.6)
            self.pack({bag.lot: net}, net, from_test=test, output=outputs[0])
            left -= net
        self.end({bag.lot: left}, End.CASE)
        if self.rng.random() < 0.9:
            self.put(weights[1], {bag.lot: weights[1]}, "test", output=outputs[1], from_test=test)
        else:
            self.end({bag.lot: weights[1]}, End.CASE if is_sold else End.BY_PRODUCT)

    def put(self, weight, made_of, source, **more):
        entry = TubIn.objects.create(
            key=self.key(),
            tub=self.tub,
            source=source,
            weight=weight,
            at=self.later(),
            lots=[{"lot": lot} for lot in made_of],
            day=self.now.date(),
            **more,
        )
        for lot in made_of:
            TubLot.objects.create(entry=entry, lot=lot)
        for lot, part in made_of.items():
            self.inside[lot] = self.inside.get(lot, D(0)) + part
        return entry

    def pack(self, made_of, net, **more):
        number = self.number("tray")
        tray = Tray.objects.create(
            id=self.key(),
            number=number,
            serial=f"{number:012d}",
            product=self.product,
            size=self.size,
            gross=net,
            tare=D(0),
            net=net,
            unit="lb",
            division=D("0.01"),
            amount=D(9),
            per="lb",
            total=net * 9,
            packed_at=self.later(),
            packed_on=self.now.date(),
            sell_by=self.now.date(),
            document={},
            life=Life.IN_CASE,
            **more,
        )
        self.case.append((tray, made_of))
        return tray

    def sell(self):
        """Most trays are sold, some thrown away, a few go into the tub again."""
        stays = []
        for tray, made_of in self.case:
            chance = self.rng.random()
            if chance < 0.6:
                self.became(tray, Life.SOLD)
                self.end(made_of, End.SOLD)
            elif chance < 0.65:
                self.became(tray, Life.THROWN)
                self.end(made_of, End.THROWN)
            elif chance < 0.70:
                of = {"from_test": tray.from_test, "from_batch": tray.from_batch}
                entry = self.put(tray.net, made_of, "case", **of)
                self.became(tray, Life.TO_TUB, entry)
            else:
                stays.append((tray, made_of))
        self.case = stays

    def became(self, tray, life, entry=None):
        TrayEvent.objects.create(
            key=self.key(), tray=tray, was=tray.life, life=life, entry=entry, at=self.later()
        )
        Tray.objects.filter(pk=tray.pk).update(life=life)

    def grind(self):
        """What was carried over goes in first; part of the tub is ground, packed with labels and without."""
        if self.carry is not None:
            batch, rest, made_of = self.carry
            if self.rng.random() < 0.5:
                self.put(rest, made_of, "carry", batch=batch, from_batch=batch)
            else:
                self.end(made_of, End.CLEANED_OUT)
            self.carry = None
        whole = sum(self.inside.values())
        weight = round(whole * D(self.rng.choice(["0.7", "0.9"])), 2)
        made_of = {lot: part * weight / whole for lot, part in self.inside.items()}
        for lot, part in made_of.items():
            self.inside[lot] -= part
        at, rest = self.later(), D("0.30")
        got = round(weight * D("0.98"), 2) - rest
        batch = written_batch(
            self.clean,
            id=self.key(),
            number=self.number("batch"),
            weight=weight,
            begun_at=at,
            got=got,
            machine=rest,
            celsius_out=4000,
            finished_at=at,
        )
        TubOut.objects.create(key=self.key(), tub=self.tub, batch=batch, weight=weight, at=at)
        each = {lot: part / weight for lot, part in made_of.items()}
        self.end(each, End.LOSS, weight - got - rest)
        left = got
        while left > 3:
            net = self.pounds(0.9, 1.4)
            row = Packed.objects.create(
                key=self.key(), batch=batch, trays=1, weight=net, is_labelled=True, at=self.later()
            )
            own = {lot: part * net for lot, part in each.items()}
            self.pack(own, net, from_batch=batch, batch=batch, packed=row)
            left -= net
        Packed.objects.create(key=self.key(), batch=batch, trays=1, weight=D(1), at=self.later())
        self.end(each, End.NO_LABEL, D(1))
        self.end(each, End.UNPACKED, left - 1)
        self.carry = batch, rest, {lot: part * rest for lot, part in each.items()}

    def throw(self):
        whole = sum(self.inside.values())
        if whole > 0:
            TubOut.objects.create(
                key=self.key(),
                tub=self.tub,
                weight=whole.quantize(D("0.000001")),
                reason="old",
                at=self.later(),
            )
            self.end(self.inside, End.THROWN)
        TrimTub.objects.filter(pk=self.tub.pk).update(closed_at=self.later())
        self.tub, self.inside = None, {}

    def carried_at_the_end(self):
        """What lies in the grinder when the half year ends counts as left in it."""
        with working():
            if self.carry is not None:
                self.end(self.carry[2], End.CLEANED_OUT)


def in_pounds(grams):
    with working():
        return grams / Unit.LB.grams
