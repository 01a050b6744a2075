"""Names of a cut as they are said and compared: one rule for saving, for pages and for the agreements."""

from collections import defaultdict
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from typing import Any

from cutting.errors import Fault
from rooms.catalog.queries.search import words_of

SHOWN = ("name", "house_name", "other_name")
"""Fields with names that stand on labels; `synonyms` only help to find a cut, and may be shared."""


def said(name: str) -> str:
    """What two names share when a search reads them as one: "Rib-eye" is "rib eye"."""
    return " ".join(words_of(name))


def split_names(text: str) -> list[str]:
    """The names of a field, which has several with semicolons between."""
    return [one.strip() for one in text.split(";") if one.strip()]


@dataclass(frozen=True)
class Shown:
    """A name that a cut is shown by."""

    key: str
    field: str
    name: str
    muscle: str | None
    """Its key."""


def shown_names(cuts: Mapping[str, Mapping[str, Any]]) -> dict[tuple[str, str], list[Shown]]:
    """Return the names of cuts by their animal and as they are said. `cuts`: documents by their key."""
    found: dict[tuple[str, str], list[Shown]] = defaultdict(list)
    for key, cut in cuts.items():
        own = {
            (cut["species"], said(name)): Shown(key, field, name, cut.get("muscle"))
            for field in SHOWN
            for name in split_names(cut.get(field, ""))
        }
        for place, name in own.items():
            found[place].append(name)
    return found


def shared(names: Mapping[tuple[str, str], list[Shown]]) -> Iterable[list[Shown]]:
    """Return the names that cuts of several muscles are shown by."""
    return (some for some in names.values() if len({one.muscle for one in some}) > 1)


def newly_taken(
    now: Mapping[str, Mapping[str, Any]],
    cuts: Mapping[str, Mapping[str, Any]],
    muscles: Mapping[str, str],
) -> list[Fault]:
    """Return the names that an edit or a file gives a cut and that another muscle is shown by: on a label
    they would be the wrong meat. A name that a cut had before may stay.

    `now`: documents of all cuts as they are; `cuts`: those that are written; `muscles`: names by key.
    """
    before = {(one.key, place) for place, some in shown_names(now).items() for one in some}
    found = []
    for place, some in shown_names({**now, **cuts}).items():
        for one in some:
            if one.key not in cuts or (one.key, place) in before:
                continue
            other = next((each for each in some if each.muscle != one.muscle), None)
            if other is not None:
                muscle = muscles.get(other.muscle or "", other.muscle or "no single muscle")
                wrong = f"“{one.name}” is the name of {other.name}, another muscle ({muscle})"
                right = "another name is right, or this one under “Also found by”"
                found.append(Fault(one.field.replace("_", " ").capitalize(), wrong, right))
    return found
