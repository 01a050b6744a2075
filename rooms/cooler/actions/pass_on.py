"""What was put right on a bag goes on to its parts and to the pieces that were cut from it."""

from rooms.cooler.actions.event import note_event
from rooms.cooler.actions.whole import KEPT, carry
from rooms.cooler.models import Bag

WORDS = {
    "lot": "lot",
    "grade": "grade",
    "country": "country of origin",
    "born": "born in",
    "raised": "raised in",
    "slaughtered": "slaughtered in",
    "claims": "claims",
    "was_frozen": "signs of freezing",
    "use_by": "use by",
    "age_before": "days of age when it was packed",
}


def pass_on(whole: Bag, by_id: int | None) -> None:
    """Give every part and piece of a bag, to any depth, what it has from it. One query for a bag without any.

    Called inside the transaction of the action that changed the bag.
    """
    own = Bag.objects.filter(part_of=whole) | Bag.objects.filter(cut_of=whole)
    for part in own.exclude(state=Bag.State.UNDONE).select_related("piece"):
        moved = carry(whole, part)
        if not moved:
            continue
        part.save(update_fields=KEPT)
        said = "; ".join(
            f"{WORDS[name]} {_said(new)}, was {_said(was)}" for name, (was, new) in moved.items()
        )
        note_event(part, "corrected", f"as the bag it came from: {said}"[:300], by_id)
        pass_on(part, by_id)


def _said(value: object) -> str:
    if isinstance(value, bool):
        return "yes" if value else "no"
    return "–" if value in ("", None) else str(value)
