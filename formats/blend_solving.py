"""Solving what `blend` reads. Only the solver's own process and the command line import this module."""

from __future__ import annotations

from cutting.errors import BadDocument, Fault
from cutting.grinding.blend import Blend, Blended, NoBlend
from cutting.grinding.blend_solver import cheapest
from cutting.quantities import Unit, round_half_up, working
from formats.result import plain

FOUR = 4


def solve_blend(blend: Blend) -> Blended:
    """The cheapest. Raises BadDocument with what each batch could have alone."""
    try:
        return cheapest(blend)
    except NoBlend as none:
        raise BadDocument(_cannot(blend, none)) from None


def _cannot(blend: Blend, none: NoBlend) -> tuple[Fault, ...]:
    faults = []
    for k, (batch, one) in enumerate(zip(blend.batches, none.reaches, strict=True)):
        path = f"$.batches[{k}]"
        if one.least is None or one.most is None:
            with working():
                own = none.missing[k] * Unit.LB.grams / batch.weight.unit.grams
            short = f"{plain(round_half_up(own, FOUR))} {batch.weight.unit.value} are missing"
            faults.append(Fault(f"{path}.weight", short, "more that may go in is right"))
            continue
        low, high = (f"{round_half_up(value, FOUR):f}" for value in (one.least, one.most))
        wanted = f"{plain(batch.least)} to {plain(batch.top)}"
        right = f"{low} to {high} can be had for its weight alone"
        faults.append(Fault(f"{path}.fat", f"{wanted} cannot be had beside the rest", right))
    faults += [
        Fault(f"$.tubs[{t}].must", f"{blend.tubs[t].name!a} may go into no batch", "false is right")
        for t in none.musts
    ]
    return tuple(faults)
