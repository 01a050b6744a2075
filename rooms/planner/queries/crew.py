"""Who stands at the block today: hours, machines, and the pieces they have cut before."""

from collections import defaultdict
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from decimal import Decimal
from fractions import Fraction
from typing import Any

from cutting.planning.hands import GRINDER_A_LB, GRINDER_SET_UP, SET_UP, WAIT, WASH
from cutting.quantities import ZERO, Weight, working
from cutting.sheet.machines import Machine
from cutting.sheet.portioning import parse_thickness
from rooms.bench.models import CuttingTest
from rooms.catalog.models import Plan, PlanOutput, Step
from rooms.staff.models import Person, names
from rooms.staff.rights import Right

THIN = Fraction(3, 8)
"""Inches: slices as thin as that are cut from firmed meat. Common practice, no published source."""


@dataclass(frozen=True)
class DayAsked:
    """What somebody asks of a day."""

    minutes: Mapping[int, Decimal]
    """Of each who is there, by the person's id."""
    least_products: int = 0
    pins: Mapping[str, str] = field(default_factory=dict)
    """Bags that somebody set: the id of a plan, or nothing for “not today”."""
    is_anyone: bool = False
    """Anybody may cut a piece they have never cut."""
    wash: Decimal = WASH
    saw: Decimal = SET_UP
    wait: Decimal = WAIT
    freezer: Weight | None = None
    steps: int = 1

    @property
    def in_all(self) -> Decimal:
        with working():
            return sum(self.minutes.values(), ZERO)


def people() -> list[Person]:
    """Who may work at the block: one query."""
    return list(Person.objects.filter(is_active=True, role__in=Right.WEIGH.roles))


def machines_of(person: Person) -> list[str]:
    """Nobody under 18 runs, sets up or cleans one (29 CFR 570.61)."""
    return [] if person.is_under_18 else sorted(one.value for one in Machine)


def block(
    asked: DayAsked, ways: Sequence[tuple[str, Plan]], ground: list[str]
) -> tuple[dict[str, Any], str]:
    """Those who are there as the day's document has them, and what nobody of them can do: two
    queries."""
    here = [one for one in people() if one.pk in asked.minutes]
    shown, cut = names(here), _cut_before([one.pk for one in here])
    known = set().union(*cut.values()) if cut else set()
    rows = []
    for one in here:
        row: dict[str, Any] = {
            "name": shown[one.pk],
            "person": one.pk,
            "minutes": f"{asked.minutes[one.pk]:f}",
            "machines": machines_of(one),
        }
        if not asked.is_anyone:
            new = one.role != Person.Role.APPRENTICE
            row["ways"] = [
                key
                for key, plan in ways
                if plan.piece_id in cut[one.pk] or (new and plan.piece_id not in known)
            ]
        rows.append(row)
    found: dict[str, Any] = {
        "cutters": rows,
        "wash": f"{asked.wash:f}",
        "saw": f"{asked.saw:f}",
        "wait": f"{asked.wait:f}",
        "steps": asked.steps,
    }
    if asked.freezer is not None:
        unit = asked.freezer.unit.value
        found["freezer"] = {"value": f"{asked.freezer.value:f}", "unit": unit}
    if not ground:
        return found, ""
    if not any(Machine.GRINDER in row["machines"] for row in rows):
        return found, "The grinder: nobody there may run it; trim is kept for another day"
    found["grind"] = {
        "products": ground,
        "minutes": f"{GRINDER_SET_UP:f}",
        "minutes_per_lb": f"{GRINDER_A_LB:f}",
    }
    return found, ""


def _cut_before(ids: list[int]) -> dict[int, set[int]]:
    """The pieces each has cut, by the person's id: one query."""
    found: dict[int, set[int]] = {one: set() for one in ids}
    tests = CuttingTest.objects.filter(cutter__in=ids).order_by()
    for person, piece in tests.values_list("cutter_id", "piece_id").distinct():
        found[person].add(piece)
    return found


def machines_needed(plans: Sequence[Plan]) -> dict[int, list[str]]:
    """Machines of each plan, by its id: its saw, and those of its steps. One query."""
    found: dict[int, set[str]] = defaultdict(set)
    steps = Step.objects.filter(piece__in={plan.piece_id for plan in plans}).exclude(machine="")
    by_piece: dict[int, list[Step]] = defaultdict(list)
    for step in steps:
        by_piece[step.piece_id].append(step)
    for plan in plans:
        if plan.is_sawn:
            found[plan.pk].add(Machine.SAW.value)
        of_plan = [step for step in by_piece[plan.piece_id] if step.is_of(plan)]
        found[plan.pk] |= {step.machine for step in of_plan if step.machine != Machine.SAW}
    return {plan: sorted(own) for plan, own in found.items()}


def is_firmed(rows: Iterable[PlanOutput]) -> bool:
    """Whether a plan cuts slices so thin that its meat is firmed first."""
    thick = [parse_thickness(row.thickness) for row in rows if row.thickness]
    return any(one is not None and one <= THIN for one in thick)
