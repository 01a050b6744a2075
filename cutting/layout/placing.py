"""Where on a piece the products of a plan are cut, and whether target, thickness and shape can meet.

Common practice, no published source.
"""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Sequence
from decimal import Decimal
from fractions import Fraction
from itertools import pairwise

from cutting.layout.profile import MM, Profile
from cutting.quantities import Unit, Weight, working

THINNER, THICKER = Decimal("0.8"), Decimal("1.25")
"""How far a slice may be from the thickness of its plan, and a target from what that thickness gives."""
SHORTEST, LONGEST = MM["in"] * 3, MM["in"] * 6
"""A roast, where a plan gives neither a thickness nor a number."""
LEAST_OF_A_STRETCH = Decimal("0.55")
PLACES = 4096

Stretch = tuple[Decimal, Decimal]
"""From and to, in mm from the near end."""


def share_out(profile: Profile, shares: Sequence[Decimal], free: Stretch) -> list[Stretch]:
    """Return consecutive stretches of `free` whose weights stand to each other as `shares`.

    Raises nothing: no shares are no stretches. The marks are exact to a 4,096th of the length.
    """
    total = sum(shares, Decimal(0))
    if not total:
        return []
    start, end = free

    def at(number: int) -> Decimal:
        return start + (end - start) * number / PLACES

    def volume(number: int) -> Fraction:
        return profile.before(Fraction(at(number)))

    before, marks, gone = volume(0), [start], Decimal(0)
    whole = volume(PLACES) - before
    for share in shares[:-1]:
        gone += share
        wanted = before + whole * Fraction(gone) / Fraction(total)
        marks.append(at(bisect_left(range(PLACES), wanted, key=volume)))
    return list(pairwise([*marks, end]))


def longest_free(length: Decimal, taken: Sequence[Stretch]) -> Stretch | None:
    """Return the longest stretch of a piece that lies in none of `taken`; None where all is taken."""
    found, at = [], Decimal(0)
    for start, end in sorted(taken):
        found.append((at, start))
        at = max(at, end)
    found.append((at, length))
    best = max(found, key=lambda one: one[1] - one[0])
    return best if best[1] > best[0] else None


def thickness_limits(
    thickness: Decimal | None, stretch: Decimal, most: int | None = None
) -> tuple[Decimal, Decimal]:
    """Return how thin and how thick a product may be cut, in mm.

    `thickness`: of the plan. Without one `most` pieces share the stretch; without either it is cut
    as roasts, or taken whole where it is shorter than one.
    """
    with working():
        if thickness is not None:
            return thickness * THINNER, thickness * THICKER
        if most is not None:
            return stretch * LEAST_OF_A_STRETCH / most, stretch
        return min(SHORTEST, stretch * LEAST_OF_A_STRETCH), LONGEST


def target_ratio(
    profile: Profile,
    piece: Weight,
    target: Weight,
    thickness: Decimal,
    stretches: Sequence[Stretch],
    across: Sequence[int] = (1,),
) -> Decimal:
    """Return the target over what a slice of that thickness weighs on average in its stretches.

    `across`: into how many portions a slice may be parted; the way that comes nearest to 1 counts.
    From 0.8 to 1.25 target, thickness and shape can meet.
    """
    length = sum((end - start for start, end in stretches), Decimal(0))
    volume = sum(
        (profile.before(Fraction(end)) - profile.before(Fraction(start)))
        for start, end in stretches
    )
    grams = Fraction(piece.to(Unit.G)) * volume / profile.whole
    with working():
        slice_ = Decimal(grams.numerator) / Decimal(grams.denominator) * thickness / length
        ratios = [target.to(Unit.G) * many / slice_ for many in across]
    return min(ratios, key=lambda one: max(one, 1 / one))
