"""Which pieces the shop buys."""

from collections.abc import Collection

from simple_history.utils import bulk_update_with_history

from rooms.catalog.models import Piece
from rooms.common.db.writing import write
from rooms.staff.models import Person


def set_bought(ticked: Collection[str], shown: Collection[str], by_id: int | None) -> int:
    """Take what was ticked and let go of what was unticked; how many changed.

    `shown`: keys that were ticked when the page was shown. Only what differs from it was touched
    here: what another tablet ticked meanwhile stays.
    """
    on, off = set(ticked) - set(shown), set(shown) - set(ticked)
    with write():
        rows = list(Piece.objects.filter(key__in=on | off))
        changed = [row for row in rows if row.is_bought != (row.key in on)]
        for row in changed:
            row.is_bought = row.key in on
        if changed:
            bulk_update_with_history(
                changed,
                Piece,
                ["is_bought"],
                manager=Piece.everything,
                default_user=Person.objects.filter(pk=by_id).first(),
                default_change_reason="bought or not",
            )
    return len(changed)
