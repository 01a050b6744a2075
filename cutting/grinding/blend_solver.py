"""The cheapest blend: a linear programme (HiGHS), with a chance bound by outer cuts (Kelley 1960; value from
memory), and worked out again exactly from its basis. Only the solver's own process and the command line
import this module."""

from __future__ import annotations

import itertools
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from decimal import Decimal, localcontext
from typing import Any

import highspy

from cutting.grinding.blend import (
    Batch,
    BatchFigures,
    Blend,
    Reach,
    Rule,
    Take,
    batch_figures,
    reach,
)
from cutting.quantities import ONE, ZERO, Unit, working

INFINITE = highspy.kHighsInf
DIGITS = 40
SMALLEST = Decimal("1e-15")
TRIES, MOST_CUTS = 3, 400
CLOSE = Decimal("1e-12")
"""How far a chance bound may be missed, as a share of fat."""
NUDGE = Decimal("1e-7")
"""Of a tub: so much more of it says what one more pound is worth, whatever else could bind."""


class NoBlend(Exception):
    """The batches cannot all be made. `reaches`: what each could have alone; `missing`: pounds that
    are missing of each, 0 where none are; `musts`: numbers of tubs that fit nowhere."""

    def __init__(
        self, reaches: Sequence[Reach], missing: Sequence[Decimal], musts: Sequence[int]
    ) -> None:
        super().__init__("the batches cannot all be made")
        self.reaches, self.missing, self.musts = reaches, missing, musts


@dataclass(frozen=True)
class Blended:
    """The cheapest blend: each batch, its cost, what one more pound of each used-up tub is worth."""

    batches: tuple[BatchFigures, ...]
    cost: Decimal
    worth: Mapping[int, Decimal]
    left: tuple[Decimal, ...]
    """Pounds left of each tub."""


@dataclass(frozen=True, slots=True)
class _Row:
    """low <= sum of terms <= high; one of the two may be None."""

    terms: dict[int, Decimal]
    low: Decimal | None
    high: Decimal | None


class _Programme:
    """Columns: pounds of a tub in a batch, where it may go. Rows are kept in decimals."""

    def __init__(self, blend: Blend, species: Sequence[str | None]) -> None:
        self.blend = blend
        self.columns = [
            (b, t)
            for b, batch in enumerate(blend.batches)
            for t, tub in enumerate(blend.tubs)
            if batch.may(tub) and species[b] in (None, tub.species)
        ]
        self.of_batch: list[list[int]] = [[] for _ in blend.batches]
        self.of_tub: list[list[int]] = [[] for _ in blend.tubs]
        for column, (b, t) in enumerate(self.columns):
            self.of_batch[b].append(column)
            self.of_tub[t].append(column)
        self.costs = [blend.tubs[t].cost.to(Unit.LB) for _, t in self.columns]
        self.rows: list[_Row] = []
        self.tub_row: dict[int, int] = {}
        self._rows()

    def _rows(self) -> None:
        for b, batch in enumerate(self.blend.batches):
            own, pounds = self.of_batch[b], batch.pounds
            self.rows.append(_Row(dict.fromkeys(own, ONE), pounds, pounds))
            with working():
                fat = {column: self._fat(column) for column in own}
                self.rows.append(_Row(fat, batch.least * pounds, None))
                self.rows.append(_Row(fat, None, batch.top * pounds))
        for t, tub in enumerate(self.blend.tubs):
            if self.of_tub[t]:
                self.tub_row[t] = len(self.rows)
                low = tub.pounds if tub.must else None
                self.rows.append(_Row(dict.fromkeys(self.of_tub[t], ONE), low, tub.pounds))

    def _fat(self, column: int) -> Decimal:
        return self.blend.tubs[self.columns[column][1]].fat

    def solve(self) -> tuple[list[Decimal], list[float]] | None:
        """Pounds of each column, and what each row is worth; None where nothing fits."""
        for _ in range(MOST_CUTS):
            found = self._linear()
            if found is None:
                return None
            values, duals = found
            cuts = [
                cut
                for b, batch in enumerate(self.blend.batches)
                if batch.limit is not None and (cut := self._cut(b, batch, values)) is not None
            ]
            if not cuts:
                return values, duals
            self.rows += cuts
        return None

    def _cut(self, b: int, batch: Batch, values: list[Decimal]) -> _Row | None:
        """The bound's own plane where it is missed: fat + z × spread, at what is taken now."""
        own, z = self.of_batch[b], batch.quantile
        with working():
            limit = (batch.limit or ZERO) * batch.pounds
            fat = sum((values[c] * self._fat(c) for c in own), ZERO)
            weights = {c: self.blend.tubs[self.columns[c][1]].lean_sd for c in own}
            spread = sum(((weights[c] * values[c]) ** 2 for c in own), ZERO).sqrt()
            if fat + z * spread - limit <= CLOSE * batch.pounds:
                return None
            slope = {
                c: self._fat(c) + (z * weights[c] ** 2 * values[c] / spread if spread else ZERO)
                for c in own
            }
        return _Row(slope, None, limit)

    def _linear(self) -> tuple[list[Decimal], list[float]] | None:
        solver: Any = highspy.Highs()
        for name, value in (
            ("output_flag", False),
            ("threads", 1),
            ("presolve", "off"),
            ("primal_feasibility_tolerance", 1e-10),
            ("dual_feasibility_tolerance", 1e-10),
        ):
            solver.setOptionValue(name, value)
        for cost in self.costs:
            solver.addCol(float(cost), 0.0, INFINITE, 0, [], [])
        for row in self.rows:
            low = -INFINITE if row.low is None else float(row.low)
            high = INFINITE if row.high is None else float(row.high)
            terms = {column: float(value) for column, value in row.terms.items() if value}
            solver.addRow(low, high, len(terms), list(terms), list(terms.values()))
        solver.run()
        if solver.getModelStatus() != highspy.HighsModelStatus.kOptimal:
            return None
        solution = solver.getSolution()
        values = self._exact(solver.getBasis(), list(solution.col_value))
        return values, list(solution.row_dual)

    def _exact(self, basis: Any, rough: list[float]) -> list[Decimal]:
        """The same corner in decimals: the columns of the basis, from the rows that bind."""
        basic = highspy.HighsBasisStatus.kBasic
        columns = [c for c, status in enumerate(basis.col_status) if status == basic]
        rows = []
        for number, status in enumerate(basis.row_status):
            if status == basic:
                continue
            row = self.rows[number]
            at_high = status == highspy.HighsBasisStatus.kUpper or row.low is None
            right = row.high if at_high else row.low
            rows.append(
                ([row.terms.get(c, ZERO) for c in columns], right if right is not None else ZERO)
            )
        found = _solved(rows)
        values = [ZERO] * len(self.columns)
        if found is None:  # a corner that floating point took for one
            return [max(Decimal(repr(one)), ZERO) for one in rough]
        for c, value in zip(columns, found, strict=True):
            values[c] = max(value, ZERO)
        return values


