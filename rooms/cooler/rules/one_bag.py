"""A bag that is asked for by its key."""

from uuid import UUID

from django.utils import timezone

from rooms.common.errors import BadInput, Refused
from rooms.cooler.models import Bag


def known_bag(bag_id: UUID, *, must_be_in: bool = True) -> Bag:
    bag = Bag.objects.select_related("piece", "delivery").filter(pk=bag_id).first()
    if bag is None:
        raise BadInput("Bag: it is not known; choose one of the cooler.")
    if must_be_in:
        stands_in_cooler(bag)
    return bag


def stands_in_cooler(bag: Bag) -> None:
    if bag.state != Bag.State.IN:
        when = timezone.localtime(bag.left_at)
        raise Refused(f"This bag is {bag.get_state_display()} since {when:%d %b %H:%M}.")
