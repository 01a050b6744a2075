"""The country of a bag that carried none."""

from uuid import UUID

from rooms.common.errors import BadInput
from rooms.common.writing import write
from rooms.cooler.actions.event import note_event
from rooms.cooler.models import Bag
from rooms.cooler.rules.codes import country_named
from rooms.cooler.rules.one_bag import known_bag


def set_origin(bag_id: UUID, country: str, by_id: int | None) -> Bag:
    """The country of origin of a bag that came without one, or with the wrong one."""
    country = country_named(country)
    if not 0 < len(country) <= 60:
        raise BadInput("Country of origin: its name is right, at most 60 letters.")
    with write():
        bag = known_bag(bag_id)
        if bag.country != country:
            bag.country = country
            bag.save(update_fields=["country"])
            note_event(bag, "origin", f"country of origin {country}", by_id)
    return bag
