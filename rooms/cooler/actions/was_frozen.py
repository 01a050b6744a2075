"""Signs of freezing, seen when a bag is opened: it is kept on the bag."""

from collections.abc import Sequence
from typing import Any
from uuid import UUID

from rooms.cooler.actions.event import note_event
from rooms.cooler.actions.pass_on import pass_on
from rooms.cooler.models import Bag


def was_frozen(ids: Sequence[UUID], by_id: int | None, at: Any = None) -> None:
    """Mark these bags as frozen once; those that are marked already stay as they are."""
    for bag in Bag.objects.filter(pk__in=ids, was_frozen=False).select_related("piece"):
        bag.was_frozen = True
        bag.save(update_fields=["was_frozen"])
        note_event(bag, "frozen", "signs of freezing, seen at opening", by_id, at)
        pass_on(bag, by_id)
