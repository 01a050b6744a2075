"""The way back: one relation, seen from both ends."""

import itertools
import random
import uuid
from datetime import timedelta
from decimal import Decimal

import pytest
from django.utils import timezone

from cutting.tracing.flow import Kind
from rooms.bench.models import CuttingTest, TestBag
from rooms.cooler.actions.holds import hold_lot
from rooms.grinder.models import Batch, CleanDown, TakenBack, TrimTub, TubIn, TubLot, TubOut
from rooms.trays.models import Tray, TrayEvent
from rooms.trays.queries.held import held_trays, hold_on
from rooms.trays.queries.lot_graph import Start, backwards, forwards
from tests.rooms.trays.helpers import written_batch

pytestmark = pytest.mark.django_db
D = Decimal
KEY = uuid.uuid4


class Shop:
    """A shop's rows at random, as its actions leave them."""

    def __init__(self, fill, weighed, rng):
        self.rng, self.now = rng, timezone.now() - timedelta(days=30)
        self.minutes = itertools.count()
        self.like = weighed
        self.bags, self.tests, self.entries, self.batches, self.trays = [], [], [], [], []
        self.tubs = [
            TrimTub.objects.create(
                name=name, species="beef", kind="lean", unit="lb", started_at=self.now
            )
            for name in ("A", "B")
        ]
        self.clean = CleanDown.objects.create(key=KEY(), what="cleaned", at=self.now)
        self.fill = fill

    def at(self):
        return self.now + timedelta(minutes=next(self.minutes))

    def bag(self):
        (bag,) = self.fill(("beef-shoulder-clod", 3, "20.00"))
        bag.lot, bag.state, bag.left_at = (
            self.rng.choice(["L1", "L-1", "L2", ""]),
            "opened",
            self.at(),
        )
        bag.part_of = self.rng.choice([*self.bags, None])
        if bag.part_of:
            bag.lot = bag.part_of.lot
        bag.save()
        self.bags.append(bag)

    def test(self):
        test = CuttingTest.objects.get(pk=self.like)
        test.pk, test.number = KEY(), 1000 + len(self.tests)
        free = [one for one in self.bags if not TestBag.objects.filter(bag=one).exists()]
        test.lot = "" if free else self.rng.choice(["l 2", "L3", ""])
        test.save(force_insert=True)
        for bag in free[: self.rng.randint(0, 2)]:
            TestBag.objects.create(test=test, bag=bag)
        self.tests.append(test)

    def into(self):
        of = self.rng.choice(["test", "batch", "bag", "lot", "tray"])
        more = {}
        if of == "test" and self.tests:
            more["from_test"] = self.rng.choice(self.tests)
        if of == "batch" and self.batches:
            more["from_batch"] = self.rng.choice(self.batches)
        if of == "bag" and self.bags:
            more["bag"] = self.rng.choice(self.bags)
        tray = self.rng.choice(self.trays) if of == "tray" and self.trays else None
        if tray is not None:
            more = {"from_test": tray.from_test, "from_batch": tray.from_batch}
        entry = TubIn.objects.create(
            key=KEY(),
            tub=self.rng.choice(self.tubs),
            source="case",
            weight=D(5),
            day=timezone.localdate(),
            at=self.at(),
            **more,
        )
        if of == "lot":
            TubLot.objects.create(entry=entry, lot=self.rng.choice(["L1", "L4"]))
        if tray is not None:
            TrayEvent.objects.create(
                key=KEY(), tray=tray, was=tray.life, life="to_tub", entry=entry, at=self.at()
            )
        self.entries.append(entry)

    def batch(self):
        at = self.at()
        number = 1000 + len(self.batches)
        batch = written_batch(self.clean, id=KEY(), number=number, weight=D(3), begun_at=at)
        for tub in self.rng.sample(self.tubs, self.rng.randint(1, 2)):
            TubOut.objects.create(key=KEY(), tub=tub, batch=batch, weight=D(1), at=at)
        self.batches.append(batch)

    def tray(self, product, size):
        source = self.rng.choice([*self.tests, *self.batches, *self.trays, None])
        more = {}
        if isinstance(source, CuttingTest):
            more["from_test"] = source
        elif isinstance(source, Batch):
            more["from_batch"] = source
        elif source is not None:
            more = {
                "again_of": source,
                "from_test": source.from_test,
                "from_batch": source.from_batch,
            }
        number = len(self.trays) + 1
        today = timezone.localdate()
        self.trays.append(
            Tray.objects.create(
                id=KEY(),
                number=number,
                serial=f"{number:012d}",
                product=product,
                size=size,
                gross=D(1),
                tare=D(0),
                net=D(1),
                unit="lb",
                division=D("0.01"),
                amount=D(9),
                per="lb",
                total=D(9),
                packed_at=self.at(),
                packed_on=today,
                sell_by=today,
                document={},
                **more,
            )
        )

    def undo(self):
        what = self.rng.choice(["entry", "batch"])
        if what == "entry" and self.entries:
            entry = self.rng.choice(self.entries)
            if not TakenBack.objects.filter(entry=entry).exists():
                TakenBack.objects.create(key=KEY(), entry=entry, at=self.at())
        if what == "batch" and self.batches:
            batch = self.rng.choice(self.batches)
            used = batch.into_tubs.standing().exists() or batch.from_it.exists()
            if not used:
                Batch.objects.filter(pk=batch.pk).update(undone_at=self.at())

    def starts(self):
        """Everything that can be asked of, with its name."""
        standing = set(TubIn.objects.standing().values_list("pk", flat=True))
        ground = set(Batch.objects.standing().values_list("pk", flat=True))
        yield from (((Kind.LOT, key), Start(lot=key)) for key in ("l1", "l2", "l3", "l4"))
        yield from (((Kind.BAG, str(one.pk)), Start(bag=one.pk)) for one in self.bags)
        yield from (((Kind.TEST, str(one.pk)), Start(test=one.pk)) for one in self.tests)
        yield from (((Kind.ENTRY, str(one)), Start(entry=one)) for one in standing)
        yield from (((Kind.BATCH, str(one)), Start(batch=one)) for one in ground)
        yield from (((Kind.TRAY, str(one.pk)), Start(tray=one.pk)) for one in self.trays)


@pytest.mark.long
@pytest.mark.parametrize("seed", range(4))
def test_forwards_and_back_are_one_relation(fill, weighed, numbered, size, seed):
    rng = random.Random(seed)
    shop = Shop(fill, weighed().test.pk, rng)
    acts = [
        shop.bag,
        shop.test,
        shop.into,
        shop.into,
        shop.batch,
        lambda: shop.tray(numbered, size),
    ]
    for _ in range(50):
        rng.choice([*acts, *acts, shop.undo])()
    forward, backward = {}, {}
    for name, start in shop.starts():
        found = forwards(start)
        forward[name] = found.names(set(found.all_trays().values_list("pk", flat=True)))
        found = backwards(start)
        backward[name] = found.names(found.trays)
    for a, b in itertools.product(forward, forward):
        if a != b:
            assert (b in forward[a]) == (a in backward[b]), (a, b)
    assert sum(map(len, forward.values())) > 2 * len(forward)
    hold_lot(KEY(), "l-1", "metal", None)
    one_by_one = {tray.pk for tray in shop.trays if hold_on(tray) is not None}
    assert held_trays(shop.trays) == one_by_one
