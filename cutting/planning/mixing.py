"""A bag cut by two ways, or a part of it put back: ways made of those there are, at equal steps.

Common practice, no published source: the first part plain, the rest by its seams.
"""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from dataclasses import replace
from decimal import Decimal
from fractions import Fraction

from cutting.errors import BadValue
from cutting.planning.day import Day, DayWay
from cutting.quantities import ONE, ZERO, working

FEWEST_STEPS, MOST_STEPS = 2, 10


def mixed(day: Day, steps: int) -> Day:
    """The day with every bag also cut by two of its ways, split at a step, or a part of it put back.

    A bag that must be cut is cut whole. Raises BadValue for steps other than 2 to 10.
    """
    if not FEWEST_STEPS <= steps <= MOST_STEPS:
        raise BadValue("steps", f"{steps}", f"{FEWEST_STEPS} to {MOST_STEPS} are right")
    made: dict[str, DayWay] = {}
    bags = []
    for bag in day.bags:
        own = [day.ways[day.by_id[one]] for one in bag.ways]
        more = _two_ways(own, steps) + ([] if bag.must else _put_back(own, steps))
        made |= {way.id: way for way in more}
        bags.append(replace(bag, ways=(*bag.ways, *(way.id for way in more))))
    return replace(day, ways=(*day.ways, *made.values()), bags=tuple(bags))


def _two_ways(own: Sequence[DayWay], steps: int) -> list[DayWay]:
    return [
        _blend(((one, Fraction(step, steps)), (other, Fraction(steps - step, steps))))
        for one, other in itertools.combinations(own, 2)
        for step in range(1, steps)
    ]


def _put_back(own: Sequence[DayWay], steps: int) -> list[DayWay]:
    return [_blend(((one, Fraction(step, steps)),)) for one in own for step in range(1, steps)]


def _blend(parts: Sequence[tuple[DayWay, Fraction]]) -> DayWay:
    with working():
        shares = [(way, ONE * part.numerator / part.denominator) for way, part in parts]
        outputs: dict[str, Decimal] = {}
        for way, part in shares:
            for name, share in way.outputs:
                outputs[name] = outputs.get(name, ZERO) + share * part
        return DayWay(
            id="+".join(f"{way.id}@{part}" for way, part in parts),
            name=" and ".join(
                f"{part} {way.name.partition(': ')[2] or way.name}" for way, part in parts
            ),
            minutes=sum((way.minutes for way, _ in parts), ZERO),
            minutes_per_lb=sum((way.minutes_per_lb * part for way, part in shares), ZERO),
            outputs=tuple(outputs.items()),
            species=parts[0][0].species,
            machines=frozenset().union(*(way.machines for way, _ in parts)),
            waits=any(way.waits for way, _ in parts),
            part=sum((part for _, part in shares), ZERO),
            parts=tuple((way.id, part) for way, part in shares),
        )
