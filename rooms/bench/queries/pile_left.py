"""What lies on a pile: what was weighed onto it less what left it. The one function for it.

Later rooms take meat off piles (tubs of the grinder, trays); each registers here how much it took, so that
nothing is there twice.
"""

from collections import defaultdict
from collections.abc import Callable, Collection, Iterable, Mapping
from decimal import Decimal

from cutting.quantities import ZERO, Unit, Weight, working
from rooms.bench.models import Output
from rooms.bench.queries.rows import TestRows

Taker = Callable[[Collection[int]], Mapping[int, Decimal]]
"""Given ids of piles, the grams that were taken of each: one query."""
_TAKERS: dict[str, Taker] = {}


def register_taker(name: str, taker: Taker) -> None:
    """Let a later room say what it took off piles. Called once, when its application starts."""
    _TAKERS[name] = taker


def grams_taken(outputs: Collection[int]) -> dict[int, Decimal]:
    """Return what left these piles, by their id: one query for each room that takes, none without piles."""
    found: dict[int, Decimal] = defaultdict(lambda: ZERO)
    if not outputs:
        return found
    with working():
        for taker in _TAKERS.values():
            for output, grams in taker(outputs).items():
                found[output] += grams
    return found


def left_on_piles(tests: Iterable[TestRows]) -> dict[int, Weight]:
    """Return what lies on every pile of some tests, in the unit of each test; below 0 where a sheet was
    corrected to less than what had left it."""
    some = list(tests)
    taken = grams_taken([output.pk for rows in some for output in rows.outputs])
    return {
        output.pk: _less(rows, output, taken.get(output.pk, ZERO))
        for rows in some
        for output in rows.outputs
    }


def left_on_pile(rows: TestRows, output: Output) -> Weight:
    """Return what lies on one pile, in the test's unit."""
    return _less(rows, output, grams_taken([output.pk]).get(output.pk, ZERO))


def _less(rows: TestRows, output: Output, grams: Decimal) -> Weight:
    unit = Unit(rows.test.weight_unit)
    with working():
        lies = sum((one.reading.weight.to(unit) for one in rows.of(output)), ZERO)
        return Weight(lies - Weight(grams, Unit.G).to(unit), unit)
