"""A bag that is asked for by its key."""

from uuid import UUID

from rooms.common.errors import BadInput, Refused
from rooms.cooler.models import Bag
from rooms.shop.queries.dates import said_moment


def known_bag(bag_id: UUID, *, must_be_in: bool = True) -> Bag:
    bag = Bag.objects.select_related("piece", "delivery").filter(pk=bag_id).first()
    if bag is None:
        raise BadInput("Bag: it is not known; choose one of the cooler.")
    if must_be_in:
        stands_in_cooler(bag)
    return bag


def stands_in_cooler(bag: Bag) -> None:
    if bag.state != Bag.State.IN:
        when = said_moment(bag.left_at)
        raise Refused(f"This bag is {bag.get_state_display()} since {when}.")
