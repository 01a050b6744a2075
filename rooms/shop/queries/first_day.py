"""How far the first day has come."""

from dataclasses import dataclass

from django.urls import reverse

from rooms.shop.models import FirstDayMark
from rooms.shop.queries.current import house
from rooms.shop.queries.progress import LEADING, SECTIONS, STEPS, Leading, sections_left, standing

DONE, NOW, LATER, ASIDE = "done", "now", "later", "aside"
STATE_WORDS = {DONE: "done", NOW: "now", LATER: "later", ASIDE: "put aside"}


@dataclass(frozen=True)
class StepView:
    """One step and where it stands: done, now, later or put aside."""

    number: int
    step: Leading
    state: str
    url: str

    @property
    def words(self) -> str:
        return STATE_WORDS[self.state]


@dataclass(frozen=True)
class FirstDay:
    steps: list[StepView]

    @property
    def now(self) -> StepView | None:
        return next((one for one in self.steps if one.state == NOW), None)

    @property
    def left(self) -> int:
        return sum(one.state in (NOW, LATER) for one in self.steps)


def first_day() -> FirstDay | None:
    """The steps; None once the first day is over. Two queries and one or two for each step."""
    if house().is_set_up:
        return None
    marks = standing()
    found: list[StepView] = []
    has_now = False
    for number, key in enumerate(STEPS, start=1):
        step = LEADING[key]
        if step.is_done():
            state = DONE
        elif marks.get(key) == FirstDayMark.Kind.ASIDE:
            state = ASIDE
        else:
            state, has_now = (LATER if has_now else NOW), True
        found.append(StepView(number, step, state, reverse(step.door)))
    return FirstDay(found)


def next_section(after: str = "") -> str | None:
    """The page of the settings that comes next on a first visit; None after the last."""
    left = sections_left(standing())
    later = SECTIONS[SECTIONS.index(after) + 1 :] if after in SECTIONS else SECTIONS
    return next((one for one in (*later, *SECTIONS) if one in left), None)
