"""Shared tubs with each test's share and the lots in them. The grinder will read the same."""

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass
from decimal import Decimal

from django.db.models import F

from cutting.quantities import Weight
from cutting.tub import Added, InTub, in_tub
from rooms.bench.models import UNIT, CuttingTest, TestBag, Tub, Weighing

SHOWN = 20


@dataclass(frozen=True)
class TubView:
    """A tub, what the scale shows with it now, and what is in it by test."""

    tub: Tub
    gross: Decimal
    inside: InTub
    tests: dict[object, CuttingTest]

    @property
    def shares(self):
        return [(self.tests[share.source], share) for share in self.inside.shares]


def tub_views() -> list[TubView]:
    """Open tubs first, then the last closed ones: three queries."""
    tubs = Tub.objects.order_by(F("closed_at").desc(nulls_first=True), "-started_at")
    rows = list(tubs[:SHOWN])
    added: dict[object, list[Weighing]] = defaultdict(list)
    if rows:
        standing = Weighing.objects.filter(tub__in=rows, taken_back=None).select_related("test")
        for weighing in standing.order_by("id"):
            added[weighing.tub_id].append(weighing)
    lots = lots_of({w.test for some in added.values() for w in some})
    return [_view(tub, added[tub.pk], lots) for tub in rows]


def lots_of(tests: Sequence[CuttingTest] | set[CuttingTest]) -> dict[object, tuple[str, ...]]:
    """The lots of each test: of its bags where they came from the cooler, else as typed. One
    query."""
    found: dict[object, dict[str, None]] = {test.pk: {} for test in tests}
    for row in TestBag.objects.filter(test__in=tests).select_related("bag") if tests else ():
        found[row.test_id][row.bag.lot] = None
    return {
        test.pk: tuple(lot for lot in (found[test.pk] or {test.lot: None}) if lot) for test in tests
    }


def _view(tub: Tub, weighings: list[Weighing], lots: dict[object, tuple[str, ...]]) -> TubView:
    inside = in_tub(
        [Added(w.test_id, Weight(w.value, UNIT[w.unit]), lots[w.test_id]) for w in weighings],
        UNIT[tub.unit],
    )
    gross = weighings[-1].gross if weighings and weighings[-1].gross is not None else tub.start
    return TubView(tub, gross, inside, {w.test_id: w.test for w in weighings})
