"""The lots of what goes into a tub: of a test's bags, of a bag, of what stands on a tray."""

import re
from dataclasses import dataclass, field
from datetime import date

from cutting.meat import Meat
from cutting.tracing.lots import lot_key
from rooms.bench.models import CuttingTest
from rooms.bench.queries.tub_entries import lots_of
from rooms.cooler.models import Bag
from rooms.grinder.models import Batch
from rooms.grinder.queries.lots import Lot, lots_of_batch

OF_BATCH = re.compile(r"(?i)^g-?\s*([0-9]{1,9})$", re.ASCII)
OF_TEST = re.compile(r"(?i)^(?:test|t-?|#)\s*([0-9]{1,9})$", re.ASCII)


def lots_of_test(test: CuttingTest) -> list[Lot]:
    """Two queries."""
    lots = [
        _lot(lot, test.supplier, test.piece_name, test.packed_on)
        for lot in lots_of([test])[test.pk]
    ]
    bags = Bag.objects.filter(opened_for__test=test).select_related("delivery")
    known: dict[str, Bag] = {bag.lot_key: bag for bag in bags}
    found = ((row, known.get(lot_key(row["lot"]))) for row in lots)
    return [row | _of_bag(bag) if bag is not None else row for row, bag in found]


def lot_of_bag(bag: Bag) -> Lot:
    name = bag.piece.shown_name if bag.piece else ""
    return _lot(bag.lot, "", name, None) | _of_bag(bag)


@dataclass(frozen=True)
class Origin:
    """What something is of: its lots, and the test or the batch where it is of one."""

    lots: list[Lot] = field(default_factory=list)
    species: str = ""
    """Of its animal; empty where nobody knows."""
    test: CuttingTest | None = None
    batch: Batch | None = None
    meat: Meat | None = None
    """What it is, where a tray of ours tells it."""


def origin_of_tray(tray: str) -> Origin:
    """What stands on a tray's label: a batch (G-12), a test (test 12) or a lot. Of a lot of the cooler
    everything is known, however it is written; another is kept as it stands there. At most four queries."""
    found: list[Lot] = []
    species = ""
    batch: Batch | None = None
    test: CuttingTest | None = None
    of_batch, of_test = OF_BATCH.match(tray), OF_TEST.match(tray)
    if of_batch:
        batch = Batch.objects.standing().filter(number=int(of_batch[1])).first()
        found = lots_of_batch(batch) if batch else []
        species = batch.species if batch else ""
    elif of_test:
        test = CuttingTest.objects.finished().filter(number=int(of_test[1])).first()
        found = lots_of_test(test) if test else []
        species = test.species if test else ""
    else:
        bag = Bag.objects.filter(lot_key=lot_key(tray)).select_related("piece", "delivery").first()
        found = [lot_of_bag(bag)] if bag else []
        species = bag.piece.species if bag and bag.piece else ""
    unknown = [{"lot": tray, "piece": "from the case"}]
    return Origin([row | {"tray": tray} for row in found or unknown], species, test, batch)


def _lot(lot: str, supplier: str, piece: str, packed_on: date | None) -> Lot:
    return {
        "lot": lot,
        "supplier": supplier,
        "establishment": "",
        "piece": piece,
        "packed_on": packed_on.isoformat() if packed_on else "",
        "grade": "",
    }


def _of_bag(bag: Bag) -> Lot:
    return {
        "supplier": bag.delivery.supplier,
        "establishment": bag.delivery.establishment,
        "packed_on": bag.packed_on.isoformat(),
        "grade": bag.grade,
    }
