"""Whether the grinder may run: cleaned, set up since, and nothing of another animal in it."""

from dataclasses import dataclass

from cutting.meat import Meat, why_clean_first
from cutting.sheet.machines import LAW
from rooms.grinder.models import Batch, CleanDown

FOR_ADULTS = f"Nobody under 18 runs, sets up or cleans the grinder ({LAW})"


@dataclass(frozen=True)
class Machine:
    """The last clean-down, the set-up since (None where there is none), and the last batch since."""

    cleaned: CleanDown | None
    set_up: CleanDown | None
    last: Batch | None

    def why_not(self, last: Meat | None, now: Meat) -> str:
        """Why it may not grind this meat now; empty where it may. `last`: what its last batch is."""
        if self.cleaned is None:
            return "Grinder: no clean-down is on record; clean and sanitize it first."
        if self.set_up is None:
            return "Grinder: it was not set up since it was cleaned; set it up first."
        why = why_clean_first(last, now) if last is not None else ""
        return f"Grinder: {why}." if why else ""


LAST = 40
"""Rows in which the last clean-down and what came since are looked for."""


def machine_now() -> Machine:
    """Two queries."""
    rows = list(CleanDown.objects.standing()[:LAST])
    is_cleaned = CleanDown.What.CLEANED
    cleaned = next((one for one in rows if one.what == is_cleaned), None)
    if cleaned is None:
        cleaned = CleanDown.objects.standing().filter(what=is_cleaned).first()
    if cleaned is None:
        return Machine(None, None, None)
    since = (one for one in rows if one.what == CleanDown.What.SET_UP and one.at >= cleaned.at)
    last = Batch.objects.standing().filter(cleaned=cleaned).first()
    return Machine(cleaned, next(since, None), last)
