"""What a batch of ground meat may be called, and what it may not, with the rule that says so.

United States as shipped; a shop may only tighten it. Values from memory until looked up: local codes and the
shop's food-safety plan come first.
"""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass, replace
from decimal import Decimal

from cutting.errors import BadValue
from cutting.grinding.blend import BEEF, MOST_FAT, BatchFigures, Blend, Kind, Take
from cutting.quantities import HUNDRED, ONE, ZERO, round_half_up, working

GROUND_BEEF, HAMBURGER = "ground beef", "hamburger"
PORK_SAUSAGE, BEEF_SAUSAGE = "fresh pork sausage", "fresh beef sausage"
MOST_FAT_OF = {
    GROUND_BEEF: (MOST_FAT, "9 CFR 319.15(a)"),
    HAMBURGER: (MOST_FAT, "9 CFR 319.15(b)"),
    PORK_SAUSAGE: (Decimal("0.50"), "9 CFR 319.141"),
    BEEF_SAUSAGE: (Decimal("0.30"), "9 CFR 319.142"),
}
"""The most fat of each name. Value from memory."""
LEAN_AND_FAT = "9 CFR 317.362(f)"
"""A stated lean stands with its fat percent beside it, in equal lettering. Value from memory."""
OF_A_PRIMAL = "the name of a primal is for meat of it alone: FSIS policy; value from memory"
HOUSE = "the shop's own standard"
GRADE = "a grade only as the delivery carries it: 7 CFR 54; value from memory"


Grades = Mapping[str, Collection[str]]


@dataclass(frozen=True, slots=True)
class Made:
    """What a batch is made of: shares of the weight by species, primal and kind, its fat."""

    species: frozenset[str]
    fat: Decimal
    of_primal: dict[str, Decimal]
    hard_fat: Decimal
    grades: frozenset[str] = frozenset()
    """Of its lots; an empty one for a lot whose grade nobody knows."""

    @classmethod
    def of(cls, blend: Blend, figures: BatchFigures, grades: Grades | None = None) -> Made:
        """From a blend and what is taken. `grades`: of the lots in each tub, by its name."""
        with working():
            total = sum(figures.take.values(), ZERO)
            of_primal: dict[str, Decimal] = {}
            hard_fat = ZERO
            for t, pounds in figures.take.items():
                tub = blend.tubs[t]
                if tub.kind is Kind.HARD_FAT:
                    hard_fat += pounds / total
                if tub.primal:
                    of_primal[tub.primal] = of_primal.get(tub.primal, ZERO) + pounds / total
        species = frozenset(blend.tubs[t].species for t in figures.take)
        names = [blend.tubs[t].name for t in figures.take]
        of_lots = frozenset(one for name in names for one in (grades or {}).get(name, ("",)))
        return cls(species, figures.fat, of_primal, hard_fat, of_lots)


@dataclass(frozen=True, slots=True)
class Named:
    """A name with whether the batch may have it; `why` says what stands against it, `source` who
    says so."""

    name: str
    may: bool
    why: str
    source: str


ALMOST = Decimal("1e-9")


def may_be_called(made: Made, tightened: dict[str, Decimal] | None = None) -> list[Named]:
    """Every name with its verdict, those that it may have first. `tightened`: the shop's own most
    fat of a name; it may only be lower. Raises BadValue where it is not."""
    tightened = tightened or {}
    for name, own in tightened.items():
        law = MOST_FAT_OF.get(name)
        if law is not None and own > law[0]:
            right = f"at most {law[0]:f}, {law[1]}, is right"
            raise BadValue(f"{name}, most fat", f"{own:f}", right)
    found = [_standard(made, name, tightened.get(name)) for name in MOST_FAT_OF]
    if made.species == {BEEF}:
        found += [_primal(made, primal) for primal in sorted(made.of_primal)]
    if len(made.species) == 1:
        (only,) = made.species
        if only != BEEF:
            found.append(Named(f"ground {only}", True, "", HOUSE))
    return sorted(found, key=lambda one: not one.may)


def grade_claim(made: Made) -> Named:
    """Whether its label may carry a grade: only where every lot in it has the same one."""
    known = sorted(one for one in made.grades if one)
    if len(made.grades) == 1 and known:
        return Named(known[0], True, "", GRADE)
    why = (
        f"{' and '.join(known)} are in it" if len(known) > 1 else "the grade of a lot is not known"
    )
    return Named("a grade", False, why, GRADE)


CHOPPED = "chopped beef"
STANDARD_WORDS = {
    "ground beef": GROUND_BEEF,
    CHOPPED: GROUND_BEEF,
    "hamburger": HAMBURGER,
    "pork sausage": PORK_SAUSAGE,
    "beef sausage": BEEF_SAUSAGE,
}
"""Words that a rule names, whatever stands around them."""


