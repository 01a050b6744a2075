"""A tub that takes the trim of several tests: a ledger whose entries foot with its gross weight.

All weights are in the tub's own unit; converted ones come through `quantities.storable`.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from decimal import Decimal
from enum import StrEnum

from cutting.errors import BadValue
from cutting.quantities import ZERO, Unit, working


class Kind(StrEnum):
    """What an entry of the ledger records."""

    FILLED = "filled"
    """A weighing went in: shown by the scale, or typed."""
    TAKEN_BACK = "back"
    """A weighing was taken back while its test was on the block."""
    MOVED_OUT = "out"
    MOVED_IN = "in"
    CORRECTED = "corrected"
    """What a weighing was worth was put right on the finished sheet."""


@dataclass(frozen=True, slots=True)
class Entry:
    """One line of the ledger.

    `change`: what it added to (below 0: took from) the share of `source`, a test. `before` and
    `gross`: what the scale shows with the tub, before and after. `is_seen`: the scale itself
    showed `gross`. `weighing` says which weighing it is about.
    """

    kind: Kind
    source: object
    weighing: object
    change: Decimal
    before: Decimal
    gross: Decimal
    is_seen: bool = False
    lots: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class Share:
    source: object
    weight: Decimal
    share: Decimal
    lots: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class InTub:
    """What is in the tub, in `unit`; the shares sum to 1 unless it is empty.

    `weight` (what the tests put in) + `nobodys` + the empty tub = `gross`. `nobodys` is what lies
    in the tub by the scale but belongs to no test any more: a correction changes what a test is
    charged with, never what the scale showed.
    """

    unit: Unit
    start: Decimal
    gross: Decimal
    weight: Decimal
    nobodys: Decimal
    shares: tuple[Share, ...]
    lots: tuple[str, ...]


def gross_of(start: Decimal, entries: Sequence[Entry]) -> Decimal:
    """What the scale shows with the tub on it now."""
    return entries[-1].gross if entries else start


def next_entry(
    start: Decimal,
    entries: Sequence[Entry],
    kind: Kind,
    *,
    source: object,
    weighing: object,
    change: Decimal,
    lots: tuple[str, ...] = (),
    shown: Decimal | None = None,
) -> Entry:
    """The entry that a change of `change` makes after `entries`.

    `shown`: what the scale showed then, for a weighing by the scale. Anything else moves the
    gross weight by its change only while the scale cannot know better: a weighing that is moved
    or taken back takes its weight along unless the scale has seen the tub since; a correction
    does so only for a typed weight, since what the scale showed was shown. Common practice, no
    published source.
    """
    stands = gross_of(start, entries)
    if shown is not None:
        gross = shown
    else:
        with working():
            gross = stands + change if _takes_along(entries, kind, weighing) else stands
    return Entry(kind, source, weighing, change, stands, gross, shown is not None, lots)


def _takes_along(entries: Sequence[Entry], kind: Kind, weighing: object) -> bool:
    if kind in (Kind.FILLED, Kind.MOVED_IN):
        return True
    came = [
        i
        for i, entry in enumerate(entries)
        if entry.weighing == weighing and entry.kind in (Kind.FILLED, Kind.MOVED_IN)
    ]
    since = entries[came[-1] + 1 :] if came else entries
    if any(entry.is_seen for entry in since):
        return False
    return kind is not Kind.CORRECTED or not came or not entries[came[-1]].is_seen


def in_tub(start: Decimal, entries: Sequence[Entry], unit: Unit) -> InTub:
    """Sources in the order of their first weighing, each once; those with nothing left are out.

    Raises BadValue when an entry does not begin where the one before it ended.
    """
    weights: dict[object, Decimal] = {}
    lots: dict[object, dict[str, None]] = {}
    stands = start
    with working():
        for entry in entries:
            if entry.before != stands:
                raise BadValue("tub", f"an entry begins at {entry.before}", f"{stands} is right")
            stands = entry.gross
            weights[entry.source] = weights.get(entry.source, ZERO) + entry.change
            lots.setdefault(entry.source, {}).update(dict.fromkeys(filter(None, entry.lots)))
        weights = {source: weight for source, weight in weights.items() if weight}
        total = sum(weights.values(), ZERO)
        shares = tuple(
            Share(source, weight, weight / total if total else ZERO, tuple(lots[source]))
            for source, weight in weights.items()
        )
        every = dict.fromkeys(lot for share in shares for lot in share.lots)
        nobodys = stands - start - total
    return InTub(unit, start, stands, total, nobodys, shares, tuple(every))
