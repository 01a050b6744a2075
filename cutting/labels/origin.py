"""Country of origin on a retail label, as 7 CFR 65 asks for it. Values from memory: the rule could not be
looked up here; local codes come first.

Covered: muscle cuts and ground meat of lamb (65.135). Beef and pork left the rule in 2016 (81 FR 10755): a
claim on them is one of 9 CFR 412.3 and comes from the delivery.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence

from cutting.errors import BadValue
from cutting.meat import Origin

COVERED = frozenset({"lamb"})
"""Species of 7 CFR 65.135 that this shop cuts."""
HOME = "US"
THE_US = "the U.S."


def origin_line(
    species: str, origins: Sequence[Origin], *, is_ground: bool, named: Callable[[str], str]
) -> str:
    """Return the line of a label; empty for a species that the rule does not cover.

    `named`: the name of a country by its two letters. Muscle cuts tell born, raised and slaughtered
    (65.300(d), (e)), imported meat its country (65.300(f)), ground meat every country in it (65.300(h)).
    Raises BadValue where the origin of some of it is not known.
    """
    if species not in COVERED:
        return ""
    if not origins or not all(one.is_known for one in origins):
        raise BadValue(
            "country of origin",
            "not on record",
            "where the animal was born, raised and slaughtered is right (7 CFR 65)",
        )
    if is_ground:
        countries = dict.fromkeys(country for one in origins for country in one.countries)
        return f"Product of {_listed([_name(one, named) for one in countries])}"
    lines = list(dict.fromkeys(_muscle_cut(one, named) for one in origins))
    if len(lines) > 1:
        raise BadValue(
            "country of origin",
            "; ".join(lines),
            "meat of one origin on one tray is right (7 CFR 65)",
        )
    return lines[0]


def _muscle_cut(origin: Origin, named: Callable[[str], str]) -> str:
    killed = origin.slaughtered or origin.country
    if killed != HOME:
        return f"Product of {named(killed)}"
    born, raised = origin.born, origin.raised
    if born == raised == HOME:
        return f"Born, raised and slaughtered in {THE_US}"
    if raised == HOME:
        return f"Born in {named(born)}, raised and slaughtered in {THE_US}"
    if born == raised:
        return f"Born and raised in {named(born)}, slaughtered in {THE_US}"
    return f"Born in {_in(born, named)}, raised in {_in(raised, named)}, slaughtered in {THE_US}"


def _in(country: str, named: Callable[[str], str]) -> str:
    return THE_US if country == HOME else named(country)


def _name(country: str, named: Callable[[str], str]) -> str:
    return "U.S." if country == HOME else named(country)


def _listed(names: Sequence[str]) -> str:
    return names[0] if len(names) == 1 else f"{', '.join(names[:-1])} and {names[-1]}"
