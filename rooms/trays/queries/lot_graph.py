"""What leads to what, as one relation: forwards and back are the same steps.

A lot leads to bags, a bag to its parts, to the test it was opened for and to the tub it was poured into; a test to
tubs, trays and the bags of whole pieces that came off it; something in a tub to every batch that took of the tub
since; a batch to tubs (carried over, pulled from the case) and trays; a tray to trays packed of it and to tubs. Of what lay in a tub together nothing can be told
apart any more: common practice, no published source.
"""

from dataclasses import dataclass, field
from datetime import datetime
from typing import Any
from uuid import UUID

from django.db.models import Exists, F, OuterRef, Q, QuerySet

from cutting.tracing.flow import Kind
from rooms.bench.models import CuttingTest, PieceBag, TestBag
from rooms.cooler.models import Bag, LotHold
from rooms.grinder.models import Batch, TrimTub, TubIn, TubLot, TubOut
from rooms.trays.models import Tray, TrayEvent

STEPS = """
    SELECT earlier.id AS earlier, later.id AS later
    FROM grinder_tubin earlier
    JOIN grinder_tubout gone ON gone.tub_id = earlier.tub_id
    JOIN grinder_batch batch ON batch.id = gone.batch_id
        AND batch.undone_at IS NULL AND earlier.at <= batch.begun_at
    JOIN grinder_tubin later ON later.from_batch_id = batch.id
    WHERE NOT EXISTS (SELECT 1 FROM grinder_takenback back WHERE back.entry_id = earlier.id)
        AND NOT EXISTS (SELECT 1 FROM grinder_takenback back WHERE back.entry_id = later.id)
        AND NOT EXISTS (SELECT 1 FROM grinder_takenback back WHERE back.out_id = gone.id)
"""
"""From something in a tub to what of its batches went into tubs again. Plain SQL: it runs on SQLite and on
PostgreSQL, and takes each step by an index (docs/decisions)."""
TUBS_OF_THE_WAY = """
    WITH RECURSIVE seeds(id) AS ({seeds}),
    way(id) AS (
        SELECT id FROM seeds
        UNION
        SELECT step.{to} FROM way JOIN ({steps}) step ON step.{of} = way.id
    )
    SELECT own.*, tub.name AS tub_name, tub.unit AS tub_unit,
        pile.role AS pile_role, pile.in_case AS pile_in_case,
        CASE WHEN own.id IN (SELECT id FROM way) THEN 1 ELSE 0 END AS is_on_way
    FROM grinder_tubin own
    JOIN grinder_trimtub tub ON tub.id = own.tub_id
    LEFT JOIN bench_output pile ON pile.id = own.output_id
    WHERE own.tub_id IN (SELECT tub_id FROM grinder_tubin WHERE id IN (SELECT id FROM way))
        AND NOT EXISTS (SELECT 1 FROM grinder_takenback back WHERE back.entry_id = own.id)
    ORDER BY own.id
"""


