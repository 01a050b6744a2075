"""What belongs to meat wherever it goes, and what it may become: one rule for packing, tubs, grinding.

A pile, a bag, a tub, a batch and a tray each say what their meat is as one `Meat`; every action asks the
functions here, never its page alone. Rules of the law are named; the rest is common practice, no published
source.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace
from datetime import date
from typing import Any

from cutting.errors import BadValue

RECORD_VERSION = 1


@dataclass(frozen=True, slots=True)
class Origin:
    """Where meat is from, as the supplier's papers say: 7 CFR 65. Countries as two letters of ISO 3166-1.

    `country`: where the papers name one country and no steps.
    """

    born: str = ""
    raised: str = ""
    slaughtered: str = ""
    country: str = ""

    def __post_init__(self) -> None:
        steps = (self.born, self.raised, self.slaughtered)
        if any(steps) and not all(steps):
            raise BadValue(
                "origin",
                "part of it is empty",
                "where it was born, raised and slaughtered is right",
            )

    @property
    def is_known(self) -> bool:
        """Whether a label can name it: the steps, or one country that is not the United States.

        A foreign country on a bag is the one declared at import; of a bag from the United States it is not
        known where the animal was born.
        """
        return bool(self.slaughtered) or self.country not in ("", "US")

    @property
    def countries(self) -> tuple[str, ...]:
        """Every country in it, once each."""
        named = (self.slaughtered, self.raised, self.born, self.country)
        return tuple(dict.fromkeys(one for one in named if one))


@dataclass(frozen=True, slots=True)
class Meat:
    """The facts that travel. `cut` and `muscle`: keys of the catalog, empty where nobody knows; `product`:
    what ground meat, or meat on a tray, was made as; `lean`: the words of its claim."""

    species: str = ""
    cut: str = ""
    muscle: str = ""
    product: str = ""
    is_ground: bool = False
    is_waste: bool = False
    is_tenderized: bool = False
    is_cubed: bool = False
    was_frozen: bool = False
    ingredients: tuple[str, ...] = ()
    allergens: tuple[str, ...] = ()
    lean: str = ""
    origins: tuple[Origin, ...] = ()
    since: date | None = None
    """The day its clock starts: cut, ground or packed."""
    ends: tuple[date, ...] = ()
    """Last days of the bags that it is of."""

    @property
    def is_seasoned(self) -> bool:
        return bool(self.ingredients or self.allergens)

    @property
    def ends_on(self) -> date | None:
        return min(self.ends, default=None)

    def record(self) -> dict[str, Any]:
        """Return what is kept with a tray, a batch or something in a tub, as JSON."""
        return {
            "version": RECORD_VERSION,
            "tenderized": self.is_tenderized,
            "cubed": self.is_cubed,
            "frozen": self.was_frozen,
            "ingredients": list(self.ingredients),
            "allergens": list(self.allergens),
            "lean": self.lean,
            "origins": [[o.born, o.raised, o.slaughtered, o.country] for o in self.origins],
        }

    def with_record(self, kept: Mapping[str, Any]) -> Meat:
        """Return this with what was kept of it."""
        return replace(
            self,
            is_tenderized=bool(kept.get("tenderized")),
            is_cubed=bool(kept.get("cubed")),
            was_frozen=bool(kept.get("frozen")),
            ingredients=tuple(kept.get("ingredients", ())),
            allergens=tuple(kept.get("allergens", ())),
            lean=str(kept.get("lean", "")),
            origins=tuple(Origin(*one) for one in kept.get("origins", ())),
        )


@dataclass(frozen=True, slots=True)
class Target:
    """What meat is to be packed as: a product, with its cut of the catalog."""

    product: str
    name: str
    species: str
    cut: str = ""
    muscle: str = ""
    is_ground: bool = False
    is_material: bool = False
    """Its cut names no muscle: stew, kebab, strips."""


@dataclass(frozen=True, slots=True)
class Preparation:
    """A value-adding step as meat remembers it. `makes`: tenderized, cubed, seasoned, or nothing that a
    label tells; `ingredients` as they stand on the label, the most first."""

    name: str
    makes: str = ""
    ingredients: tuple[str, ...] = ()
    allergens: tuple[str, ...] = ()


TENDERIZED, CUBED, SEASONED = "tenderized", "cubed", "seasoned"


def prepared(meat: Meat, steps: Iterable[Preparation]) -> Meat:
    """Return meat after value-adding steps, with everything that a label must tell of them.

    Raises BadValue for a step that seasons and names no ingredients (9 CFR 317.2(f), value from memory).
    """
    for step in steps:
        if step.makes == SEASONED and not step.ingredients:
            raise BadValue(
                step.name,
                "it seasons the meat and names no ingredients",
                "write them under Value added, the most first",
            )
        names = (meat.species, *step.ingredients) if step.ingredients else ()
        meat = replace(
            meat,
            is_tenderized=meat.is_tenderized or step.makes == TENDERIZED,
            is_cubed=meat.is_cubed or step.makes == CUBED,
            ingredients=_each((*meat.ingredients, *names)),
            allergens=_each((*meat.allergens, *step.allergens)),
        )
    return meat


def why_not_packed(meat: Meat, target: Target, *, again: bool = False) -> str:
    """Return why meat may not be packed as a product; empty where it may.

    `again`: it lies on a tray at the block. Ground meat is packed as the product that it was ground as: its
    name was checked then (9 CFR 319.15), and what is sold as ground stands in the grind record (9 CFR
    320.1(b)(4)).
    """
    name = target.name
    is_made = meat.is_ground or (again and bool(meat.product))
    is_same = meat.product == target.product or (again and _is_further_use(meat, target))
    checks = (
        (not meat.species, f"its species is not known; {name} is {target.species}"),
        (meat.species != target.species, f"it is {meat.species}; {name} is {target.species}"),
        (meat.is_waste, "it is waste; it leaves the shop with the waste"),
        (
            target.is_ground and not meat.is_ground,
            f"{name} is packed from a batch of the grinder; grind it first",
        ),
        (meat.is_ground and not target.is_ground, f"it is ground; {name} is not"),
        (is_made and not is_same, f"it was made as another product than {name}"),
        (
            not is_made and meat.cut != target.cut,
            f"it is another cut; {name} is packed from its own pile",
        ),
    )
    return next((why for wrong, why in checks if wrong), "")


def _is_further_use(meat: Meat, target: Target) -> bool:
    """A whole muscle may be cut into another cut of the same muscle, or diced, sliced and stripped."""
    if meat.is_ground or target.is_ground:
        return False
    return target.is_material or bool(meat.muscle and meat.muscle == target.muscle)


def why_not_in_tub(meat: Meat, species: str) -> str:
    """Return why meat may not go into a tub of trim; empty where it may.

    Tubs hold plain trim of one animal: an ingredient or an allergen in one would be in every batch that is
    ground of it, and on no label.
    """
    if meat.species and meat.species != species:
        return f"it is {meat.species}; the tub is {species}"
    if meat.is_waste:
        return "it is waste; nothing of it is ground"
    if meat.is_seasoned:
        what = ", ".join(meat.allergens or meat.ingredients)
        return f"it is seasoned ({what}); a tub holds plain trim"
    return ""


def why_clean_first(last: Meat, now: Meat) -> str:
    """Return why the grinder is cleaned between two batches; empty where they may follow each other."""
    if last.species != now.species:
        return f"{last.species} was in it last; clean it before {now.species}"
    extra = [one for one in last.allergens if one not in now.allergens]
    extra = extra or [one for one in last.ingredients if one not in now.ingredients]
    if extra:
        return f"{', '.join(extra)} was in it last; clean it before meat without it"
    return ""


def mixed(meats: Iterable[Meat], species: str) -> Meat:
    """Return what meat of several sources is together: everything that is in any of them.

    No claim survives that not all of them carry. The clock is that of the oldest.
    """
    some = list(meats)
    leans = {one.lean for one in some}
    return Meat(
        species=species,
        is_tenderized=any(one.is_tenderized for one in some),
        is_cubed=any(one.is_cubed for one in some),
        was_frozen=any(one.was_frozen for one in some),
        ingredients=_each(name for one in some for name in one.ingredients),
        allergens=_each(name for one in some for name in one.allergens),
        lean=leans.pop() if len(leans) == 1 else "",
        origins=tuple(dict.fromkeys(o for one in some for o in one.origins)),
        since=min((one.since for one in some if one.since), default=None),
        ends=tuple(end for one in some for end in one.ends),
    )


def _each(names: Iterable[str]) -> tuple[str, ...]:
    return tuple(dict.fromkeys(names))


def past_its_end(meat: Meat, today: date) -> date | None:
    """Return the end that has passed, where meat is of a bag past its end; None where it is good."""
    end = meat.ends_on
    return end if end is not None and end < today else None
