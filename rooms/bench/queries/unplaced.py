"""Weighings that came when they could not go where they were sent, until somebody places them."""

from uuid import UUID

from rooms.bench.models import Unplaced


def waiting_of(test_id: UUID) -> list[Unplaced]:
    """Of one test, the oldest first: one query."""
    rows = Unplaced.objects.waiting().filter(test=test_id)
    return list(rows.select_related("output", "taken_by"))


def all_waiting() -> list[Unplaced]:
    """Of the shop: one query."""
    rows = Unplaced.objects.waiting().select_related("output", "taken_by", "test")
    return list(rows)


def history_of(test_id: UUID) -> list[Unplaced]:
    """Of one test, placed or not: one query."""
    rows = Unplaced.objects.filter(test=test_id)
    return list(rows.select_related("output", "taken_by", "placed__weighing__output", "placed__by"))
