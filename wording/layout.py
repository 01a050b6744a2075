"""What is said of a layout, and of the next cut at the block."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from decimal import Decimal
from fractions import Fraction

from cutting.layout.follow import Following
from cutting.layout.marks import inch_words, mm_words
from cutting.layout.task import Slice
from cutting.quantities import Unit, Weight

PARTED = {2: "halved", 3: "in thirds"}
STEADY = 0.01
"""A shape is right within one percent of the weight of a length."""


def counts_words(portions: Mapping[str, int], outside: int = 0) -> str:
    """“12 Rib-eye steak, 1 Roast”; nothing is cut where all are 0. `outside`: slices that do not keep their
    limits."""
    found = [f"{many} {name}" for name, many in portions.items() if many]
    if outside:
        found.append(f"{outside} of the slices outside the limits")
    return ", ".join(found) or "nothing"


def way_words(title: str, portions: Mapping[str, int], out: int) -> str:
    """Another way in a line."""
    return f"{title}: {counts_words(portions, out)}"


def kinds_words(kinds: Sequence[tuple[Slice, int]]) -> str:
    """How the slices of one product are cut, where that is not simply across."""
    found = []
    for one, many in kinds:
        if one.is_opened:
            found.append(f"{many} butterflied")
        elif one.across > 1:
            how = PARTED.get(one.across, "parted")
            lost = ", the middle strip lost" if one.across == 2 and one.lost else ""
            found.append(f"{many} slice{'' if many == 1 else 's'} {how}{lost}")
    return "; ".join(found)


def thick_words(mm: Decimal, *, is_metric: bool) -> str:
    """“11/16 in”, “18 mm”."""
    return f"{mm_words(mm)} mm" if is_metric else f"{inch_words(mm)} in"


def portion_words(weight: Fraction, unit: Unit, *, is_metric: bool) -> str:
    """A weight in the piece's unit as portions are said: ounces to a tenth, whole grams."""
    own = Unit.G if is_metric else Unit.OZ
    value = Weight(Decimal(weight.numerator) / Decimal(weight.denominator), unit).to(own)
    return f"{value:.{0 if own is Unit.G else 1}f} {own.value}"


@dataclass(frozen=True)
class Planned:
    """As it was laid out: how thick the slice here was, in mm, and how many were to come."""

    thick: Decimal
    to_come: int


def change_words(stands: Following, planned: Planned | None, *, is_metric: bool) -> str:
    """What the last weighings have changed, in a sentence; nothing before the first."""
    if not stands.told:
        return ""
    many = sum(one.portions for one in stands.told if one.asked is not None)
    if not many:
        return "Not what was asked for: its weight is taken off, the shape stays."
    off = portion_words(abs(stands.heavy), stands.task.unit, is_metric=is_metric)
    side = "heavy" if stands.heavy > 0 else "light"
    first = "The first" if many == 1 else f"The first {many}"
    if stands.is_slip:
        last = stands.told[-1]
        expected = last.asked.expected * last.portions if last.asked else last.weight
        slip = portion_words(abs(last.weight - expected), stands.task.unit, is_metric=is_metric)
        side = "heavy" if last.weight > expected else "light"
        return (
            f"The last came out {slip} {side}: taken as a slip of the knife, the shape stays."
            f"{_then(stands, planned, is_metric=is_metric)}"
        )
    if abs(stands.here - 1) < STEADY:
        return f"{first} came out as laid out.{_then(stands, planned, is_metric=is_metric)}"
    weighs = "more" if stands.here > 1 else "less"
    return (
        f"{first} came out {off} {side}: here the piece weighs {weighs} for its length than its"
        f" shape says.{_then(stands, planned, is_metric=is_metric)}"
    )


def _then(stands: Following, planned: Planned | None, *, is_metric: bool) -> str:
    """Whether the next cut is another than was laid out."""
    short = f" No longer enough for: {', '.join(stands.short)}." if stands.short else ""
    if not stands.next:
        return f" Nothing more fits.{short}"
    thick, many = stands.next[0].thick, len(stands.next)
    words = thick_words(thick, is_metric=is_metric)
    if planned is None:
        return f" The next is {words}.{short}"
    was = thick_words(planned.thick, is_metric=is_metric)
    count = "" if many == planned.to_come else f", {many} more instead of {planned.to_come}"
    if words == was:
        return f" The next stays {words}{count}.{short}"
    how = "closer" if thick < planned.thick else "farther apart"
    return f" The marks that follow move {how}: the next is {words} instead of {was}{count}.{short}"
