"""A test that is cut by a layout: what was told of it, and what comes next."""

import json
from dataclasses import dataclass
from fractions import Fraction
from functools import cached_property, lru_cache

from cutting.layout.aims import Aim
from cutting.layout.follow import Asked, Fit, Following, Told, follow
from cutting.layout.kept import asked_of, task_of
from cutting.layout.task import Task
from cutting.quantities import Unit, Weight
from cutting.sheet.cutting_test import same_name
from rooms.bench.models import Laid, LaidPortion, Output, Weighing
from rooms.bench.queries.rows import TestRows
from rooms.common.db.loading import Loading


@dataclass(frozen=True)
class Standing:
    """A test's layout with the weighings that were cut by it."""

    laid: Laid
    rows: TestRows
    asked: dict[int, Asked]
    """What each weighing was asked for, by its id."""

    @property
    def task(self) -> Task:
        return task_in(self.laid.task)

    @cached_property
    def names(self) -> dict[int, str]:
        """The name in the layout of each pile that has one, by the pile's id."""
        by_name = {same_name(one.name): one.name for one in self.task.products}
        found = {}
        for output in self.rows.outputs:
            if name := by_name.get(same_name(output.name)):
                found[output.pk] = name
        return found

    @cached_property
    def weighings(self) -> list[Weighing]:
        """Those that were cut by it, in the order they were cut: what was corrected in its place."""
        first = {weighing.pk: weighing for weighing in self.rows.weighings}
        own = [w for w in self.rows.standing if w.output_id in self.names]
        placed = [(_root(w, first), w) for w in own]
        return [w for root, w in sorted(placed, key=lambda one: one[0]) if root > self.laid.after]

    @cached_property
    def told(self) -> tuple[Told, ...]:
        first = {weighing.pk: weighing for weighing in self.rows.weighings}
        return tuple(
            Told(
                Fraction(weighing.reading.weight.to(self.task.unit)),
                self.names[weighing.output_id],
                weighing.portions or 1,
                self._asked_for(weighing, _root(weighing, first)),
            )
            for weighing in self.weighings
        )

    def _asked_for(self, weighing: Weighing, root: int) -> Asked | None:
        """None where it now lies on another pile than it was asked for."""
        asked = self.asked.get(root)
        return asked if asked and asked.name == self.names[weighing.output_id] else None

    @property
    def aim(self) -> Aim:
        return Aim(self.laid.aim)

    @cached_property
    def following(self) -> Following:
        return follow(
            self.task,
            self.told,
            aim=self.aim,
            is_measured=self.laid.is_measured,
            put_back=self._put_back(),
        )

    @property
    def plan(self) -> Following:
        """As it was laid out, before anything was weighed."""
        return follow(self.task, (), aim=self.aim, is_measured=self.laid.is_measured)

    def _put_back(self) -> Fraction:
        test = self.rows.test
        less = self.laid.weight_then - test.weight_value
        if less <= 0:
            return Fraction(0)
        return Fraction(Weight(less, Unit(test.weight_unit)).to(self.task.unit))

    @property
    def base(self) -> Fit:
        return Fit(self.laid.base_scale, self.laid.base_tilt)


def _root(weighing: Weighing, first: dict[int, Weighing]) -> int:
    """The weighing whose place it took, through all corrections."""
    while weighing.instead_of_id is not None:
        weighing = first[weighing.instead_of_id]
    return weighing.pk


@lru_cache(maxsize=16)
def task_in(text: str) -> Task:
    return task_of(json.loads(text))


ITS_LAYOUT = Loading(Laid, "WHERE test_id = %s AND taken_off_at IS NULL ORDER BY id DESC LIMIT 1")
ITS_PORTIONS = Loading(
    LaidPortion,
    "JOIN bench_weighing w ON w.id = bench_laidportion.weighing_id WHERE w.test_id = %s",
)


def standing(rows: TestRows) -> Standing | None:
    """None for a test without a layout: no query. Else two, once for the same rows."""
    if not rows.test.has_layout:
        return None
    if rows.laid is None:
        key = rows.test.pk.hex
        found = ITS_LAYOUT(key)
        if not found:
            return None
        asked = {one.weighing_id: asked_of(one.asked) for one in ITS_PORTIONS(key)}
        rows.laid = Standing(found[0], rows, asked)
    return rows.laid


def pile_of(rows: TestRows, name: str) -> Output | None:
    """The pile that a product of a layout goes on."""
    found = next((o for o in rows.outputs if same_name(o.name) == same_name(name)), None)
    while found is not None and found.merged_into_id is not None:
        into = found.merged_into_id
        found = next((o for o in rows.outputs if o.pk == into), None)
    return found
