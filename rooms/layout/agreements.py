"""Whether what is written of a piece agrees: plans, shapes, guides, drawings, cards, names.

What `manage.py agreements` prints, and what the tests ask of everything that ships.
"""

import re
from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from decimal import Decimal
from fractions import Fraction
from functools import cached_property

from cutting.layout.aims import Aim, lay_out_for
from cutting.layout.placing import THICKER, THINNER
from cutting.layout.profile import MM
from cutting.layout.solver import Grid, NoLayout
from cutting.layout.task import Layout, Task
from cutting.layout.ways import elsewhere
from cutting.quantities import Unit, UnitPrice
from cutting.sheet.cutting_test import Role
from cutting.sheet.machines import Machine
from cutting.sheet.portioning import parse_thickness
from cutting.shopper import Grade, Method, grades_of
from rooms.catalog.models import Cut, Piece, Plan, PlanOutput, Step
from rooms.catalog.queries.drawings import drawing_of
from rooms.catalog.queries.drawn import drawn_faults
from rooms.catalog.queries.naming import shared, shown_names
from rooms.catalog.queries.places import Place, place_faults
from rooms.catalog.queries.rows import cut_document, document_of
from rooms.catalog.queries.shapes import WHOLE, Shape, shapes
from rooms.common.errors import BadInput
from rooms.layout.forms import read, with_bones
from rooms.layout.queries.first import (
    Lying,
    Prices,
    many_of,
    names_parts,
    usual_weight,
)
from wording.shopper import PINK, STEAKS

CLOSE = Decimal("0.08")
"""How far a laid out share may be from the usual one, and how much may be left over. House rule."""
STAND_IN = UnitPrice(Decimal(10), Unit.LB)
"""A price for every cut: how a plan is laid out must not hang on what the shop asks today."""
ROUNDED = MM["in"] / 16
"""A limit is told to a line of the tape."""
NUMBER = r"\d+(?:\.\d+)?(?: \d+/\d+|/\d+)?"
SAID = re.compile(rf"({NUMBER})(?: (?:to|or) ({NUMBER}))? in\b")


@dataclass(frozen=True)
class LaidPart:
    """One part of a piece laid out by one plan, at stand-in prices."""

    shape: Shape
    lying: Lying
    task: Task
    layout: Layout

    @cached_property
    def weights(self) -> dict[str, Fraction]:
        """By the name of the product, in the piece's unit."""
        found: dict[str, Fraction] = {}
        for part in self.layout.slices:
            name = self.task.products[part.product or 0].name
            found[name] = found.get(name, Fraction(0)) + part.weight
        return found

    def left_over(self) -> Fraction:
        """The share of what the plan cuts here that no product takes. A face is a face, dust is dust."""
        task, first = self.task, self.layout.parts[0]
        other = elsewhere(self.layout)
        whole = Fraction(task.weight.value) - other - self.layout.kerf_weight
        face = Fraction(0)
        if first.product is None and task.at(first.end) >= task.near:
            face = Grid(task).weight(0, int(task.near / task.step))
        return (self.layout.rest_weight - other - face) / whole


def laid_parts(
    piece: Piece, plan: Plan, outputs: list[PlanOutput], bones: int | None = None
) -> Iterator[LaidPart | str]:
    """Each part that the plan cuts, as its page opens it; in words why one cannot be laid out. `bones`:
    how many were counted."""
    keys = {one.cut.key for one in outputs if one.cut}
    prices = Prices(dict.fromkeys(keys, STAND_IN))
    counted = "" if bones is None else f"{bones}"
    for plain in shapes().get(piece.key, ()):
        if not any(one.part == (plain.key or WHOLE) for one in outputs):
            continue
        shape = with_bones(plain, counted)
        asked_for = {"plan": plan.key, "part": plain.key}
        if counted and plain.bones:
            asked_for["bones"] = counted
        reading = read(asked_for, piece, prices)
        lying = Lying(shape, shape.length, outputs, prices)
        if not lying.rows():
            continue
        try:
            asked, task = reading.task
            yield LaidPart(shape, lying, task, lay_out_for(task, asked.aim or Aim.MONEY))
        except (BadInput, NoLayout) as no:
            yield f"{shape.name or piece.name}: {no}"


