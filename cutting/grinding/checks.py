"""What is looked at when the grinder is cleaned and when it is set up.

Common practice, no published source; the maker's instructions, local codes and the shop's food-safety plan come
first.
"""

from __future__ import annotations

from collections.abc import Sequence

CLEANING = (
    "Plug pulled before a hand goes in",
    "Taken apart: ring, plate, knife, worm, throat",
    "Rinsed, washed, rinsed",
    "Sanitizer at the strength on its label",
    "Dried in the air, nothing left in the throat",
)
SETTING_UP = (
    "Plate and knife are a pair, sharp, not chipped",
    "Guard and stomper in place",
    "Bone trap or magnet in place and empty",
    "No metal, no oil, nothing loose; the meat is cold",
)


def left_out(wanted: Sequence[str], confirmed: Sequence[str]) -> list[str]:
    """The points that nobody confirmed, in their order."""
    return [point for point in wanted if point not in confirmed]
