"""What two tablets must agree on: how far the test is, and whose the scale is."""

from collections.abc import Sequence
from dataclasses import dataclass
from uuid import UUID

from django.db.models import OuterRef, Subquery

from rooms.bench.models import CuttingTest, Hold, Weighing


@dataclass(frozen=True)
class Holder:
    """The test that has the scale."""

    test_id: UUID
    number: int
    piece: str
    cutter: str

    @property
    def words(self) -> str:
        piece = self.piece.split(",")[0]
        return f"test {self.number}, {piece}{f' ({self.cutter})' if self.cutter else ''}"


def revision_of(test_id: UUID) -> int | None:
    """How far an open test is, without loading it; None when it is finished. One query."""
    open_ones = CuttingTest.objects.open().filter(pk=test_id)
    return open_ones.values_list("revision", flat=True).first()


def open_tests(scale: str) -> list[CuttingTest]:
    """Open tests by number, for the switch at the head of the bench and for `holder`: one query.

    Each with `held` (its last taking of the scale) and `weighed` (its last weighing).
    """
    held = Hold.objects.filter(test=OuterRef("pk"), scale=scale).order_by("-pk")
    weighed = Weighing.objects.filter(test=OuterRef("pk")).order_by("-pk")
    rows = CuttingTest.objects.open().select_related("cutter").order_by("number")
    return list(
        rows.annotate(
            held=Subquery(held.values("pk")[:1]), weighed=Subquery(weighed.values("pk")[:1])
        )
    )


def holder(tests: Sequence[CuttingTest]) -> Holder | None:
    """The open test that took the scale last; else the one weighed last; else the newest.

    None when nothing is open.
    """
    first = max(tests, default=None, key=lambda one: (one.held or 0, one.weighed or 0, one.number))
    return first and Holder(first.pk, first.number, first.piece_name, str(first.cutter or ""))


def holder_of(scale: str) -> Holder | None:
    """One query."""
    return holder(open_tests(scale))
