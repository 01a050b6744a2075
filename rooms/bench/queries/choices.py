"""What can be chosen for a test at the block, and what was."""

from dataclasses import dataclass

from cutting.cooler.quality import Damage, Quality
from cutting.sheet.choices import FAT_LEVELS, TARGETS, THICKNESSES
from rooms.bench.models import Choice, CuttingTest
from wording.block import chosen_words, opening_words
from wording.cooler import quality_words


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
SPLIT = Offer("split", "first part", ("25 %", "33 %", "50 %", "67 %", "75 %"), "40")


def offers(test: CuttingTest) -> list[Offer]:
    """What can be chosen for this test; the split only where two plans share the piece."""
    return [*OFFERS, SPLIT] if test.second_plan_id else OFFERS


def chosen_for(test: CuttingTest) -> list[Choice]:
    """Every choice of a test, in order: one query, none where nothing was chosen."""
    return list(test.choices.select_related("output", "by")) if test.has_choices else []


def opened_as(test: CuttingTest) -> list[str]:
    """What everybody who handles the test should know of its piece."""
    return opening_words(test.too_young, test.young_reason, was_frozen=test.was_frozen)


def chosen_and_seen(test: CuttingTest) -> list[str]:
    """What was chosen for the whole test, and what was seen on its piece."""
    damage = frozenset(Damage(kind) for kind in test.damage)
    seen = quality_words(Quality(damage, test.marbling), test.claims)
    return [*chosen_words(test.fat_level, test.percent_off), *seen]
