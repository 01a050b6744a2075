"""A blend: tubs into batches with a fat share each. What is asked, and what a choice gives, in decimals.

The search itself is `cutting.grinding.blend_solver`; what it finds is worked out again here. Rules of the
names: 9 CFR 319.15(a) and (b).
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from decimal import Decimal
from enum import StrEnum
from statistics import NormalDist

from cutting.errors import BadValue
from cutting.quantities import ONE, ZERO, Unit, UnitPrice, Weight, working

MOST_FAT = Decimal("0.30")
"""Of ground beef and hamburger: 9 CFR 319.15(a), (b)."""
BEEF = "beef"


class Kind(StrEnum):
    """What lies in a tub: lean trim, ends of whole muscle, hard outside fat."""

    LEAN = "lean"
    ENDS = "ends"
    HARD_FAT = "hard_fat"


class Rule(StrEnum):
    """What the name of a batch asks for."""

    GROUND_BEEF = "ground_beef"
    HAMBURGER = "hamburger"
    NONE = "none"


@dataclass(frozen=True, slots=True)
class Tub:
    """`lean` is a share with its standard deviation; `must`: all of it goes in."""

    name: str
    species: str
    kind: Kind
    weight: Weight
    lean: Decimal
    cost: UnitPrice
    lean_sd: Decimal = ZERO
    primal: str = ""
    must: bool = False

    def __post_init__(self) -> None:
        if not 0 <= self.lean <= 1:
            raise BadValue(f"{self.name}, lean", f"{self.lean:f}", "0 to 1 is right")
        if self.lean_sd < 0:
            raise BadValue(f"{self.name}, lean_sd", f"{self.lean_sd:f}", "0 or more is right")

    @property
    def fat(self) -> Decimal:
        return ONE - self.lean

    @property
    def pounds(self) -> Decimal:
        return self.weight.to(Unit.LB)


def quantile_of(chance: Decimal) -> Decimal:
    """Standard deviations above the mean that are passed so often."""
    return Decimal(repr(NormalDist().inv_cdf(1 - float(chance))))


@dataclass(frozen=True, slots=True)
class Batch:
    """A weight with its fat between two shares; `primal`: only tubs of it; `limit` with `chance`: the
    fat is over the limit at most so often."""

    name: str
    rule: Rule
    weight: Weight
    least: Decimal
    most: Decimal
    primal: str = ""
    no_ends: bool = False
    limit: Decimal | None = None
    chance: Decimal | None = None

    def __post_init__(self) -> None:
        if not 0 <= self.least <= self.most <= 1:
            wrong = f"{self.least:f} to {self.most:f}"
            raise BadValue(f"{self.name}, fat", wrong, "from 0 to 1, the least first, is right")
        if (self.limit is None) != (self.chance is None):
            raise BadValue(self.name, "a limit without its chance", "both or none are right")
        if self.chance is not None and not 0 < self.chance <= Decimal("0.5"):
            right = "over 0, at most 0.5 is right"
            raise BadValue(f"{self.name}, chance", f"{self.chance:f}", right)

    @property
    def pounds(self) -> Decimal:
        return self.weight.to(Unit.LB)

    @property
    def top(self) -> Decimal:
        """The most fat that it may have, by its name too."""
        return self.most if self.rule is Rule.NONE else min(self.most, MOST_FAT)

    @property
    def quantile(self) -> Decimal:
        """Standard deviations that its chance leaves room for."""
        return ZERO if self.chance is None else quantile_of(self.chance)

    def may(self, tub: Tub) -> bool:
        """Whether the tub may go in, but for the one species that a batch of no rule has."""
        if self.rule is not Rule.NONE and tub.species != BEEF:
            return False
        if self.rule is Rule.GROUND_BEEF and tub.kind is Kind.HARD_FAT:
            return False
        if self.no_ends and tub.kind is Kind.ENDS:
            return False
        return not self.primal or tub.primal == self.primal


@dataclass(frozen=True, slots=True)
class Blend:
    """Tubs, and batches that are all made of them."""

    tubs: tuple[Tub, ...]
    batches: tuple[Batch, ...]

    def __post_init__(self) -> None:
        if not self.tubs or not self.batches:
            raise BadValue("blend", "nothing in it", "at least one tub and one batch are right")


Take = Mapping[int, Decimal]
"""Pounds by the number of the tub."""


@dataclass(frozen=True, slots=True)
class BatchFigures:
    """One batch: pounds of each tub, fat with its standard deviation, how often it is over its limit
    (None without one), money."""

    take: Take
    fat: Decimal
    fat_sd: Decimal
    chance_over: Decimal | None
    cost: Decimal


def batch_figures(blend: Blend, batch: Batch, take: Take) -> BatchFigures:
    """What is taken, worked out. Errors of the tubs are taken as independent of one another."""
    with working():
        pounds = sum(take.values(), ZERO)
        fat = sum((own * blend.tubs[t].fat for t, own in take.items()), ZERO) / pounds
        parts = ((own * blend.tubs[t].lean_sd) ** 2 for t, own in take.items())
        spread = sum(parts, ZERO).sqrt() / pounds
        cost = sum((own * blend.tubs[t].cost.to(Unit.LB) for t, own in take.items()), ZERO)
    return BatchFigures(take, fat, spread, chance_over(batch.limit, fat, spread), cost)


def chance_over(limit: Decimal | None, fat: Decimal, spread: Decimal) -> Decimal | None:
    """How often the fat is over a limit; None without one."""
    if limit is None:
        return None
    if not spread:
        return ZERO if fat <= limit else ONE
    with working():
        over = (limit - fat) / spread
    return Decimal(repr(math.erfc(float(over) / math.sqrt(2)) / 2))


@dataclass(frozen=True, slots=True)
class Square:
    """Pearson's square: parts of the leaner and of the fatter tub, and their pounds."""

    leaner_parts: Decimal
    fatter_parts: Decimal
    leaner: Decimal
    fatter: Decimal


