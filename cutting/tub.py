"""A tub that takes the trim of several tests, each by the difference it made."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from decimal import Decimal

from cutting.quantities import ZERO, Unit, Weight, working


@dataclass(frozen=True, slots=True)
class Added:
    """What one weighing added: whose it is, from which lots."""

    source: object
    weight: Weight
    lots: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class Share:
    source: object
    weight: Decimal
    share: Decimal
    lots: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class InTub:
    """What is in the tub, in `unit`; the shares sum to 1 unless it is empty."""

    unit: Unit
    weight: Decimal
    shares: tuple[Share, ...]
    lots: tuple[str, ...]


def in_tub(added: Sequence[Added], unit: Unit) -> InTub:
    """Sources in the order of their first weighing, each once."""
    weights: dict[object, Decimal] = {}
    lots: dict[object, dict[str, None]] = {}
    with working():
        for one in added:
            weights[one.source] = weights.get(one.source, ZERO) + one.weight.to(unit)
            lots.setdefault(one.source, {}).update(dict.fromkeys(filter(None, one.lots)))
        total = sum(weights.values(), ZERO)
        shares = tuple(
            Share(source, weight, weight / total if total else ZERO, tuple(lots[source]))
            for source, weight in weights.items()
        )
    every = dict.fromkeys(lot for share in shares for lot in share.lots)
    return InTub(unit, total, shares, tuple(every))
