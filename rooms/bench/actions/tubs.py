"""Shared tubs: started, chosen for a pile, closed."""

from collections import defaultdict
from collections.abc import Iterable
from dataclasses import dataclass
from datetime import datetime
from decimal import Decimal
from uuid import UUID

from django.utils import timezone

from cutting.errors import BadValue
from cutting.quantities import Weight, storable
from cutting.sheet.tub import Kind, next_entry
from rooms.bench.actions.revision import touch, touch_others
from rooms.bench.actions.scales import plain_name
from rooms.bench.models import UNIT, CuttingTest, Move, Output, Tub, TubEntry, Weighing
from rooms.bench.queries.rows import TestRows, load_known, open_rows
from rooms.bench.queries.tub_entries import lots_of
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


@dataclass(frozen=True)
class Acting:
    """Who acts on which test, when."""

    test: CuttingTest
    by_id: int | None
    at: datetime


def fill(acting: Acting, tub: Tub, weighing: Weighing, shown: Decimal | None = None) -> TubEntry:
    """A weighing goes in. `shown`: what the scale showed with the tub; None for a typed one."""
    _must_be_open(tub)
    change = storable(weighing.reading.weight, UNIT[tub.unit]).value
    return _enter(acting, tub, Kind.FILLED, weighing, change, shown=shown)


def take_out(acting: Acting, weighing: Weighing) -> None:
    """A weighing is taken back: what it is worth leaves the tub it lies in."""
    for tub, held in held_by([weighing]).get(first_of(weighing), ()):
        _enter(acting, tub, Kind.TAKEN_BACK, weighing, -held)


def put_right(acting: Acting, weighing: Weighing, now: Weight | None) -> None:
    """A correction changes what a weighing is worth; None leaves it out."""
    for tub, held in held_by([weighing]).get(first_of(weighing), ()):
        right = Decimal(0) if now is None else storable(now, UNIT[tub.unit]).value
        if right != held:
            _enter(acting, tub, Kind.CORRECTED, weighing, right - held)


def add_missed(acting: Acting, tub: Tub, weighing: Weighing) -> None:
    """A weight that was missed is charged to its test."""
    _must_be_open(tub)
    change = storable(weighing.reading.weight, UNIT[tub.unit]).value
    _enter(acting, tub, Kind.CORRECTED, weighing, change)


def _must_be_open(tub: Tub) -> None:
    """Raises Refused for a tub that was closed: what was ground of it is on record."""
    if tub.closed_at is not None:
        raise Refused(f"Tub {tub} was closed; nothing more goes in.")


def carry(acting: Acting, moves: Iterable[Move], to: Output) -> None:
    """Moved weighings leave the tub they lie in, and go into the tub of their new pile.

    A move that undoes a merge puts its weighing back into the tub that the merge took it from.
    """
    moves = list(moves)
    held = held_by([move.weighing for move in moves])
    before = _left_by([move.undoes_id for move in moves if move.undoes_id])
    for move in moves:
        came_from = before.get(move.undoes_id) if move.undoes_id else None
        into = came_from or (to.tub if to.tub_id else None)
        for tub, weight in held.get(first_of(move.weighing), ()):
            if into is not None and tub.pk == into.pk:
                into = None
                continue
            _enter(acting, tub, Kind.MOVED_OUT, move.weighing, -weight, move=move)
        if into is not None:
            change = storable(move.weighing.reading.weight, UNIT[into.unit]).value
            _enter(acting, into, Kind.MOVED_IN, move.weighing, change, move=move)


def first_of(weighing: Weighing) -> int:
    """The weighing that the ledger knows: the first, where corrections took its place."""
    at = weighing
    while at.instead_of_id is not None:
        at = at.instead_of
    return at.pk


def held_by(weighings: Iterable[Weighing]) -> dict[int, list[tuple[Tub, Decimal]]]:
    """By the id of each first weighing: the tubs that hold something of it, and how much."""
    held: dict[tuple[int, object], Decimal] = defaultdict(Decimal)
    tubs: dict[object, Tub] = {}
    firsts = {first_of(weighing) for weighing in weighings}
    for entry in TubEntry.objects.filter(weighing__in=firsts).select_related("tub"):
        tubs[entry.tub_id] = entry.tub
        held[entry.weighing_id, entry.tub_id] += entry.change
    found: dict[int, list[tuple[Tub, Decimal]]] = defaultdict(list)
    for (first, tub), weight in held.items():
        if weight:
            found[first].append((tubs[tub], weight))
    return found


def _left_by(moves: list[int]) -> dict[int, Tub]:
    out = TubEntry.objects.filter(move__in=moves, kind=Kind.MOVED_OUT).select_related("tub")
    return {entry.move_id: entry.tub for entry in out} if moves else {}


def _enter(
    acting: Acting,
    tub: Tub,
    kind: Kind,
    weighing: Weighing,
    change: Decimal,
    *,
    shown: Decimal | None = None,
    move: Move | None = None,
) -> TubEntry:
    rows = tub.entries.order_by("number")
    known = list(rows.reverse()[:1] if kind is Kind.FILLED else rows)
    lots = lots_of([acting.test])[acting.test.pk] if kind in (Kind.FILLED, Kind.MOVED_IN) else ()
    entry = next_entry(
        tub.start,
        [row.core for row in known],
        kind,
        source=acting.test.pk,
        weighing=first_of(weighing),
        change=change,
        lots=lots,
        shown=shown,
    )
    written = TubEntry.objects.create(
        tub=tub,
        number=known[-1].number + 1 if known else 1,
        kind=kind.value,
        test=acting.test,
        weighing_id=entry.weighing,
        change=entry.change,
        before=entry.before,
        gross=entry.gross,
        is_seen=entry.is_seen,
        lots=list(entry.lots),
        move=move,
        at=acting.at,
        by_id=acting.by_id,
    )
    touch_others(tub, acting.test)
    return written
