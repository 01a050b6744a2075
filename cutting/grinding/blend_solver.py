"""The cheapest blend: a linear programme (HiGHS), with a chance bound by outer cuts (Kelley 1960; value from
memory) and a last step of Newton's; what binds is met exactly in decimals. Only the solver's own process and the command line
import this module."""

from __future__ import annotations

import itertools
import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from decimal import Decimal, localcontext
from typing import Any

import highspy
import numpy as np

from cutting.grinding.blend import (
    Batch,
    Blend,
    Blended,
    NoBlend,
    Rule,
    Take,
    batch_figures,
    reach,
)
from cutting.quantities import ONE, ZERO, Unit, working

INFINITE = highspy.kHighsInf
DIGITS = 40
SMALLEST = Decimal("1e-15")
MOST_CUTS = 600
CLOSE = (1e-6, 1e-8, 1e-10)
"""How far a chance bound may be missed, as a share of fat, before what binds is looked at; again and
nearer where that was not clear yet."""
NUDGE, LITTLE = 1e-7, 1e-9
"""Of a tub: so much more of it says what one more pound is worth; what is worth less is told as 0."""


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
        self.fats = [float(blend.tubs[t].fat) for _, t in self.columns]
        self.spreads = [float(blend.tubs[t].lean_sd) for _, t in self.columns]
        self.rows: list[_Row] = []
        self.tub_row: dict[int, int] = {}
        self.solver: Any = highspy.Highs()
        self._rows()
        self.own_rows = len(self.rows)
        self.begin()

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

    def begin(self) -> None:
        """Hand it to the solver; each further cut is solved from where the last one stood."""
        for name, value in (
            ("output_flag", False),
            ("threads", 1),
            ("presolve", "off"),
            ("primal_feasibility_tolerance", 1e-10),
            ("dual_feasibility_tolerance", 1e-10),
        ):
            self.solver.setOptionValue(name, value)
        for cost in self.costs:
            self.solver.addCol(float(cost), 0.0, INFINITE, 0, [], [])
        for row in self.rows:
            self._hand(row)

    def _hand(self, row: _Row) -> None:
        low = -INFINITE if row.low is None else float(row.low)
        high = INFINITE if row.high is None else float(row.high)
        terms = {column: float(value) for column, value in row.terms.items() if value}
        self.solver.addRow(low, high, len(terms), list(terms), list(terms.values()))

    def run(self) -> float | None:
        """The cost by the rows so far; None where nothing fits."""
        if any(tub.must and not own for tub, own in zip(self.blend.tubs, self.of_tub, strict=True)):
            return None
        self.solver.run()
        if self.solver.getModelStatus() != highspy.HighsModelStatus.kOptimal:
            return None
        return float(self.solver.getInfo().objective_function_value)

    def solve(self) -> list[Decimal] | None:
        """Pounds of each column; None where nothing fits.

        Without chances the corner is worked out exactly. With them cuts say which tubs are used and
        what binds; then the conditions of the optimum are solved themselves.
        """
        bounded = [b for b, batch in enumerate(self.blend.batches) if batch.limit is not None]
        rough: list[float] = []
        for close in CLOSE:
            nearer = self._cut_until(bounded, close)
            if nearer is None:
                return None
            rough = nearer
            if len(self.rows) == self.own_rows:
                return self._exact(self.solver.getBasis(), rough)
            found = polished(self, rough)
            if found is not None:
                return found
        return [max(Decimal(repr(one)), ZERO) for one in rough]

    def _cut_until(self, bounded: Sequence[int], close: float) -> list[float] | None:
        """Pounds of each column, every chance bound missed by no more than that share of fat; None
        where nothing fits."""
        rough: list[float] = []
        for _ in range(MOST_CUTS):
            if self.run() is None:
                return None
            rough = list(self.solver.getSolution().col_value)
            cuts = [cut for b in bounded if (cut := self._cut(b, rough, close)) is not None]
            if not cuts:
                break
            for cut in cuts:
                self.rows.append(cut)
                self._hand(cut)
        return rough

    def _cut(self, b: int, values: Sequence[float], close: float) -> _Row | None:
        """The bound's own plane where it is missed: fat + z × spread, at what is taken now."""
        batch, own = self.blend.batches[b], self.of_batch[b]
        z, pounds, limit = float(batch.quantile), float(batch.pounds), float(batch.limit or 0)
        fats, spreads = self.fats, self.spreads
        spread = math.sqrt(sum((spreads[c] * values[c]) ** 2 for c in own))
        over = sum(fats[c] * values[c] for c in own) + z * spread - limit * pounds
        if over <= close * pounds:
            return None
        slope = {
            c: self._fat(c) + Decimal(repr(z * spreads[c] ** 2 * values[c] / spread))
            if values[c] > 0 and spread > 0
            else self._fat(c)
            for c in own
        }
        with working():
            return _Row(slope, None, (batch.limit or ZERO) * batch.pounds)

    def cone(self, b: int, place: Mapping[int, int]) -> _Cone:
        """A batch's chance bound over the columns that are used."""
        batch = self.blend.batches[b]
        fat, spread = np.zeros(len(place)), np.zeros(len(place))
        for c in self.of_batch[b]:
            if c in place:
                fat[place[c]], spread[place[c]] = self.fats[c], self.spreads[c]
        with working():
            room = float((batch.limit or ZERO) * batch.pounds)
        return _Cone(fat, spread, float(batch.quantile), room)

    def is_met(self, x: np.ndarray) -> bool:
        """Whether every row of its own and every chance bound is met."""
        for row in self.rows[: self.own_rows]:
            at = sum(float(value) * x[c] for c, value in row.terms.items())
            if row.high is not None and at > float(row.high) + MET:
                return False
            if row.low is not None and at < float(row.low) - MET:
                return False
        every = {c: c for c in range(len(x))}
        return all(
            self.cone(b, every).over(x) <= MET
            for b, batch in enumerate(self.blend.batches)
            if batch.limit is not None
        )

    def is_bound(self, b: int, x: np.ndarray) -> bool:
        """Whether a batch's chance bound binds."""
        if self.blend.batches[b].limit is None:
            return False
        every = self.cone(b, {c: c for c in range(len(self.columns))})
        return abs(every.over(x)) < BOUND

    def worth(self, t: int) -> float:
        """The fall of the cost for a pound more of a tub, asked with a ten-millionth more of it, so
        that what could bind either way binds as then."""
        row, tub = self.tub_row[t], self.blend.tubs[t]
        pounds = float(tub.pounds)
        self.solver.changeRowBounds(row, -INFINITE, pounds * (1 + NUDGE))
        found = 0.0
        if self.run() is not None:
            found = -float(self.solver.getSolution().row_dual[row])
        self.solver.changeRowBounds(row, -INFINITE, pounds)
        return found

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


