"""What is seen on a bag: damage, marbling by eye, the claims that came with it."""

from collections.abc import Collection, Sequence
from datetime import datetime
from uuid import UUID

from cutting.cooler.quality import Damage
from rooms.common.db.writing import write
from rooms.common.errors import Refused
from rooms.cooler.actions.event import note_event
from rooms.cooler.actions.pass_on import pass_on
from rooms.cooler.models import Bag
from rooms.cooler.queries.one_bag import known_bag


def set_quality(
    bag_id: UUID,
    damage: Collection[str],
    marbling: int | None,
    claims: str,
    by_id: int | None,
    at: datetime | None = None,
) -> Bag:
    """What the bag looks like now. Saying the same twice changes nothing. Refused for other claims than those of
    the bag it came from."""
    with write():
        bag = known_bag(bag_id, must_be_in=False)
        if bag.whole_id is not None and claims != bag.claims:
            raise Refused(
                "Claims: this bag came from another one and has its claims. Correct that one; it goes on to this."
            )
        seen = [kind.value for kind in Damage if kind.value in damage]
        if (bag.damage, bag.marbling, bag.claims) != (seen, marbling, claims):
            bag.damage, bag.marbling, bag.claims = seen, marbling, claims
            bag.save(update_fields=["damage", "marbling", "claims"])
            said = ", ".join(bag.quality_words) or "no damage, not scored"
            note_event(bag, "quality", said[:300], by_id, at)
            pass_on(bag, by_id)
    return bag


def set_seen(
    ids: Sequence[UUID],
    damage: Collection[str],
    marbling: int | None,
    by_id: int | None,
    at: datetime | None = None,
) -> None:
    """What is seen as bags are opened is added to what stands on them: one query, and two for each
    bag that changes."""
    for bag in Bag.objects.filter(pk__in=ids):
        if set(damage) <= set(bag.damage) and marbling in (None, bag.marbling):
            continue
        score = bag.marbling if marbling is None else marbling
        set_quality(bag.pk, {*bag.damage, *damage}, score, bag.claims, by_id, at)
