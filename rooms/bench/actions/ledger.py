"""Writing a tub's ledger: what every weighing, move, take-back and correction does to its tub."""

from collections import defaultdict
from collections.abc import Iterable
from dataclasses import dataclass
from datetime import datetime
from decimal import Decimal

from cutting.quantities import Weight, storable
from cutting.sheet.tub import Kind, next_entry
from rooms.bench.actions.revision import touch_others
from rooms.bench.models import UNIT, CuttingTest, Move, Output, Tub, TubEntry, Weighing
from rooms.bench.queries.tub_entries import lots_of
from rooms.common.errors import Refused


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