STEPS, STILL = 30, 1e-13
ACTIVE = 1e-5
"""Pounds: what is nearer to a bound than that lies on it."""
BOUND = 1e-4
"""Pounds of fat: so near a chance bound is taken to bind."""
MET, PAID = 1e-10, 1e-7
"""Pounds by which a bound may be missed at the end, and money by which a price of it may be wrong."""


def polished(programme: _Programme, rough: Sequence[float]) -> list[Decimal] | None:
    """The optimum near `rough`: which columns are used and which rows bind is taken from there, and
    the conditions of Karush, Kuhn and Tucker are solved by Newton's steps; rows that bind are then
    met exactly. None where the steps do not come to rest, or where it is not the optimum."""
    x = np.array(rough)
    x[x < ACTIVE] = 0.0
    used = [c for c in range(len(x)) if x[c] > 0]
    rows = [row for row in programme.rows[: programme.own_rows] if _binds(row, x)]
    bounds = [b for b in range(len(programme.blend.batches)) if programme.is_bound(b, x)]
    every = {c: c for c in range(len(x))}
    cones = [programme.cone(b, every) for b in bounds]
    a = np.array([[float(row.terms.get(c, ZERO)) for c in every] for row in rows])
    right = np.array([float(_right(row, x)) for row in rows])
    costs = np.array([float(cost) for cost in programme.costs])
    n, m, k = len(used), len(rows), len(bounds)
    multipliers = np.zeros(m + k)

    def gradient() -> np.ndarray:
        slopes = np.array([cone.slope(x) for cone in cones]).reshape(k, len(x))
        return np.vstack([a, slopes])

    for _ in range(STEPS):
        slopes = gradient()[:, used]
        curve = np.zeros((n, n))
        for i, cone in enumerate(cones):
            curve += multipliers[m + i] * cone.curve(x)[np.ix_(used, used)]
        off = np.concatenate(
            [
                -(costs[used] + slopes.T @ multipliers),
                right - a @ x,
                [-cone.over(x) for cone in cones],
            ]
        )
        matrix = np.block([[curve, slopes.T], [slopes, np.zeros((m + k, m + k))]])
        step = np.linalg.lstsq(matrix, off, rcond=None)[0]
        x[used] += step[:n]
        multipliers += step[n:]
        if np.abs(step[:n]).max() < STILL * max(1.0, float(np.abs(x).max())):
            break
    else:
        return None
    prices = costs + gradient().T @ multipliers
    signs = [_side(row, value, x) for row, value in zip(rows, multipliers[:m], strict=True)]
    is_best = (
        bool((prices > -PAID).all())
        and bool((multipliers[m:] > -PAID).all())
        and all(signs)
        and bool((x > -MET).all())
        and programme.is_met(x)
    )
    if not is_best:
        return None
    values = [ZERO] * len(x)
    met = _met_exactly([[row.terms.get(c, ZERO) for c in used] for row in rows], rows, x, x[used])
    for c, value in zip(used, met, strict=True):
        values[c] = max(value, ZERO)
    return values


def _side(row: _Row, price: float, x: np.ndarray) -> bool:
    """Whether a row is paid for on the side on which it binds."""
    if row.low is not None and row.high is not None and row.low == row.high:
        return True
    at_high = row.high is not None and _right(row, x) == row.high
    return price > -PAID if at_high else price < PAID


