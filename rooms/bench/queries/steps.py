"""The current step at the block, with its drawing and its check."""

from collections.abc import Sequence
from dataclasses import dataclass

from django.db.models import prefetch_related_objects

from rooms.bench.models import CuttingTest, StepCheck
from rooms.bench.queries.checks import BOARD, board_words, standing
from rooms.catalog.models import Plan, Step
from rooms.catalog.queries.drawings import SeamView
from rooms.catalog.queries.guide import seam_of, steps_of


@dataclass(frozen=True)
class Tick:
    """Something to tick on a step, and its standing tick."""

    key: str
    text: str
    done: StepCheck | None


@dataclass(frozen=True)
class StepAtBlock:
    """One step of the plan; `number` 0 when the piece has none."""

    test: CuttingTest
    number: int
    count: int
    step: Step | None
    seam: SeamView | None
    ticks: list[Tick]
    left: int
    """Checks not ticked yet."""

    @property
    def back(self) -> int | None:
        return self.number - 1 if self.number > 1 else None

    @property
    def next(self) -> int | None:
        return self.number + 1 if self.number < self.count else None


def with_guide(test: CuttingTest) -> None:
    """Piece, its steps and plan of the test in two queries, where it has a plan."""
    if test.plan_id is not None and "plan" not in test._state.fields_cache:
        test.plan = Plan._base_manager.select_related("piece").get(pk=test.plan_id)
        prefetch_related_objects([test.plan.piece], "steps")
        test.piece = test.plan.piece


def step_at_block(test: CuttingTest, typed: str) -> StepAtBlock:
    """The step a tablet asks for, else the first: four queries beside test and piece."""
    with_guide(test)
    every = list(test.piece.steps.all())
    steps = steps_of(every, *test.plans)
    number = int(typed) if typed.isascii() and typed.isdecimal() and len(typed) < 4 else 1
    number = min(max(number, 1), len(steps)) if steps else 0
    ticks = _ticks(test, steps, standing_checks(test))
    return StepAtBlock(
        test=test,
        number=number,
        count=len(steps),
        step=dict(steps).get(number),
        seam=seam_of(test.piece, every, steps, number, only="narrow"),
        ticks=ticks.get(number, []),
        left=sum(tick.done is None for some in ticks.values() for tick in some),
    )


def checks_of(test: CuttingTest) -> list[Tick]:
    """Every check of the test's plan in the order of its steps, ticked or not: three queries.

    A tick that was set stays, though its step has left the guide since.
    """
    with_guide(test)
    steps = steps_of(list(test.piece.steps.all()), *test.plans)
    standing = standing_checks(test)
    found = [tick for some in _ticks(test, steps, standing).values() for tick in some]
    named = {tick.key for tick in found}
    return found + [
        Tick(key, done.text, done) for key, done in standing.items() if key not in named
    ]


def _ticks(
    test: CuttingTest, steps: Sequence[tuple[int, Step]], ticked: dict[str, StepCheck]
) -> dict[int, list[Tick]]:
    """What there is to tick, by the number of the step: one query."""
    board = board_words(test)
    found: dict[int, list[Tick]] = {}
    if board:
        found[min(len(steps), 1)] = [Tick(BOARD, board, ticked.get(BOARD))]
    for at, step in steps:
        if step.tick:
            found.setdefault(at, []).append(Tick(step.key, step.tick, ticked.get(step.key)))
    return found


def standing_checks(test: CuttingTest) -> dict[str, StepCheck]:
    """The ticks that stand, by the key of their step: one query."""
    return standing(test.checks.select_related("by").order_by("id"))
