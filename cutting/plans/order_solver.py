"""The best order by a mixed-integer programme (HiGHS, relative gap 0): the most that it brings, a pound
that stays short weighed at its price, then the fewest pieces. Only the solver's own process imports this
module."""

from __future__ import annotations

from typing import Any

import highspy

from cutting.plans.day_solver import INFINITE, SLACK, OutOfTime
from cutting.plans.ordering import Buy, Order, OrderFigures, order_figures

Terms = dict[int, float]


class _Programme:
    """Columns: cases and singles of each offer, how many are cut by each way, over and short of each
    product."""

    def __init__(self, order: Order, seconds: float) -> None:
        self.order = order
        self.solver: Any = highspy.Highs()
        for name, value in (
            ("output_flag", False),
            ("mip_rel_gap", 0.0),
            ("mip_abs_gap", 0.0),
            ("threads", 1),
            ("time_limit", seconds),
            ("mip_feasibility_tolerance", 1e-9),
            ("primal_feasibility_tolerance", 1e-9),
        ):
            self.solver.setOptionValue(name, value)
        most = float(order.most)
        self.cases = [
            self._column(most // offer.in_case if offer.in_case > 1 else 0.0, is_whole=True)
            for offer in order.offers
        ]
        self.singles = [self._column(most, is_whole=True) for _ in order.offers]
        self.cut = {
            (k, way): self._column(most, is_whole=True)
            for k, offer in enumerate(order.offers)
            for way in offer.ways
        }
        self.over = [
            self._column(0.0 if one.most is None else INFINITE, is_whole=False)
            for one in order.products
        ]
        self.short = [self._column(INFINITE, is_whole=False) for _ in order.products]
        self.made: list[Terms] = [{} for _ in order.products]
        self._rows()

    def _column(self, upper: float, *, is_whole: bool) -> int:
        number: int = self.solver.getNumCol()
        self.solver.addVar(0.0, upper)
        if is_whole:
            self.solver.changeColIntegrality(number, highspy.HighsVarType.kInteger)
        return number

    def _row(self, low: float, high: float, terms: Terms) -> None:
        self.solver.addRow(low, high, len(terms), list(terms), list(terms.values()))

    def _rows(self) -> None:
        order = self.order
        place = {one.name: i for i, one in enumerate(order.products)}
        for k, offer in enumerate(order.offers):
            terms = {self.cases[k]: float(offer.in_case), self.singles[k]: 1.0}
            self._row(0.0, 0.0, terms | {self.cut[k, way]: -1.0 for way in offer.ways})
            for way in offer.ways:
                for name, weight in order.made(offer, order.by_id[way]).items():
                    self.made[place[name]][self.cut[k, way]] = float(weight)
        for i, one in enumerate(order.products):
            self._row(float(one.least - one.have), INFINITE, self.made[i] | {self.short[i]: 1.0})
            if one.most is not None:
                less = {column: -value for column, value in self.made[i].items()}
                self._row(float(one.have - one.most), INFINITE, less | {self.over[i]: 1.0})

    def against(self) -> Terms:
        """What it brings with its sign turned, and what stays short."""
        order = self.order
        terms = {self.short[i]: float(one.price.amount) for i, one in enumerate(order.products)}
        for k, offer in enumerate(order.offers):
            terms[self.singles[k]] = float(offer.single)
            terms[self.cases[k]] = float(offer.case or 0)
            for way in offer.ways:
                terms[self.cut[k, way]] = float(order.labour(offer, order.by_id[way]))
        for i, one in enumerate(order.products):
            price = float(one.price.amount)
            for column, weight in self.made[i].items():
                terms[column] -= price * weight
            terms[self.over[i]] = price - float(one.over)
        return terms

    def pieces(self) -> Terms:
        return dict.fromkeys(self.cut.values(), 1.0)

    def least(self, terms: Terms) -> tuple[float, OrderFigures]:
        for column in range(self.solver.getNumCol()):
            self.solver.changeColCost(column, terms.get(column, 0.0))
        self.solver.run()
        status = self.solver.getModelStatus()
        if status != highspy.HighsModelStatus.kOptimal:
            raise OutOfTime(str(self.solver.modelStatusToString(status)))
        values = self.solver.getSolution().col_value
        buys = [
            Buy(
                round(values[self.cases[k]]),
                round(values[self.singles[k]]),
                tuple(
                    (way, round(values[self.cut[k, way]]))
                    for way in offer.ways
                    if round(values[self.cut[k, way]])
                ),
            )
            for k, offer in enumerate(self.order.offers)
        ]
        return self.solver.getInfo().objective_function_value, order_figures(self.order, buys)

    def hold(self, terms: Terms, at: float) -> None:
        self._row(-INFINITE, at + SLACK * max(1.0, abs(at) / 1000), terms)


def best_order(order: Order, *, seconds: float = 10.0) -> OrderFigures:
    """The best order. Raises OutOfTime where it was not proven in time."""
    programme = _Programme(order, seconds)
    value, best = programme.least(programme.against())
    programme.hold(programme.against(), value)
    _, fewer = programme.least(programme.pieces())
    return min(best, fewer, key=OrderFigures.order)
