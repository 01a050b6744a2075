"""What the meat of bags is, as the core's `Meat`."""

from collections.abc import Iterable

from cutting.meat import Meat, Origin
from rooms.cooler.models import Bag
from rooms.cooler.rules.codes import country_named, letters_of


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


def country_in_words(letters: str) -> str:
    """Return the name of a country by its two letters, as a label writes it."""
    return country_named(letters)
