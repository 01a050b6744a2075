"""What a test's prices rest on: all balanced tests of its piece and plan, pooled, or it alone."""

from dataclasses import dataclass
from uuid import UUID

from cutting.sheet.cutting_test import CuttingTest as CoreTest
from cutting.sheet.cutting_test import same_name
from cutting.sheet.yields import Rest, rest_on
from rooms.bench.models import Output
from rooms.bench.queries.pool import MOST_TESTS, balances, of_same_plan, pool
from rooms.bench.queries.rows import TestRows
from rooms.bench.queries.sheet import weighed
from wording.yields import rest_words, share_words

POOLED, ALONE = "pooled", "alone"


@dataclass(frozen=True)
class Resting:
    """`kept`: the output rows in the order of the core test's outputs. `rest` None: one test."""

    rows: TestRows
    test: CoreTest
    kept: list[Output]
    rest: Rest | None
    tests: list[tuple[UUID, int]]
    others: int
    """How many other tests there are to pool with."""
    is_sound: bool = True
    """The test itself comes back to its weight; else it is left out of the pool."""

    @property
    def is_pooled(self) -> bool:
        return self.rest is not None

    @property
    def words(self) -> str:
        """With how many tests and how sure."""
        return rest_words(self.rest, self.test.piece, others=self.others, is_sound=self.is_sound)

    def share_words(self, output: Output) -> str:
        """The pooled yield of one output with its interval."""
        return share_words(self.rest.outputs.get(output.name) if self.rest else None)


def resting(rows: TestRows, basis: str = "") -> Resting:
    """The test with its fellows, or alone where that is asked for or it has none: three queries."""
    fellows = pool(of_same_plan(rows.test).exclude(pk=rows.test.pk))[: MOST_TESTS - 1]
    others = [] if basis == ALONE else fellows
    own = [(rows.test.pk, rows.test.number)]
    if not others:
        kept = weighed(rows)
        more = len(fellows) if basis == ALONE else 0
        return Resting(rows, rows.weighed, kept, None, own, more)
    is_sound = balances(rows)
    together = [rows, *others] if is_sound else others
    rest = rest_on([one.weighed for one in together], rows.weighed)
    by_name: dict[str, Output] = {}
    for one in (rows, *others):
        for output in weighed(one):
            by_name.setdefault(same_name(output.name), output)
    kept = [by_name[same_name(output.name)] for output in rest.test.outputs]
    tests = [(one.test.pk, one.test.number) for one in together]
    return Resting(rows, rest.test, kept, rest, tests, len(others), is_sound)
