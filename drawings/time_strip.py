"""The minutes of a test as one strip, step by step."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from cutting.sheet.time_spent import NONE, Spent, minutes
from drawings.lettering import text_width


@dataclass(frozen=True, slots=True)
class Stretch:
    """One piece of the strip, in pixels: its number where that fits, and its whole minutes."""

    x: float
    width: float
    name: str
    minutes: int
    number: str
    is_work: bool

    @property
    def middle(self) -> float:
        return round(self.x + self.width / 2, 1)


def time_strip(
    spent: Spent, titles: Mapping[str, str], width: float = 880.0, size: float = 15.0
) -> tuple[Stretch, ...]:
    """Work by step in the order it was begun, then what was interrupted, on one strip.

    The widths add up to `width`; nothing was marked: an empty strip.
    """
    parts = [(titles.get(key) or "no step", long, True) for key, long in spent.by_step.items()]
    parts.append(("interrupted", spent.interrupted, False))
    parts = [part for part in parts if part[1] > NONE]
    whole = sum((long for _, long, _ in parts), NONE)
    found, before = [], NONE
    for place, (name, long, is_work) in enumerate(parts, start=1):
        x = round(width * (before / whole), 1)
        before += long
        wide = round(width * (before / whole) - x, 1)
        number = str(place) if text_width(str(place), size) + 6 <= wide else ""
        found.append(Stretch(x, wide, name, minutes(long), number, is_work))
    return tuple(found)
