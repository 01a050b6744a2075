"""What can be chosen for a test at the block, and what was."""

from dataclasses import dataclass

from cutting.sheet.choices import FAT_LEVELS, TARGETS, THICKNESSES
from cutting.words.block import opening_words
from rooms.bench.models import Choice, CuttingTest


@dataclass(frozen=True)
class Offer:
    """One kind of choice: its values to touch, and an example where another may be typed."""

    name: str
    label: str
    values: tuple[str, ...]
    other: str = ""
    keys: str = "decimal"


OFFERS = [
    Offer("target", "target of a portion", TARGETS, "180 g", "text"),
    Offer("thickness", "thickness", THICKNESSES, "1 3/4 in", "text"),
    Offer("tray", "portions in a tray", ("0", "1", "2", "3", "4", "5", "6", "8")),
    Offer("value", "by-product value a lb or kg", (), "1.20"),
    Offer("fat", "fat left on", FAT_LEVELS),
]


def chosen_for(test: CuttingTest) -> list[Choice]:
    """Every choice of a test, in order: one query."""
    return list(test.choices.select_related("output", "by"))


def opened_as(test: CuttingTest) -> list[str]:
    """What everybody who handles the test should know of its piece."""
    return opening_words(test.too_young, test.young_reason, was_frozen=test.was_frozen)
