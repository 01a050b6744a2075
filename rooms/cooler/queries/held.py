"""Lots that are held: whoever opens, grinds, packs or labels asks here first."""

from collections.abc import Iterable

from cutting.tracing.lots import lot_key
from rooms.common.errors import Refused
from rooms.cooler.models import LotHold
from rooms.shop.queries.dates import said_moment


def holds_now() -> dict[str, LotHold]:
    """The holds that stand, by the key of their lot: one query."""
    return {one.lot_key: one for one in LotHold.objects.standing().order_by("id")}


def held_among(lots: Iterable[str], holds: dict[str, LotHold]) -> LotHold | None:
    """The first of these lots that is held, however it is written."""
    keys = (lot_key(lot) for lot in lots)
    return next((holds[key] for key in keys if key and key in holds), None)


def refuse_held(lots: Iterable[str], holds: dict[str, LotHold] | None = None) -> None:
    """One query, none where the holds are known. Raises Refused for a lot that is held."""
    found = held_among(lots, holds_now() if holds is None else holds)
    if found is not None:
        raise Refused(
            f"Lot {found.lot} is held since {said_moment(found.at)} ({found.reason}): nothing of it is"
            " opened, ground, packed, labeled or sold. Keep it apart."
        )
