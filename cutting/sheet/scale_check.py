"""The daily check of a scale with test weights, against the Class III maintenance tolerance."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from decimal import Decimal

from cutting.errors import BadValue
from cutting.quantities import Weight, class_iii_tolerance, working


@dataclass(frozen=True, slots=True)
class Tried:
    """One test weight and what the scale showed, both in the division's unit or convertible."""

    load: Weight
    shown: Weight
    division: Weight

    def __post_init__(self) -> None:
        if self.load.value < 0:
            raise BadValue("load", f"a test weight of {self.load}", "0 or more is right")
        if self.division.value <= 0:
            raise BadValue("division", f"a division of {self.division}", "more than 0 is right")


@dataclass(frozen=True, slots=True)
class Judged:
    """`off` and `tolerance` in the division's unit; `off` below 0 when too little is shown."""

    tried: Tried
    off: Decimal
    tolerance: Decimal

    @property
    def holds(self) -> bool:
        return abs(self.off) <= self.tolerance


def judge(tried: Sequence[Tried]) -> list[Judged]:
    """Each test weight against the tolerance at its load; zero counts as a load of 0.

    NIST Handbook 44, section 2.20, Table 6, maintenance tolerance.
    """
    judged = []
    with working():
        for one in tried:
            unit = one.division.unit
            load = one.load.to(unit)
            off = one.shown.to(unit) - load
            judged.append(Judged(one, off, class_iii_tolerance(load, one.division.value)))
    return judged