def pearson(leaner_fat: Decimal, fatter_fat: Decimal, aim: Decimal, pounds: Decimal) -> Square:
    """Two tubs to a fat share, as one draws it: each difference to the aim stands across. Raises
    BadValue for an aim that does not lie between them."""
    if not leaner_fat < fatter_fat:
        wrong = f"{leaner_fat:f} and {fatter_fat:f}"
        raise BadValue(
            "fat of the two tubs", wrong, "the leaner first, and two different are right"
        )
    if not leaner_fat <= aim <= fatter_fat:
        right = f"{leaner_fat:f} to {fatter_fat:f} is right"
        raise BadValue("fat wanted", f"{aim:f}", right)
    with working():
        lean, fat = fatter_fat - aim, aim - leaner_fat
        return Square(lean, fat, pounds * lean / (lean + fat), pounds * fat / (lean + fat))


@dataclass(frozen=True, slots=True)
class Reach:
    """What one batch, alone with all tubs, can have: pounds that may go in, least and most fat of
    its weight; None where there is too little."""

    pounds: Decimal
    least: Decimal | None
    most: Decimal | None


def reach(blend: Blend, batch: Batch) -> Reach:
    """By species where the rule asks for one: the widest there is."""
    found = [_reach(own, batch) for own in _by_species(blend, batch)]
    full = [one for one in found if one.least is not None and one.most is not None]
    if not full:
        return max(found, key=lambda one: one.pounds, default=Reach(ZERO, None, None))
    return Reach(
        max(one.pounds for one in full),
        min(one.least for one in full if one.least is not None),
        max(one.most for one in full if one.most is not None),
    )


def _by_species(blend: Blend, batch: Batch) -> list[list[Tub]]:
    some = [tub for tub in blend.tubs if batch.may(tub)]
    return [
        [tub for tub in some if tub.species == species]
        for species in sorted({tub.species for tub in some})
    ]


def _reach(tubs: Sequence[Tub], batch: Batch) -> Reach:
    with working():
        there = sum((tub.pounds for tub in tubs), ZERO)
        if there < batch.pounds:
            return Reach(there, None, None)
        lean = _filled(sorted(tubs, key=lambda tub: tub.fat), batch.pounds)
        fat = _filled(sorted(tubs, key=lambda tub: -tub.fat), batch.pounds)
        return Reach(there, lean, fat)


def _filled(tubs: Sequence[Tub], pounds: Decimal) -> Decimal:
    """The fat share when tub after tub goes in until the weight is there."""
    left, fat = pounds, ZERO
    for tub in tubs:
        own = min(left, tub.pounds)
        fat, left = fat + own * tub.fat, left - own
    return fat / pounds


class NoBlend(Exception):
    """The batches cannot all be made. `reaches`: what each could have alone; `missing`: pounds that
    are missing of each, 0 where none are; `musts`: numbers of tubs that fit nowhere."""

    def __init__(
        self, reaches: Sequence[Reach], missing: Sequence[Decimal], musts: Sequence[int]
    ) -> None:
        super().__init__("the batches cannot all be made")
        self.reaches, self.missing, self.musts = reaches, missing, musts


@dataclass(frozen=True)
class Blended:
    """The cheapest blend: each batch, its cost, what one more pound of each used-up tub is worth."""

    batches: tuple[BatchFigures, ...]
    cost: Decimal
    worth: Mapping[int, Decimal]
    left: tuple[Decimal, ...]
    """Pounds left of each tub."""
