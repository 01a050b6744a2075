"""What can be added to a test as another pile: the usual ones, and cuts by their letters."""

from dataclasses import dataclass

from cutting.sheet.cutting_test import same_name
from rooms.bench.models import CuttingTest
from rooms.bench.queries.rows import TestRows
from rooms.catalog.models import Cut, PlanOutput
from rooms.catalog.queries.finding import find_cuts

MOST_FOUND, MOST_USUAL = 8, 8
ALWAYS = (
    ("Lean trim", "lean"),
    ("Hard fat", "fat"),
    ("Bone", "bone"),
    ("Discard", "discard"),
    ("Purge", "purge"),
)


@dataclass(frozen=True)
class Addable:
    """One touch adds it: the name, the kind, the cut's key where there is one."""

    name: str
    pile: str
    cut: str = ""


def usual_piles(rows: TestRows) -> list[Addable]:
    """Piles of this piece's other plans, then what every piece gives: one query."""
    there = {same_name(output.name) for output in rows.outputs}
    outputs = PlanOutput.objects.filter(plan__piece=rows.test.piece_id, plan__is_dropped=False)
    offered = [
        Addable(o.name, o.pile, o.cut.key if o.cut else "")
        for o in outputs.select_related("cut").order_by("plan__position", "position")
    ] + [Addable(name, pile) for name, pile in ALWAYS]
    found: list[Addable] = []
    for one in offered:
        if same_name(one.name) not in there:
            there.add(same_name(one.name))
            found.append(one)
    return found[:MOST_USUAL]


def found_cuts(test: CuttingTest, typed: str) -> list[Cut] | None:
    """Cuts of the animal that the typed words find, the best first. None for too little."""
    return find_cuts(typed, test.species, MOST_FOUND)
