"""One piece cut by two plans: the first part by one, the rest by another. Shares of the weight
paid for follow the split.
"""

from __future__ import annotations

from collections.abc import Hashable, Sequence
from dataclasses import dataclass
from decimal import Decimal

from cutting.errors import BadValue
from cutting.quantities import HUNDRED, ONE, ZERO, working


def check_split(split: Decimal) -> Decimal:
    """Raises BadValue for a split that leaves nothing to one of the plans, or is beyond the
    piece. `split`: the share of the piece that is cut by the first plan."""
    if not 0 < split < 1:
        raise BadValue("First part", f"{split * HUNDRED:f} %", "more than 0 and less than 100 %")
    return split


def share_at(split: Decimal, one: Decimal | None, rest: Decimal | None) -> Decimal | None:
    """What an output is expected to come to. None where a plan that gives it names no share."""
    if one is None or rest is None:
        return None
    with working():
        return split * one + (ONE - split) * rest


@dataclass(frozen=True, slots=True)
class OfBoth:
    """An output of the two plans together: its share by each, 0 where a plan has it not."""

    key: Hashable
    one: Decimal | None
    rest: Decimal | None


def both(
    first: Sequence[tuple[Hashable, Decimal | None]],
    rest: Sequence[tuple[Hashable, Decimal | None]],
) -> list[OfBoth]:
    """Outputs of both plans, each once, those of the first in their order and the others after.

    `first`, `rest`: key and share of each output of a plan; the same key is the same pile.
    """
    of_first, of_rest = dict(first), dict(rest)
    keys = [*of_first, *(key for key in of_rest if key not in of_first)]
    return [OfBoth(key, of_first.get(key, ZERO), of_rest.get(key, ZERO)) for key in keys]
