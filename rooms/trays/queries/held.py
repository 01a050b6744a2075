"""Trays of a lot that is held: by what they are of, and by what their label was made of."""

from collections.abc import Iterable
from uuid import UUID

from cutting.tracing.lots import lot_key
from rooms.cooler.models import LotHold
from rooms.cooler.queries.held import holds_now, refuse_held
from rooms.trays.models import Tray
from rooms.trays.queries.lot_graph import Start, backwards, forwards


def _recorded(tray: Tray) -> set[str]:
    """Keys of the lots that its label was made of."""
    return {lot_key(lot["lot"]) for lot in tray.lots if lot.get("lot")}


def hold_on(tray: Tray) -> LotHold | None:
    """The hold that its meat is under: one query while nothing is held, else twelve at most."""
    holds = holds_now()
    if not holds:
        return None
    keys = _recorded(tray) | backwards(Start(tray=tray.pk)).lots
    return next((hold for key, hold in holds.items() if key in keys), None)


def refuse_held_tray(tray: Tray) -> None:
    """Raises Refused for a tray whose meat is held."""
    hold = hold_on(tray)
    if hold is not None:
        refuse_held([hold.lot], {hold.lot_key: hold})


def held_trays(trays: Iterable[Tray]) -> set[UUID]:
    """Those of them that may not be sold: one query while nothing is held, else six a hold."""
    rows = {one.pk: one for one in trays}
    found: set[UUID] = set()
    for key in holds_now() if rows else ():
        found |= {pk for pk, one in rows.items() if key in _recorded(one)}
        reached = forwards(Start(lot=key)).all_trays().filter(pk__in=rows)
        found |= set(reached.values_list("pk", flat=True))
    return found
