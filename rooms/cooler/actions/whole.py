"""What a part of a bag, or a piece cut from it, has from that bag: all that travels with the meat."""

from typing import Any

from rooms.cooler.models import Bag
from rooms.cooler.queries.days import core_bags, set_days

CARRIED = ("lot", "grade", "country", "born", "raised", "slaughtered", "claims")
KEPT = (
    *CARRIED,
    "lot_key",
    "was_frozen",
    "use_by",
    "age_before",
    "old_enough_on",
    "best_from",
    "best_to",
    "ends_on",
    "lost_days",
)
"""The columns that may change with the bag it came from."""


def carry(whole: Bag, part: Bag) -> dict[str, tuple[Any, Any]]:
    """Give a bag what it has from the one it came from, with days of its own: not saved. Returns what was
    otherwise before, by name: what it was and what it is.

    It never outlives that bag: its end is the use-by. What was once seen to be frozen stays so.
    """
    wanted = {name: getattr(whole, name) for name in CARRIED}
    wanted["was_frozen"] = whole.was_frozen or part.was_frozen
    core = core_bags([whole]).get(whole.pk)
    wanted["use_by"] = core.ends_on if core else None
    wanted["age_before"] = max(whole.aged.on(part.packed_on), 0)
    moved = {
        name: (getattr(part, name), new)
        for name, new in wanted.items()
        if getattr(part, name) != new
    }
    for name, new in wanted.items():
        setattr(part, name, new)
    set_days([part])
    return moved