def _binds(row: _Row, x: np.ndarray) -> bool:
    at = sum(float(value) * x[c] for c, value in row.terms.items())
    return any(side is not None and abs(at - float(side)) < ACTIVE for side in (row.low, row.high))


def _right(row: _Row, x: np.ndarray) -> Decimal:
    """The side that binds."""
    at = sum(float(value) * x[c] for c, value in row.terms.items())
    sides = [side for side in (row.low, row.high) if side is not None]
    return min(sides, key=lambda side: abs(at - float(side)))


def _met_exactly(
    terms: list[list[Decimal]], rows: Sequence[_Row], x: np.ndarray, point: np.ndarray
) -> list[Decimal]:
    """The nearest point on which every row that binds does so in decimals."""
    values = [Decimal(repr(float(one))) for one in point]
    with localcontext() as context:
        context.prec = DIGITS
        kept: list[int] = []
        base: list[list[Decimal]] = []
        for number, row in enumerate(terms):  # rows that say nothing new are left out
            rest = row
            for other in base:
                factor = _dot(rest, other) / _dot(other, other)
                rest = [a - factor * b for a, b in zip(rest, other, strict=True)]
            if _dot(rest, rest) > SMALLEST:
                kept.append(number)
                base.append(rest)
        missing = [_right(rows[number], x) - _dot(terms[number], values) for number in kept]
        table = [
            ([_dot(terms[i], terms[j]) for j in kept], off)
            for i, off in zip(kept, missing, strict=True)
        ]
        shares = _solved(table)
        if shares is None:
            return values
        for share, number in zip(shares, kept, strict=True):
            values = [value + share * own for value, own in zip(values, terms[number], strict=True)]
        return [+value for value in values]


def _dot(one: Sequence[Decimal], other: Sequence[Decimal]) -> Decimal:
    return sum((a * b for a, b in zip(one, other, strict=True) if a and b), ZERO)


@dataclass(frozen=True)
class _Cone:
    """fat · x + z × |spread · x| <= limit × pounds, over the columns that are used."""

    fat: np.ndarray
    spread: np.ndarray
    z: float
    room: float

    def size(self, x: np.ndarray) -> float:
        return float(np.linalg.norm(self.spread * x)) or 1e-300

    def over(self, x: np.ndarray) -> float:
        return float(self.fat @ x + self.z * self.size(x) - self.room)

    def slope(self, x: np.ndarray) -> np.ndarray:
        found: np.ndarray = self.fat + self.z * self.spread**2 * x / self.size(x)
        return found

    def curve(self, x: np.ndarray) -> np.ndarray:
        if not (self.spread * x).any():  # a sure blend: the bound is a plane
            return np.zeros((len(x), len(x)))
        size, own = self.size(x), self.spread**2 * x
        found: np.ndarray = self.z * (np.diag(self.spread**2) / size - np.outer(own, own) / size**3)
        return found


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
    cost, takes, programme = best
    batches = tuple(
        batch_figures(blend, batch, take) for batch, take in zip(blend.batches, takes, strict=True)
    )
    with working():
        used = [sum((take.get(t, ZERO) for take in takes), ZERO) for t in range(len(blend.tubs))]
        left = tuple(max(tub.pounds - own, ZERO) for tub, own in zip(blend.tubs, used, strict=True))
    worth = {
        t: Decimal(repr(value))
        for t, tub in enumerate(blend.tubs)
        if not tub.must
        and left[t] <= SMALLEST
        and t in programme.tub_row
        and (value := programme.worth(t)) > LITTLE
    }
    return Blended(batches, cost, worth, left)


def _best(blend: Blend) -> tuple[Decimal, list[Take], _Programme] | None:
    """Over every way to give the batches without a rule their one species; those first that would be
    cheapest without chances, and none that could not be cheaper."""
    programmes: list[tuple[float, int, _Programme]] = []
    for species in itertools.product(*(_species_of(blend, batch) for batch in blend.batches)):
        programme = _Programme(blend, species)
        bound = programme.run()
        if bound is not None:
            programmes.append((bound, len(programmes), programme))
    best: tuple[Decimal, list[Take], _Programme] | None = None
    for bound, _, programme in sorted(programmes, key=lambda one: one[:2]):
        if best is not None and bound > float(best[0]) + LITTLE:
            break
        values = programme.solve()
        if values is None:
            continue
        cost, takes = _taken(blend, programme, values)
        if best is None or cost < best[0]:
            best = cost, takes, programme
    return best


def _taken(
    blend: Blend, programme: _Programme, values: Sequence[Decimal]
) -> tuple[Decimal, list[Take]]:
    takes: list[dict[int, Decimal]] = [{} for _ in blend.batches]
    with working():
        cost = ZERO
        for (b, t), value in zip(programme.columns, values, strict=True):
            if value > SMALLEST:
                takes[b][t] = value
                cost += value * blend.tubs[t].cost.to(Unit.LB)
    return cost, list(takes)


def _species_of(blend: Blend, batch: Batch) -> list[str | None]:
    if batch.rule is not Rule.NONE:
        return [None]
    found: list[str | None] = [None]
    own = sorted({tub.species for tub in blend.tubs if batch.may(tub)})
    return [*own] if own else found


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