@dataclass
class Reached:
    """Everything that something leads to, or that leads to it, and itself; with the rows that were read
    on the way."""

    lots: set[str] = field(default_factory=set)
    """Their keys."""
    bags: set[UUID] = field(default_factory=set)
    tests: set[UUID] = field(default_factory=set)
    entries: set[int] = field(default_factory=set)
    batches: set[UUID] = field(default_factory=set)
    trays: set[UUID] = field(default_factory=set)
    """By themselves; forwards all trays of `tests` and `batches` are there too."""
    bag_rows: dict[UUID, Bag] = field(default_factory=dict)
    test_rows: dict[UUID, CuttingTest] = field(default_factory=dict)
    ins: dict[int, TubIn] = field(default_factory=dict)
    """All that went into the tubs of `entries`."""
    outs: dict[int, TubOut] = field(default_factory=dict)

    def all_trays(self) -> QuerySet[Tray]:
        """Forwards: every tray that it leads to."""
        of = Q(from_test__in=self.tests) | Q(from_batch__in=self.batches) | Q(pk__in=self.trays)
        return Tray.objects.standing().filter(of)

    def names(self, trays: set[UUID]) -> set[tuple[Kind, str]]:
        """As things of one relation."""
        sets: list[tuple[Kind, set[Any]]] = [
            (Kind.LOT, self.lots),
            (Kind.BAG, self.bags),
            (Kind.TEST, self.tests),
            (Kind.ENTRY, self.entries),
            (Kind.BATCH, self.batches),
            (Kind.TRAY, trays),
        ]
        return {(kind, str(one)) for kind, some in sets for one in some}

    def take_bags(self, rows: QuerySet[Bag]) -> None:
        """With the tests they were opened for, and whether their lot is held: one query."""
        held = LotHold.objects.standing().filter(lot_key=OuterRef("lot_key"))
        rows = rows.exclude(state=Bag.State.UNDONE).annotate(is_held=Exists(held))
        for bag in rows.select_related("piece", "delivery", "opened_for__test", "cut_at__output"):
            self.bags.add(bag.pk)
            self.bag_rows[bag.pk] = bag
            opened = getattr(bag, "opened_for", None)
            if opened is not None:
                self.test_rows[opened.test_id] = opened.test

    def walk(self, seeds: Q, *, forwards: bool) -> None:
        """What is reached from these in tubs, by any number of steps, and all that lay in the same tubs:
        two queries."""
        rows = TubIn.objects.standing().filter(seeds).order_by().values("pk")
        sql, params = rows.query.sql_with_params()
        of, to = ("earlier", "later") if forwards else ("later", "earlier")
        asked = TUBS_OF_THE_WAY.format(seeds=sql, steps=STEPS, of=of, to=to)
        for entry in TubIn.objects.raw(asked, params):
            self.ins[entry.pk] = entry
            if entry.is_on_way:
                self.entries.add(entry.pk)
        if not self.ins:
            return
        tubs = {entry.tub_id for entry in self.ins.values()}
        outs = TubOut.objects.standing().filter(tub__in=tubs).select_related("batch", "tub")
        self.outs |= {out.pk: out for out in outs}


@dataclass(frozen=True)
class Start:
    """Where a way starts: one of these. Of a lot its key; of a tub everything that went in."""

    lot: str = ""
    bag: UUID | None = None
    test: UUID | None = None
    tub: UUID | None = None
    entry: int | None = None
    batch: UUID | None = None
    tray: UUID | None = None


def exists(start: Start) -> bool:
    """Whether there is such a bag, test, tub, batch or tray: one query."""
    asked = (
        (Bag, start.bag),
        (CuttingTest, start.test),
        (TrimTub, start.tub),
        (Batch, start.batch),
    )
    for model, pk in (*asked, (Tray, start.tray), (TubIn, start.entry)):
        if pk is not None:
            return bool(model.objects.filter(pk=pk).exists())
    return False


def forwards(start: Start) -> Reached:
    """Everything that something of the start may be in: four queries for a lot, six at most."""
    found = Reached()
    seeds = Q(tub=start.tub) if start.tub else Q(pk=start.entry)
    if start.lot:
        found.lots = {start.lot}
        found.take_bags(Bag.objects.filter(lot_key=start.lot))
        typed = CuttingTest.objects.filter(lot_key=start.lot, bags=None)
        found.test_rows |= {test.pk: test for test in typed}
        seeds |= Q(pk__in=TubLot.objects.filter(lot_key=start.lot).values("entry"))
    if start.bag:
        found.take_bags(Bag.objects.filter(pk__in=_parts({start.bag})))
    if start.tray:
        found.trays = _again({start.tray})
        events = TrayEvent.objects.filter(tray__in=found.trays, entry__isnull=False, undone_by=None)
        seeds |= Q(pk__in=events.values("entry"))
    found.tests = {start.test} if start.test else set(found.test_rows)
    _cut_on(found)
    found.batches = {start.batch} if start.batch else set()
    seeds |= Q(bag__in=found.bags) | Q(from_test__in=found.tests)
    found.walk(seeds | Q(from_batch__in=found.batches), forwards=True)
    first: dict[UUID, datetime] = {}
    for one in found.entries:
        entry = found.ins[one]
        first[entry.tub_id] = min(first.get(entry.tub_id, entry.at), entry.at)
    for out in found.outs.values():
        batch = out.batch
        if batch is not None and out.tub_id in first and first[out.tub_id] <= batch.begun_at:
            found.batches.add(batch.pk)
    return found


