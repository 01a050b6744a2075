"""A piece's guide: its drawing, the steps of one plan, what the plan gives."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from cutting.errors import BadValue
from cutting.quantities import HUNDRED
from drawings import rails
from drawings.bar import BarPart
from rooms.catalog.models import Muscle, Piece, Plan, PlanOutput, Step
from rooms.catalog.queries.drawings import SeamView, drawing_of, drawn_for
from rooms.catalog.queries.looks import looks_in_order
from rooms.catalog.queries.places import made_words
from wording.pencil import percent


@dataclass(frozen=True)
class Chosen:
    """What a page asks for: the key of a plan and the number of a step, as typed."""

    plan: str = ""
    step: str = ""


@dataclass(frozen=True)
class Rows:
    """A piece with all its rows, from the database or not saved yet."""

    piece: Piece
    steps: Sequence[Step]
    plans: Sequence[Plan]
    outputs: Sequence[PlanOutput]
    """Outputs of the chosen plan only."""


@dataclass(frozen=True)
class Guide:
    piece: Piece
    plans: list[Plan]
    plan: Plan | None
    steps: list[tuple[int, Step]]
    number: int
    """Number of the current step; 0 when the whole piece is shown."""
    step: Step | None
    seam: SeamView | None
    outputs: list[tuple[PlanOutput, str]]
    rail: list[tuple[str, rails.PoundRail]]
    doubts: list[str]
    other_ways: list[Step]
    """What others do where the trade disagrees and the house has chosen."""

    @property
    def makes(self) -> list[str]:
        """What the current step makes in this plan, with thickness, weight and place as the plan has them."""
        return [
            made_words(self.piece.key, output)
            for output, _ in self.outputs
            if self.step and self.step.key in output.made_by
        ]

    @property
    def back(self) -> int | None:
        return self.number - 1 if self.number > 1 else None

    @property
    def next(self) -> int | None:
        return self.number + 1 if self.number < len(self.steps) else None


def guide(piece: Piece, chosen: Chosen) -> Guide:
    """A guide from the database: four queries beside the piece."""
    plans = list(Plan.in_house_order(piece.plans))
    plan = next((p for p in plans if p.key == chosen.plan), plans[0] if plans else None)
    outputs = (
        list(plan.outputs.select_related("cut__muscle").order_by("position", "id")) if plan else []
    )
    steps = list(piece.steps.order_by("position", "id"))
    return shape(Rows(piece, steps, plans, outputs), plan, chosen.step)


def steps_of(steps: Sequence[Step], *plans: Plan | None) -> list[tuple[int, Step]]:
    """The numbered steps of one plan, or of two in one piece, in the order of the guide."""
    mine = (step for step in steps if any(step.is_in(plan) for plan in plans))
    return list(enumerate(mine, start=1))


def shape(rows: Rows, plan: Plan | None, typed: str) -> Guide:
    """The guide of these rows; no query."""
    steps = steps_of(rows.steps, plan)
    number = int(typed) if typed.isascii() and typed.isdecimal() and len(typed) < 4 else 0
    number = number if number <= len(steps) else 0
    step = dict(steps).get(number)
    look = looks_in_order(rows.outputs)
    doubts = list(rows.piece.doubts)
    if rows.piece.item_number_source:
        number_words = (
            f"Item number {rows.piece.item_number}" if rows.piece.item_number else "No item number"
        )
        doubts.append(f"{number_words}: {rows.piece.item_number_source}.")
    return Guide(
        piece=rows.piece,
        plans=list(rows.plans),
        plan=plan,
        steps=steps,
        number=number,
        step=step,
        seam=seam_of(rows.piece, rows.steps, steps, number),
        outputs=list(zip(rows.outputs, look, strict=True)),
        rail=rail(rows.outputs),
        doubts=doubts,
        other_ways=[s for s in rows.steps if s.is_of(plan) and not s.is_house_way],
    )


def seam_of(
    piece: Piece,
    every: Iterable[Step],
    steps: Sequence[tuple[int, Step]],
    number: int = 0,
    only: str = "",
) -> SeamView | None:
    """The piece's drawing with the step's own parts lit, and no line that only other plans cut; None when
    it has no right drawing.

    `every`: all steps of the piece; `steps`: those that are shown, with their numbers.
    """
    if not piece.drawing:
        return None
    try:
        drawing = drawing_of(piece.key, piece.drawing)
    except BadValue:
        return None
    touched = [key for _, step in steps for key in step.touches]
    drawing = drawn_for(drawing, touched, (key for step in every for key in step.touches))
    numbers: dict[str, int] = {}
    for at, step in steps:
        for key in step.touches:
            numbers.setdefault(key, at)
    shown = dict(steps).get(number)
    lit = frozenset(shown.touches) if shown else frozenset()
    if shown:
        numbers |= dict.fromkeys(shown.touches, number)
    words = f"{piece.shown_name}: {drawing.view}"
    if shown:
        words += f". Step {number}: {shown.title}"
    return SeamView(drawing, lit, numbers, words, id=f"seam-{piece.key}", only=only)


def rail(outputs: Sequence[PlanOutput]) -> list[tuple[str, rails.PoundRail]]:
    """What a plan usually gives, as a rail of 100 %."""
    parts = [
        BarPart(o.name, o.share * HUNDRED, percent(o.share), look)
        for o, look in zip(outputs, looks_in_order(outputs), strict=True)
        if o.share
    ]
    if not parts:
        return []
    return [
        (glass, rails.pound_rail(parts, HUNDRED, "100 %", frame))
        for glass, frame in (("wide", rails.WIDE), ("narrow", rails.NARROW))
    ]


def muscles_of(guide: Guide) -> list[Muscle]:
    """The muscles of the drawing, with their Latin names: one query."""
    if guide.seam is None:
        return []
    return list(Muscle.objects.filter(key__in=guide.seam.drawing.muscles).order_by("name"))
