"""Trays of a lot that is held."""

from collections.abc import Iterable
from uuid import UUID

from rooms.cooler.models import LotHold
from rooms.cooler.rules.held import held_among, holds_now, refuse_held
from rooms.grinder.rules.lots import lots_of_batch
from rooms.grinder.rules.sources import lots_of_test
from rooms.trays.models import Tray


def lots_of(tray: Tray) -> list[str]:
    """As its label was made, and as is known of its batch or test by now: eight queries at most."""
    found = list(tray.lots)
    if tray.from_batch is not None:
        found += lots_of_batch(tray.from_batch)
    if tray.from_test is not None:
        found += lots_of_test(tray.from_test)
    return list(dict.fromkeys(lot.get("lot", "") for lot in found if lot.get("lot")))


def refuse_held_tray(tray: Tray) -> None:
    """One query while nothing is held. Raises Refused."""
    holds = holds_now()
    if holds:
        refuse_held(lots_of(tray), holds)


def hold_on(tray: Tray) -> LotHold | None:
    """The hold that its meat is under: one query while nothing is held."""
    holds = holds_now()
    return held_among(lots_of(tray), holds) if holds else None


def held_trays(trays: Iterable[Tray]) -> set[UUID]:
    """Those of them that may not be sold: one query while nothing is held."""
    holds = holds_now()
    return {one.pk for one in trays if held_among(lots_of(one), holds)} if holds else set()
