"""Whether a piece's drawing shows what its steps say, and names its ends as its shape does."""

import re
from collections.abc import Iterable
from typing import Protocol

from cutting.sheet.machines import Machine
from drawings.agreeing import drawing_faults
from drawings.seams import Drawing, LineKind
from rooms.catalog.queries.shapes import WHOLE, part_of

NAMED = {
    r"glands?": ("gland",),
    r"kneecap": ("kneecap",),
    r"femur": ("femur", "leg bone"),
    r"tail ?bone": ("tailbone", "tail bone"),
    r"hip bone": ("hip bone",),
    r"blade bone": ("blade",),
    r"arm bone": ("arm bone",),
    r"chine": ("chine",),
    r"feather bones?": ("feather",),
    r"cross bones?": ("cross",),
    r"back ?bone": ("backbone", "back bone"),
    r"neck bones?": ("neck bone", "backbone", "back bone"),
    r"(?:\d(?:st|nd|rd|th)|first|third|fourth|fifth|last) rib|rib bones": ("rib",),
    r"strap|backstrap": ("strap",),
    r"tendons?": ("tendon",),
    r"kidney fat": ("kidney fat",),
    r"cartilage": ("cartilage",),
    r"fell": ("fell",),
    r"tri-tip": ("tri-tip",),
    r"spider": ("spider",),
    r"tenderloin": ("tenderloin",),
    r"complexus": ("complexus",),
    r"petite tender": ("petite tender",),
}
"""What steps name, and what it is called where it is drawn."""
UNSEEN = "not seen here"
"""What a step says of a thing that its drawing does not show."""
ACROSS = re.compile(r"\b(?:across|against)(?: the| its(?: own| long)?)? (?:grain|V)\b")


class Told(Protocol):
    """What is read of a step."""

    key: str
    title: str
    find: str
    do: str
    machine: str
    touches: list[str]


def drawn_faults(piece: str, drawing: Drawing, steps: Iterable[Told]) -> list[str]:
    """Return where a piece's drawing parts from its words: besides what cannot be drawn at all, things
    that a step names, cuts across the grain, saws, and the names of the ends."""
    found = drawing_faults(drawing)
    parts = [f"{one.key.replace('-', ' ')} {one.key} {one.label}" for one in drawing.parts]
    drawn = " ".join([*parts, *drawing.ends.values()]).lower()
    lines = {one.key: one for one in drawing.lines}
    for step in steps:
        told = f"{step.title} {step.find} {step.do}".lower()
        if UNSEEN not in told:
            found += [
                f"{step.key} names what is not drawn: {said[0]}"
                for name, called in NAMED.items()
                if (said := re.search(rf"\b(?:{name})\b", told))
                and not any(one in drawn for one in called)
            ]
        touched = [lines[key] for key in step.touches if key in lines]
        cuts = [one for one in touched if one.kind is LineKind.CUT]
        if cuts and ACROSS.search(told) and not any(one.of for one in cuts):
            found.append(f"{step.key} cuts across the grain of nothing that is drawn")
        sawn = [one.key for one in touched if one.kind is LineKind.SAW]
        if sawn and "saw" not in told and step.machine != Machine.SAW:
            found.append(f"{step.key} does not say that {', '.join(sawn)} is sawn")
    return found + _ends(piece, drawing)


def _ends(piece: str, drawing: Drawing) -> list[str]:
    """An end has one name: each end of the whole piece's shape is an end of its drawing, unless that is
    a cut through the middle."""
    shape = part_of(piece, WHOLE)
    told = " ".join(drawing.ends.values())
    if shape is None or "end" not in told:
        return []
    return [
        f"no end is called “{end}”, as the layout does" for end in shape.ends if end not in told
    ]
