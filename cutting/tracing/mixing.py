"""What lies in a tub together leaves it together: each thing that went in has its share of each that comes out.

Meat in a tub is not layered; by the weight that is left of each. Common practice, no published source.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from decimal import Decimal
from typing import Any

from cutting.quantities import ZERO, working


@dataclass(frozen=True, slots=True)
class Move:
    """Something went into the tub, or came out of it."""

    key: Any
    weight: Decimal
    is_out: bool = False


@dataclass(frozen=True, slots=True)
class Mixed:
    """`parts`: what comes out, by what had gone in before it. `left`: what is left of each.

    Something that had gone in before counts with 0 where nothing was left of it: it lay in the same tub.
    """

    parts: dict[Any, dict[Any, Decimal]] = field(default_factory=dict)
    left: dict[Any, Decimal] = field(default_factory=dict)


def mixed(moves: Sequence[Move]) -> Mixed:
    """The moves in their order, weights in one unit. The parts of what comes out sum to its weight (to 30
    digits), or to what was in the tub where that is less."""
    found = Mixed()
    with working():
        for move in moves:
            if not move.is_out:
                found.left[move.key] = found.left.get(move.key, ZERO) + move.weight
                continue
            parts = _taken(found.left, move.weight)
            found.parts[move.key] = parts
            for key, part in parts.items():
                found.left[key] = max(found.left[key] - part, ZERO)
    return found


def _taken(left: dict[Any, Decimal], weight: Decimal) -> dict[Any, Decimal]:
    """Of each its share."""
    inside = sum(left.values(), ZERO)
    taken = min(weight, inside)
    if taken == inside:
        return dict(left)
    return {key: taken * own / inside for key, own in left.items()}
