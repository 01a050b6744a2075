"""Bags are opened for a test."""

from datetime import datetime
from typing import Any

from django.utils import timezone

from rooms.common.errors import BadInput, Refused
from rooms.cooler.models import Bag, BagEvent
from rooms.cooler.queries.held import refuse_held
from rooms.cooler.queries.one_bag import stands_in_cooler


def take_out(
    bag_ids: list[Any], words: str, by_id: int | None, at: datetime | None = None
) -> list[Bag]:
    """Bags are opened for a test. All or none; a bag that is out already is refused.

    Four queries for any number of them. Raises Refused for a lot that is held.
    """
    found = Bag.objects.select_for_update(of=("self",)).select_related("piece", "delivery")
    found = found.in_bulk(bag_ids)
    if len(found) < len(set(bag_ids)):
        raise BadInput("Bag: it is not known; choose one of the cooler.")
    bags, when = [found[bag_id] for bag_id in bag_ids], at or timezone.now()
    refuse_held(bag.lot for bag in bags)
    for bag in bags:
        stands_in_cooler(bag)
        if bag.piece_id is None:
            raise Refused(f"Product code {bag.gtin} is not named yet; say what piece it is.")
        bag.state, bag.left_at = Bag.State.OPENED, when
    Bag.objects.bulk_update(bags, ["state", "left_at"])
    BagEvent.objects.bulk_create(
        BagEvent(bag=bag, kind="opened", words=words, at=when, by_id=by_id) for bag in bags
    )
    return bags