def _solved(rows: list[tuple[list[Decimal], Decimal]]) -> list[Decimal] | None:
    """A square system by elimination with the largest pivot; None where it has no single answer."""
    size = len(rows)
    if any(len(terms) != size for terms, _ in rows):
        return None
    with localcontext() as context:
        context.prec = DIGITS
        table = [[*terms, right] for terms, right in rows]
        for k in range(size):
            pivot = max(range(k, size), key=lambda r: abs(table[r][k]))
            if abs(table[pivot][k]) < SMALLEST:
                return None
            table[k], table[pivot] = table[pivot], table[k]
            lead = table[k]
            for r in range(k + 1, size):
                if not table[r][k]:
                    continue
                factor = table[r][k] / lead[k]
                table[r] = [
                    own - factor * other if other else own
                    for own, other in zip(table[r], lead, strict=True)
                ]
        found = [ZERO] * size
        for k in reversed(range(size)):
            rest = sum((table[k][c] * found[c] for c in range(k + 1, size)), ZERO)
            found[k] = (table[k][size] - rest) / table[k][k]
        return [+value for value in found]


def cheapest(blend: Blend) -> Blended:
    """The cheapest blend of all batches together. Raises NoBlend."""
    best = _best(blend)
    if best is None:
        raise _no_blend(blend)
    cost, takes, species = best
    batches = tuple(
        batch_figures(blend, batch, take) for batch, take in zip(blend.batches, takes, strict=True)
    )
    with working():
        used = [sum((take.get(t, ZERO) for take in takes), ZERO) for t in range(len(blend.tubs))]
        left = tuple(max(tub.pounds - own, ZERO) for tub, own in zip(blend.tubs, used, strict=True))
    return Blended(batches, cost, _worth(blend, species, left), left)


def _best(blend: Blend) -> tuple[Decimal, list[Take], tuple[str | None, ...]] | None:
    """Over every way to give the batches without a rule their one species."""
    best: tuple[Decimal, list[Take], tuple[str | None, ...]] | None = None
    for species in itertools.product(*(_species_of(blend, batch) for batch in blend.batches)):
        programme = _Programme(blend, species)
        found = programme.solve()
        if found is None:
            continue
        takes: list[dict[int, Decimal]] = [{} for _ in blend.batches]
        for (b, t), value in zip(programme.columns, found[0], strict=True):
            if value > SMALLEST:
                takes[b][t] = value
        with working():
            cost = sum(
                (
                    value * blend.tubs[t].cost.to(Unit.LB)
                    for take in takes
                    for t, value in take.items()
                ),
                ZERO,
            )
        if best is None or cost < best[0]:
            best = cost, list(takes), species
    return best


def _species_of(blend: Blend, batch: Batch) -> list[str | None]:
    if batch.rule is not Rule.NONE:
        return [None]
    found: list[str | None] = [None]
    own = sorted({tub.species for tub in blend.tubs if batch.may(tub)})
    return [*own] if own else found


def _worth(
    blend: Blend, species: tuple[str | None, ...], left: Sequence[Decimal]
) -> dict[int, Decimal]:
    """Of each tub that is used up: the fall of the cost for an endless small part more of it, a
    pound. It is asked with a ten-millionth more, so that what could bind either way binds as then."""
    found = {}
    for t, tub in enumerate(blend.tubs):
        if tub.must or left[t] > SMALLEST:
            continue
        with working():
            more = replace(tub.weight, value=tub.weight.value * (1 + NUDGE))
        wider = replace(
            blend,
            tubs=(*blend.tubs[:t], replace(tub, weight=more), *blend.tubs[t + 1 :]),
        )
        programme = _Programme(wider, species)
        solved = programme.solve()
        if solved is None or t not in programme.tub_row:
            continue
        worth = Decimal(repr(-solved[1][programme.tub_row[t]]))
        if worth > Decimal("1e-9"):
            found[t] = worth
    return found


def _no_blend(blend: Blend) -> NoBlend:
    musts = [
        t
        for t, tub in enumerate(blend.tubs)
        if tub.must and not any(batch.may(tub) for batch in blend.batches)
    ]
    reaches = [reach(blend, batch) for batch in blend.batches]
    with working():
        missing = [
            max(batch.pounds - one.pounds, ZERO)
            for batch, one in zip(blend.batches, reaches, strict=True)
        ]
    return NoBlend(reaches, missing, musts)
