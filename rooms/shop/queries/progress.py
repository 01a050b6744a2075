"""The steps of a shop's first day, in order. Each room says itself whether its step is done."""

from collections.abc import Callable
from dataclasses import dataclass

from rooms.shop.models import FirstDayMark

SECTIONS = ("name", "place", "money", "cooler", "scales", "house")
"""The pages of the settings, in the order of a first visit."""
SETTINGS = "settings"
STEPS = (SETTINGS, "pieces", "products", "people", "scale", "first")
ALL = (*STEPS, *(f"{SETTINGS}-{section}" for section in SECTIONS))


@dataclass(frozen=True)
class Leading:
    """One step: what it is, why, where it is done (the name of an address)."""

    key: str
    title: str
    why: str
    door: str
    is_done: Callable[[], bool]


LEADING: dict[str, Leading] = {}


def lead(*steps: Leading) -> None:
    """A room says, when it starts, where its step is done."""
    LEADING.update({step.key: step for step in steps})


def standing() -> dict[str, str]:
    """The last mark of each step: one query."""
    return dict(FirstDayMark.objects.order_by("id").values_list("step", "kind"))


def sections_left(marks: dict[str, str]) -> list[str]:
    """The pages of the settings that nobody has looked through yet."""
    done = FirstDayMark.Kind.DONE
    return [one for one in SECTIONS if marks.get(f"{SETTINGS}-{one}") != done]
