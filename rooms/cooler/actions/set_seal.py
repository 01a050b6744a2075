"""What the seal of a bag looks like."""

from datetime import datetime
from uuid import UUID

from rooms.common.db.writing import write
from rooms.common.errors import BadInput, Refused
from rooms.cooler.actions.event import note_event
from rooms.cooler.models import Bag, Seal
from rooms.cooler.queries.one_bag import known_bag


def set_seal(bag_id: UUID, seal: str, by_id: int | None, at: datetime | None = None) -> Bag:
    """What the seal looks like now. Saying the same twice changes nothing."""
    if seal not in Seal.values:
        raise BadInput(f"Seal: “{seal}”; {', '.join(Seal.values)} are right.")
    with write():
        bag = known_bag(bag_id)
        if bag.is_unsealed:
            raise Refused("Seal: this piece is not sealed; record first that it was sealed again.")
        if bag.seal != seal:
            bag.seal = seal
            bag.save(update_fields=["seal"])
            note_event(bag, "seal", f"seal {seal}", by_id, at)
    return bag
