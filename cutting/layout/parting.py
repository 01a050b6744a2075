"""The ways one product may be cut: whole, parted lengthwise, butterflied. Common practice, no
published source."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace
from decimal import Decimal

from cutting.errors import BadValue
from cutting.layout.task import Slice
from cutting.quantities import HUNDRED, working

THIRDS = 3
ONE = Decimal(1)
TWO = Decimal(2)


def kinds(
    one: Slice, across: Iterable[int] = (1,), *, strip_lost: Decimal = Decimal(0), opens: bool
) -> tuple[Slice, ...]:
    """A product as each of the slices that give it.

    `across`: whole slices, halves, thirds. `strip_lost`: percent of the middle strip of thirds that
    goes with the rest: the heavy tendon. The strip is taken so much wider that all three portions weigh
    the same; at 100 it is no portion. `opens`: small faces may be cut twice as thick, nearly through,
    and opened.
    """
    if not 0 <= strip_lost <= HUNDRED:
        raise BadValue("Middle strip", f"{strip_lost:f} %", "0 to 100 is right")
    found = []
    for many in across:
        lost, portions = Decimal(0), many
        if many == THIRDS and strip_lost:
            with working():
                lost = strip_lost / HUNDRED / THIRDS
            portions = 2 if strip_lost == HUNDRED else THIRDS
        found.append(replace(one, across=portions, lost=lost))
    if opens and one.thinnest is not None and one.thickest is not None:
        found.append(
            replace(one, thinnest=one.thinnest * TWO, thickest=one.thickest * TWO, is_opened=True)
        )
    return tuple(found)