def layout_faults(piece: Piece, plan: Plan, outputs: list[PlanOutput]) -> list[str]:
    """Where the layout that opens for a plan parts from the plan: products, shares, thickness,
    counts, what is left over."""
    found = []
    usual = usual_weight(piece)
    for laid in laid_parts(piece, plan, outputs):
        if isinstance(laid, str) or usual is None:
            found.append(f"{laid}")
            continue
        where = f"{laid.shape.name or 'whole'}: "
        whole = Fraction(usual.to(laid.task.unit))
        for output in laid.lying.own:
            found += [where + one for one in _of_product(laid, output, whole)]
        left = laid.left_over()
        if left > CLOSE:
            found.append(f"{where}{float(left):.1%} is left over")
    return found


def _of_product(laid: LaidPart, output: PlanOutput, whole: Fraction) -> Iterator[str]:
    weight = laid.weights.get(output.name)
    if weight is None:
        yield f"no {output.name} is laid out"
        return
    share = Fraction(output.share or 0)
    if abs(weight / whole - share) > CLOSE:
        yield f"{output.name} is {float(weight / whole):.1%} of the piece, usually {float(share):.1%}"
    mm = Place.of_row(output).thickness_mm
    task = laid.task
    for part in laid.layout.slices:
        product = task.products[part.product or 0]
        if product.name != output.name or mm is None or product.bones:
            continue
        thick = task.at(part.end) - task.at(part.start)
        times = 2 if product.is_opened else 1
        if not mm * THINNER - ROUNDED <= thick / times <= mm * THICKER + ROUNDED:
            yield f"{output.name} is cut {thick / MM['in']:.2f} in, not {output.thickness}"
    counts = many_of(output.usual_count)
    if counts and laid.layout.portions[output.name] not in counts:
        many = laid.layout.portions[output.name]
        yield f"{many} × {output.name}, usually {output.usual_count}"


def guide_faults(outputs: list[PlanOutput], steps: list[Step]) -> list[str]:
    """Products whose thickness is none that the steps which make them name."""
    by_key = {step.key: step for step in steps}
    found = []
    for output in outputs:
        inches = parse_thickness(output.thickness) if output.thickness else None
        made_by = [by_key[key] for key in output.made_by if key in by_key]
        said = [one for step in made_by for one in said_inches(f"{step.title}. {step.do}")]
        if inches is None or not said:
            continue
        if not any(
            low * Fraction(THINNER) <= inches <= high * Fraction(THICKER) for low, high in said
        ):
            titles = "; ".join(step.title for step in made_by)
            found.append(f"{output.name} is {output.thickness}; its steps say otherwise: {titles}")
    return found


def said_inches(text: str) -> list[tuple[Fraction, Fraction]]:
    """Lengths that a sentence names in inches, a range as its two ends."""
    found = []
    for low, high in SAID.findall(text):
        one, other = parse_thickness(f"{low} in"), parse_thickness(f"{high or low} in")
        if one and other:
            found.append((min(one, other), max(one, other)))
    return found


def bone_counts(piece: Piece) -> list[int]:
    """How many bones of a piece may be counted where knives go between them."""
    return sorted({many for shape in shapes().get(piece.key, ()) for many in shape.bone_counts})


def bone_faults(piece: Piece, plan: Plan, outputs: list[PlanOutput]) -> list[str]:
    """Compositions between the bones that the plan asks for and that cannot be laid out."""
    found = []
    for bones in bone_counts(piece):
        for laid in laid_parts(piece, plan, outputs, bones):
            if isinstance(laid, str):
                found.append(f"{bones} bones, {laid}")
                continue
            missing = [one.name for one in laid.lying.own if one.name not in laid.weights]
            apart = [row["name"] for row in laid.lying.apart_rows()]
            missing += [name for name in apart if name not in laid.weights]
            found += [f"{bones} bones: no {name} is laid out" for name in missing]
    return found


SIMMERED = {Method.BRAISE, Method.SLOW}


