"""What is seen on a piece when it comes or is opened: damage, marbling by eye, claims that came
with it. Common practice, no published source; the score is the shop's own eye, not a grade.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from decimal import Decimal
from enum import StrEnum

from cutting.errors import BadValue
from cutting.quantities import round_half_up, working

LEAST_MARBLING, MOST_MARBLING = 1, 9


class Damage(StrEnum):
    SLAUGHTER = "slaughter"
    """Scars, a struck leg, bruises, torn skin."""
    GOUGED = "gouged"
    """The packer's knife went into the meat."""
    TAKEN = "taken"
    """A part is already taken: brisket, jowl, hock, tail of the piece."""


@dataclass(frozen=True, slots=True)
class Quality:
    """One bag or piece. `marbling` from 1, next to none, to 9; None when nobody looked."""

    damage: frozenset[Damage] = frozenset()
    marbling: int | None = None

    def __post_init__(self) -> None:
        score = self.marbling
        if score is not None and not LEAST_MARBLING <= score <= MOST_MARBLING:
            raise BadValue(
                "Marbling", str(score), f"a score from {LEAST_MARBLING} to {MOST_MARBLING} is right"
            )


@dataclass(frozen=True, slots=True)
class SupplierQuality:
    """What came from one supplier: bags, how many were damaged, how, marbling on the mean."""

    bags: int
    damaged: int
    each: dict[Damage, int]
    marbling: Decimal | None


def of_supplier(bags: Iterable[Quality]) -> SupplierQuality:
    """The sum over a supplier's bags; the mean over those somebody scored, to a tenth."""
    every = list(bags)
    scores = [one.marbling for one in every if one.marbling is not None]
    with working():
        mean = round_half_up(Decimal(sum(scores)) / len(scores), 1) if scores else None
    each = {kind: sum(kind in one.damage for one in every) for kind in Damage}
    return SupplierQuality(len(every), sum(bool(one.damage) for one in every), each, mean)
