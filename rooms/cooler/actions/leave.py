"""A bag leaves the cooler without being cut."""

from datetime import datetime
from uuid import UUID

from django.utils import timezone

from rooms.common.db.writing import write
from rooms.common.errors import BadInput, Refused
from rooms.cooler.actions.event import note_event
from rooms.cooler.models import Bag
from rooms.cooler.queries.days import keep_days
from rooms.cooler.queries.held import refuse_held
from rooms.cooler.queries.one_bag import known_bag

LEAVING = {Bag.State.BACK: "sent back to the supplier", Bag.State.OUT: "thrown away"}


def leave(
    bag_id: UUID, state: str, reason: str, by_id: int | None, at: datetime | None = None
) -> Bag:
    """A bag is sent back or thrown away; it needs a reason."""
    if state not in LEAVING:
        raise BadInput(f"State: “{state}”; back or out is right.")
    reason = " ".join(reason.split())[:250]
    if not reason:
        raise BadInput("Reason: it is empty; write why the bag leaves.")
    with write():
        bag = known_bag(bag_id)
        goes_out(bag, state, at)
        note_event(bag, state, f"{LEAVING[Bag.State(state)]}: {reason}", by_id, at)
    return bag


def goes_out(bag: Bag, state: str, at: datetime | None) -> None:
    bag.state, bag.left_at = state, at or timezone.now()
    bag.save(update_fields=["state", "left_at"])


def open_for_grinding(bag_id: UUID, by_id: int | None) -> Bag:
    """A bag of bought trim leaves the cooler for a tub of the grinder, without a test.

    Raises Refused where it is not there any more, past its end, or held.
    """
    with write():
        bag = known_bag(bag_id)
        if bag.state != Bag.State.IN:
            raise Refused("This bag is not in the cooler any more; look at the page again.")
        refuse_held([bag.lot])
        if bag.ends_on is not None and bag.ends_on < timezone.localdate():
            raise Refused("This bag is past its end; decide about it first.")
        goes_out(bag, Bag.State.OPENED, None)
        note_event(bag, "ground", "poured into a tub of the grinder", by_id, None)
    return bag


def return_to_cooler(bag_id: UUID, why: str, by_id: int | None) -> None:
    """A bag that left by mistake is in the cooler again, with the days of what it lived through since."""
    with write():
        bag = Bag.objects.select_for_update().get(pk=bag_id)
        bag.state, bag.left_at = Bag.State.IN, None
        bag.save(update_fields=["state", "left_at"])
        keep_days(Bag.objects.filter(pk=bag_id))
        note_event(bag, "back", f"{why}; back in the cooler"[:300], by_id, None)