def card_faults(cuts: Iterable[Cut]) -> list[str]:
    """Cards that call the safe minimum done, or that do not say how one sees that it is done."""
    found = []
    for cut in cuts:
        told = cut.told
        best = {way for way, grade in grades_of(cut.grades).items() if grade == Grade.BEST}
        if re.search(r"\d{2,3} ?°", f"{cut.cooking} {cut.done}"):
            found.append(f"{cut.name}: a temperature stands in its own words: {cut.cooking}")
        if best and best <= SIMMERED and not cut.done:
            found.append(f"{cut.name}: braised or slow, and nothing says when it is done")
        is_steak = bool(best & set(STEAKS)) and cut.species in PINK
        if is_steak and not (cut.is_ground or cut.is_cubed or cut.is_tenderized or told.doneness):
            found.append(f"{cut.name}: a steak without a line of doneness")
    return found


def step_faults(outputs: list[PlanOutput], steps: list[Step]) -> list[str]:
    """Steps at the tenderizer whose products no label would tell of."""
    found = []
    for step in steps:
        made = [one.cut for one in outputs if step.key in one.made_by and one.cut]
        if step.machine == Machine.TENDERIZER and not any(
            cut.is_tenderized or cut.is_cubed for cut in made
        ):
            names = ", ".join(cut.name for cut in made) or "nothing"
            found.append(
                f"{step.title}: it makes {names}, which no label calls tenderized or cubed"
            )
    return found


def name_faults(cuts: Iterable[Cut]) -> dict[str, list[str]]:
    """By the key of a cut: names that it is shown by and that another muscle of its animal is shown by
    too. A synonym may be shared: the pages of both say so."""
    found: dict[str, list[str]] = {}
    for some in shared(shown_names({cut.key: cut_document(cut) for cut in cuts})):
        for one in some:
            others = ", ".join(other.key for other in some if other is not one)
            found.setdefault(one.key, []).append(f"“{one.name}” is {one.key} and {others}")
    return found


AGREEMENTS = ("layout", "part", "bones", "guide", "drawing", "card", "names", "steps", "minutes")


@dataclass(frozen=True)
class Agreement:
    """One piece with what was found by each agreement; None where nothing could be compared."""

    piece: Piece
    found: dict[str, list[str] | None]

    @property
    def faults(self) -> list[str]:
        return [f"{name}: {one}" for name, some in self.found.items() for one in some or ()]


def agreements(pieces: Iterable[Piece]) -> Iterator[Agreement]:
    """Compare everything that is written of these pieces; some seconds a piece with a shape."""
    cuts = list(Cut.objects.select_related("muscle"))
    taken = name_faults(cuts)
    muscles = {cut.key: cut.muscle.key for cut in cuts if cut.muscle}
    for piece in pieces:
        steps, document = list(piece.steps.all()), document_of(only=piece.key)["pieces"][piece.key]
        found: dict[str, list[str] | None] = dict.fromkeys(AGREEMENTS)

        def add(name: str, faults: list[str], found: dict[str, list[str] | None] = found) -> None:
            found[name] = [*(found[name] or []), *faults]

        if piece.drawing:
            add("drawing", drawn_faults(piece.key, drawing_of(piece.key, piece.drawing), steps))
        for plan in piece.plans.all():
            outputs = list(
                PlanOutput.objects.filter(plan=plan, cut__isnull=False)
                .select_related("cut__muscle", "plan__piece")
                .order_by("position", "id")
            )
            own = [one for one in outputs if one.role in (Role.MAIN, Role.SECONDARY)]
            written = next(one for one in document["plans"] if one["key"] == plan.key)
            if names_parts(own):
                add("layout", layout_faults(piece, plan, own))
                placed = place_faults(piece.key, usual_weight(piece), written, muscles)
                add("part", [str(fault) for _, fault in placed])
            if bone_counts(piece):
                add("bones", bone_faults(piece, plan, own))
            add("guide", guide_faults(own, steps))
            add("card", card_faults(one.cut for one in outputs if one.cut))
            add("names", [each for one in own if one.cut for each in taken.get(one.cut.key, [])])
            add("steps", step_faults(own, [step for step in steps if step.is_of(plan)]))
            add("minutes", [] if plan.minutes_per_lb else [f"{plan.name}: nobody said how long"])
        yield Agreement(piece, found)
