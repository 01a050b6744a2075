"""A piece that was cut here and lies open is sealed: from then on it ages."""

from uuid import UUID

from django.utils import timezone

from rooms.common.db.writing import write
from rooms.common.errors import Refused
from rooms.cooler.actions.event import note_event
from rooms.cooler.models import Bag
from rooms.cooler.queries.days import keep_days
from rooms.cooler.queries.one_bag import known_bag


def seal_again(bag_id: UUID, *, is_sealed: bool, by_id: int | None) -> Bag:
    """Record that an open piece was sealed today, or that it was not sealed after all. Saying the same twice
    changes nothing.

    The days it lay open add nothing to its age, and its clock still counts from the day it was cut. Raises
    Refused for a bag that was not cut here, and for one that left the cooler.
    """
    with write():
        bag = known_bag(bag_id)
        if bag.cut_of_id is None:
            raise Refused("Seal: this bag came sealed; only a piece cut here is sealed again.")
        if bag.is_unsealed != is_sealed:
            return bag
        today = timezone.localdate()
        bag.is_unsealed = not is_sealed
        bag.sealed_on = today if is_sealed and today != bag.packed_on else None
        bag.save(update_fields=["is_unsealed", "sealed_on"])
        keep_days(Bag.objects.filter(pk=bag.pk))
        words = "sealed again" if is_sealed else "not sealed after all"
        note_event(bag, "sealed", words, by_id)
    return bag
