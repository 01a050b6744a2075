"""Shared tubs: started, chosen for a pile, closed."""

from uuid import UUID

from django.utils import timezone

from cutting.errors import BadValue
from cutting.quantities import Weight
from rooms.bench.actions.move import open_rows
from rooms.bench.actions.revision import touch
from rooms.bench.actions.tares import plain_name
from rooms.bench.models import CuttingTest, Output, Tub
from rooms.bench.queries.rows import TestRows, load_known
from rooms.catalog.models import Pile
from rooms.common.db.writing import Sent, kept_by, write
from rooms.common.errors import BadInput, Refused
from rooms.common.web.forms import tidy
from rooms.shop.queries.dates import said_moment

TAKES = (Pile.LEAN, Pile.FAT, Pile.SUET, Pile.BONE)
"""What goes into tubs."""


def start_tub(key: UUID, name: str, shows: tuple[str, str], pile: str, by_id: int | None) -> Tub:
    """A tub as it stands on the scale now. `shows`: value and unit, 0 with its tare taken off.

    The same key again gives the tub it already started.
    """
    name = plain_name(name, "Name")
    if pile not in TAKES:
        raise BadInput("Kind: lean trim, fat, suet or bone go into a tub.")
    try:
        start = Weight.of(tidy(shows[0]), shows[1])
    except BadValue as bad:
        raise BadInput(f"Weight: {bad}") from bad
    if start.value < 0:
        raise BadInput(f"Weight: {start} is below zero; press zero, then start the tub.")
    values = {"name": name, "pile": pile, "start": start.value, "unit": start.unit.value}
    sent = Sent(key, "start shared tub", f"tub {name}", values)
    with write(key=sent, recorded=kept_by(Tub, key, *values, by="pk")) as door:
        return door.first or Tub.objects.create(
            pk=key,
            name=name,
            pile=pile,
            start=start.value,
            unit=start.unit.value,
            started_at=timezone.now(),
            started_by_id=by_id,
        )


def choose_tub(test_id: UUID, pile: str, tub_id: str, by_id: int | None) -> TestRows:
    """From now on this pile goes into that tub; empty: into a tub of its own again."""
    with write():
        rows = open_rows(test_id, "the tub was not chosen")
        output = next((o for o in rows.piles if str(o.pk) == pile), None)
        if output is None:
            raise BadInput("Tub: choose one of the piles shown.")
        tub = _open_tub(tub_id) if tub_id else None
        if tub is not None and tub.pile != output.pile:
            raise BadInput(
                f"Tub: {tub} takes {tub.get_pile_display()}, {output} is"
                f" {output.get_pile_display()}."
            )
        if output.tub_id != (tub.pk if tub else None):
            Output.objects.filter(pk=output.pk).update(tub=tub)
            touch(rows.test)
    return load_known(test_id)


def close_tub(tub_id: UUID) -> Tub:
    """Nothing more goes in. Closing it twice changes nothing."""
    with write():
        tub = Tub.objects.filter(pk=tub_id).first()
        if tub is None:
            raise BadInput("Tub: there is no such tub.")
        if tub.closed_at is None:
            tub.closed_at = timezone.now()
            tub.save(update_fields=["closed_at"])
            for test in CuttingTest.objects.open().filter(outputs__tub=tub).distinct():
                touch(test)
            Output.objects.filter(tub=tub, test__finished_at=None).update(tub=None)
    return tub


def _open_tub(tub_id: str) -> Tub:
    try:
        tub = Tub.objects.filter(pk=UUID(tub_id)).first()
    except ValueError:
        tub = None
    if tub is None:
        raise BadInput("Tub: choose one of the tubs shown.")
    if tub.closed_at is not None:
        when = said_moment(tub.closed_at, whole=True)
        raise Refused(f"Tub {tub} was closed on {when}; start another.")
    return tub
