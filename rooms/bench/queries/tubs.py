"""Shared tubs: each test's share, the lots, and the ledger itself. The grinder reads the same."""

from collections import defaultdict
from dataclasses import dataclass
from typing import Any

from django.db.models import F

from cutting.sheet.tub import InTub, in_tub
from rooms.bench.models import UNIT, CuttingTest, Tub, TubEntry

SHOWN = 20
WORDS = {
    "filled": "weighed in",
    "back": "taken back",
    "out": "moved out",
    "in": "moved in",
    "corrected": "corrected",
}


@dataclass(frozen=True)
class TubView:
    """A tub, what is in it by test, and its ledger, the last entry first."""

    tub: Tub
    inside: InTub
    tests: dict[object, CuttingTest]
    ledger: list[tuple[TubEntry, str]]

    @property
    def gross(self) -> Any:
        return self.inside.gross

    @property
    def shares(self) -> Any:
        return [(self.tests[share.source], share) for share in self.inside.shares]


def tub_views() -> list[TubView]:
    """Open tubs first, then the last closed ones: two queries."""
    tubs = Tub.objects.order_by(F("closed_at").desc(nulls_first=True), "-started_at")
    rows = list(tubs[:SHOWN])
    entries: dict[object, list[TubEntry]] = defaultdict(list)
    if rows:
        found = TubEntry.objects.filter(tub__in=rows).select_related("test", "by", "weighing")
        for entry in found.order_by("tub", "number"):
            entries[entry.tub_id].append(entry)
    return [_view(tub, entries[tub.pk]) for tub in rows]


def _view(tub: Tub, entries: list[TubEntry]) -> TubView:
    inside = in_tub(tub.start, [entry.core for entry in entries], UNIT[tub.unit])
    tests = {entry.test_id: entry.test for entry in entries}
    return TubView(tub, inside, tests, [(entry, WORDS[entry.kind]) for entry in reversed(entries)])