def refused_name(
    name: str,
    made: Made,
    primals: Collection[str] = (),
    tightened: dict[str, Decimal] | None = None,
) -> Named | None:
    """What stands against a name: that of a standard or of one of `primals` (“ground chuck”) that the
    batch does not meet, or of an animal that is not in it. None where nothing does."""
    words = " ".join(name.casefold().split())
    verdicts = {one.name: one for one in may_be_called(made, tightened)}
    for spoken, standard in STANDARD_WORDS.items():
        if spoken in words and not verdicts[standard].may:
            return replace(verdicts[standard], name=name)
    for primal in primals:
        if f"ground {primal.casefold()}" not in words:
            continue
        if primal not in made.of_primal:
            return Named(name, False, f"nothing of it is known to be {primal}", OF_A_PRIMAL)
        verdict = _primal(made, primal)
        if not verdict.may:
            return replace(verdict, name=name)
    for animal in ANIMALS:
        if f"ground {animal}" in words and made.species != {animal}:
            return Named(name, False, f"{', '.join(sorted(made.species))} is in it", HOUSE)
    return None


ANIMALS = ("beef", "pork", "lamb")


def most_fat_of(name: str, tightened: dict[str, Decimal] | None = None) -> Decimal | None:
    """The most fat of a standard name, by the shop's own limit where it is lower; None for a name
    that no rule knows."""
    law = MOST_FAT_OF.get(name)
    own = (tightened or {}).get(name)
    if law is None:
        return own
    return law[0] if own is None else min(own, law[0])


def _standard(made: Made, name: str, own: Decimal | None) -> Named:
    """A name with a standard of identity."""
    most, source = MOST_FAT_OF[name]
    if own is not None and own < most:
        most, source = own, HOUSE
    species = "pork" if name == PORK_SAUSAGE else BEEF
    others = sorted(made.species - {species})
    if others:
        return Named(name, False, f"{', '.join(others)} is in it", MOST_FAT_OF[name][1])
    if name == GROUND_BEEF and made.hard_fat > 0:
        share = round_half_up(made.hard_fat * HUNDRED, 1)
        return Named(name, False, f"{share} % of it is added fat", MOST_FAT_OF[name][1])
    if made.fat > most + ALMOST:
        fat, limit = (round_half_up(value * HUNDRED, 1) for value in (made.fat, most))
        return Named(name, False, f"{fat} % fat is over {limit:f} %", source)
    return Named(name, True, "", source)


def _primal(made: Made, primal: str) -> Named:
    name = f"ground {primal}"
    share = made.of_primal[primal]
    if made.hard_fat > 0:
        return Named(name, False, "fat is added to it", OF_A_PRIMAL)
    if share < ONE - ALMOST:
        rest = round_half_up((ONE - share) * HUNDRED, 1)
        return Named(name, False, f"{rest} % of it comes from elsewhere", OF_A_PRIMAL)
    if made.fat > MOST_FAT + ALMOST:
        fat = round_half_up(made.fat * HUNDRED, 1)
        return Named(name, False, f"{fat} % fat is over 30 %", MOST_FAT_OF[GROUND_BEEF][1])
    return Named(name, True, "", OF_A_PRIMAL)


def label_words(name: str, fat: Decimal) -> str:
    """“ground beef, 85 % lean, 15 % fat”: a lean never without its fat."""
    if not 0 <= fat <= 1:
        raise BadValue("fat", f"{fat:f}", "0 to 1 is right")
    percent = round_half_up(fat * HUNDRED, 0)
    return f"{name}, {HUNDRED - percent:f} % lean, {percent:f} % fat"


@dataclass(frozen=True, slots=True)
class Addition:
    """The smallest addition that brings a batch under its limit as often as asked."""

    tub: int
    pounds: Decimal


def smallest_addition(
    blend: Blend, figures: BatchFigures, limit: Decimal, quantile: Decimal, room: Sequence[Decimal]
) -> Addition | None:
    """Of the tubs with something left (`room`, pounds), the one of which the least makes the batch
    safe: fat + quantile × spread at most the limit. Worked out by halving; None where none does, and
    an addition of 0 where it is safe already.
    """
    best: Addition | None = None
    with working():
        if _over(blend, figures.take, limit, quantile) <= 0:
            return Addition(next(iter(figures.take)), ZERO)
        for t, most in enumerate(room):
            if most <= 0:
                continue
            low, high = ZERO, most
            if _over(blend, _with(figures.take, t, high), limit, quantile) > 0:
                continue
            for _ in range(HALVINGS):
                middle = (low + high) / 2
                if _over(blend, _with(figures.take, t, middle), limit, quantile) > 0:
                    low = middle
                else:
                    high = middle
            if best is None or high < best.pounds:
                best = Addition(t, high)
    return best


HALVINGS = 60


def _with(take: Take, t: int, pounds: Decimal) -> dict[int, Decimal]:
    found: dict[int, Decimal] = dict(take)
    found[t] = found.get(t, ZERO) + pounds
    return found


def _over(blend: Blend, take: Take, limit: Decimal, quantile: Decimal) -> Decimal:
    """By how much the bound is missed, in pounds of fat; 0 or less where it is met."""
    own: dict[int, Decimal] = dict(take)
    pounds = sum(own.values(), ZERO)
    fat = sum((value * blend.tubs[t].fat for t, value in own.items()), ZERO)
    spread = sum(((value * blend.tubs[t].lean_sd) ** 2 for t, value in own.items()), ZERO).sqrt()
    return fat + quantile * spread - limit * pounds
