"""What a test leaves open when it is finished: weight that nobody weighed, piles that stayed empty."""

from __future__ import annotations

from collections.abc import Hashable, Mapping
from dataclasses import dataclass
from decimal import Decimal

from cutting.quantities import ZERO, round_half_up, working
from cutting.sheet.cutting_test import CuttingTest, still_on_block

MOST_UNWEIGHED = Decimal("0.02")
"""Of the weight paid for: more is no rounding. Common practice, no published source."""
LEAST_EXPECTED = Decimal("0.01")
"""A pile that the plan expects so much of, as a share, is not left empty in silence. Common practice."""


@dataclass(frozen=True, slots=True)
class Open:
    """`unweighed`: in the piece's unit, to the hundredth, 0 where it is little; `empty`: the piles."""

    unweighed: Decimal
    empty: tuple[Hashable, ...]

    def __bool__(self) -> bool:
        return bool(self.unweighed or self.empty)


def left_open(
    test: CuttingTest, expected: Mapping[Hashable, Decimal | None], holding: frozenset[Hashable]
) -> Open:
    """Return what stands open. `expected`: the share that the plan gives each pile; `holding`: piles that
    something was weighed onto, or that somebody said there is none of."""
    left = still_on_block(test)
    with working():
        is_much = left > test.piece.weight.value * MOST_UNWEIGHED
    empty = tuple(
        pile
        for pile, share in expected.items()
        if share is not None and share >= LEAST_EXPECTED and pile not in holding
    )
    return Open(round_half_up(left) if is_much else ZERO, empty)
