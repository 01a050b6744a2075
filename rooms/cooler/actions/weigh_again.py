"""The shop weighs a bag itself."""

from uuid import UUID

from cutting.quantities import Weight
from rooms.common.db.writing import write
from rooms.cooler.actions.event import note_event
from rooms.cooler.models import Bag
from rooms.cooler.queries.one_bag import known_bag
from rooms.cooler.queries.one_delivery import claim_of


def weigh_again(bag_id: UUID, own: Weight, by_id: int | None) -> Bag:
    """The bag on the shop's own scale, unopened: the base of a short-weight claim."""
    with write():
        bag = known_bag(bag_id)
        bag.own_value, bag.own_unit = own.value, own.unit.value
        bag.save(update_fields=["own_value", "own_unit"])
        words = f"own scale says {own.value} {own.unit}"
        if (short := claim_of(bag)) is not None:
            words += f", {short.missing:.2f} short"
        note_event(bag, "weighed", words, by_id)
    return bag
