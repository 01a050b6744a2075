"""What the meat of bags is, as the core's `Meat`."""

from collections.abc import Iterable

from cutting.labels.origin import COVERED
from cutting.meat import Meat, Origin
from rooms.cooler.models import Bag
from rooms.cooler.queries.codes import country_named, letters_of
from rooms.shop.queries.current import house


def origin_of(bag: Bag) -> Origin:
    """Return where a bag's meat is from, as its delivery says."""
    return Origin(bag.born, bag.raised, bag.slaughtered, letters_of(bag.country))


def meat_of_bags(bags: Iterable[Bag], species: str = "") -> Meat:
    """Return what bags are together. No query: their piece is loaded where `species` is not given."""
    some = list(bags)
    kinds = (
        {bag.piece.species for bag in some if bag.piece is not None} if not species else {species}
    )
    return Meat(
        species=kinds.pop() if len(kinds) == 1 else "",
        was_frozen=any(bag.was_frozen for bag in some),
        origins=tuple(dict.fromkeys(origin_of(bag) for bag in some)),
        ends=tuple(bag.ends_on for bag in some if bag.ends_on is not None),
    )


def life_in_words(bag: Bag) -> list[str]:
    """Return where it was born, raised and slaughtered, by name; empty where it is not on record."""
    return [country_named(one) for one in (bag.born, bag.raised, bag.slaughtered) if one]


def asks_origin(bag: Bag) -> bool:
    """Whether the shop or 7 CFR 65 asks for an origin that is not on record."""
    species = bag.piece.species if bag.piece is not None else ""
    if species in COVERED:
        return not origin_of(bag).is_known
    return species in house().origin_asked and not bag.country


def country_in_words(letters: str) -> str:
    """Return the name of a country by its two letters, as a label writes it."""
    return country_named(letters)