def backwards(start: Start) -> Reached:
    """Everything that may be in the start: eight queries at most."""
    found = Reached()
    if start.lot:
        return Reached(lots={start.lot})
    seeds = Q(tub=start.tub) if start.tub else Q(pk=start.entry)
    found.bags = {start.bag} if start.bag else set()
    found.tests = {start.test} if start.test else set()
    found.batches = {start.batch} if start.batch else set()
    if start.tray:
        found.trays = _from_again({start.tray})
        of = Tray.objects.filter(pk__in=found.trays)
        for test, batch in of.values_list("from_test", "from_batch"):
            found.tests |= {test} - {None}
            found.batches |= {batch} - {None}
    if found.batches:
        seeds |= Q(pk__in=_into(found.batches))
    found.walk(seeds, forwards=False)
    _sources(found)
    return found


def _into(batches: set[UUID]) -> QuerySet[Any]:
    """What had gone into the tubs of these batches by then."""
    rows = TubIn.objects.standing().filter(
        tub__outs__batch__in=batches,
        tub__outs__batch__undone_at=None,
        tub__outs__taken_back=None,
        at__lte=F("tub__outs__batch__begun_at"),
    )
    return rows.values("pk")


def _sources(found: Reached) -> None:
    """Batches, tests, bags and lots of what went into the tubs: five queries."""
    for one in found.entries:
        entry = found.ins[one]
        found.bags |= {entry.bag_id} - {None}
        found.tests |= {entry.from_test_id} - {None}
        found.batches |= {entry.from_batch_id} - {None}
    of_tray = TrayEvent.objects.filter(entry__in=found.entries, undone_by=None)
    found.trays |= _from_again(set(of_tray.values_list("tray", flat=True)))
    with_bags = _came_from(found)
    found.lots |= {bag.lot_key for bag in found.bag_rows.values()}
    typed = CuttingTest.objects.filter(pk__in=found.tests - with_bags)
    found.lots |= set(typed.values_list("lot_key", flat=True))
    inside = TubLot.objects.filter(entry__in=found.entries)
    found.lots |= set(inside.values_list("lot_key", flat=True))
    found.lots -= {""}


def _cut_on(found: Reached) -> None:
    """The whole pieces that came off its tests, what they were opened for, and so on: one query more than
    it goes deep."""
    new = found.tests
    while new:
        cut = PieceBag.objects.standing().filter(test__in=new).values_list("bag", flat=True)
        more = _parts(set(cut) - found.bags)
        if not more:
            return
        found.take_bags(Bag.objects.filter(pk__in=more))
        new = {pk for pk in found.test_rows if pk not in found.tests}
        found.tests |= new


def _came_from(found: Reached) -> set[UUID]:
    """The bags that its tests were opened from, the tests that those came off, and so on. Returns the tests
    that were opened from bags: two queries for each step that it goes deep."""
    with_bags: set[UUID] = set()
    tests, bags = found.tests, found.bags
    while tests or bags:
        opened = TestBag.objects.filter(test__in=tests).values_list("test", "bag") if tests else ()
        with_bags |= {test for test, _ in opened}
        wholes = _wholes((bags | {bag for _, bag in opened}) - set(found.bag_rows))
        if not wholes:
            break
        found.take_bags(Bag.objects.filter(pk__in=wholes))
        rows = [found.bag_rows[pk] for pk in wholes if pk in found.bag_rows]
        tests = {bag.cut_at.test_id for bag in rows if bag.cut_of_id is not None} - found.tests
        found.tests |= tests
        bags = set()
    return with_bags


def _grown(some: set[UUID], rows: QuerySet[Any], by: str, to: str) -> set[UUID]:
    """As far as it goes; as a rule one query."""
    found, new = set(some), set(some)
    while new:
        more = set(rows.filter(**{f"{by}__in": new}).values_list(to, flat=True))
        new = more - found - {None}
        found |= new
    return found


def _parts(bags: set[UUID]) -> set[UUID]:
    return _grown(bags, Bag.objects.all(), "part_of", "pk")


def _wholes(bags: set[UUID]) -> set[UUID]:
    return _grown(bags, Bag.objects.all(), "pk", "part_of")


def _again(trays: set[UUID]) -> set[UUID]:
    return _grown(trays, Tray.objects.standing(), "again_of", "pk")


def _from_again(trays: set[UUID]) -> set[UUID]:
    return _grown(trays, Tray.objects.standing(), "pk", "again_of")


def batch_rows(found: Reached) -> dict[UUID, Batch]:
    """One query, none where all of them took of tubs that were read."""
    known = {out.batch.pk: out.batch for out in found.outs.values() if out.batch is not None}
    rows = {pk: batch for pk, batch in known.items() if pk in found.batches}
    missing = found.batches - set(rows)
    return rows | (Batch.objects.in_bulk(missing) if missing else {})
