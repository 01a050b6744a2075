"""The checks of a step, and the board between two animals."""

from collections.abc import Iterable

from rooms.bench.models import CuttingTest, StepCheck

BOARD = "board-sanitized"
"""The key of the check between two animals; it stands on the first step."""


def board_words(test: CuttingTest) -> str:
    """What is ticked when the test before was another animal, else nothing: one query."""
    before = CuttingTest.objects.filter(number__lt=test.number).order_by("-number")
    species = before.values_list("species", flat=True).first()
    return (
        f"Board and knives sanitized after {species}" if species not in (None, test.species) else ""
    )


def standing(checks: Iterable[StepCheck]) -> dict[str, StepCheck]:
    """Of ticks in their order, those that were not taken back."""
    last = {check.step_key: check for check in checks}
    return {key: check for key, check in last.items() if check.is_done}
