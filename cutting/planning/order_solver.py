"""The best order by a mixed-integer programme (HiGHS, relative gap 0): the most that it brings, a pound
that stays short weighed at its price, then the fewest pieces. Only the solver's own process imports this
module."""

from __future__ import annotations

from cutting.planning.integer_program import INFINITE, OutOfTime, Programme, Terms
from cutting.planning.ordering import Buy, Order, OrderFigures, order_figures


class _Programme(Programme):
    """Columns: cases and singles of each offer, how many are cut by each way, over and short of each
    product."""

    def __init__(self, order: Order, seconds: float) -> None:
        self.order = order
        super().__init__(seconds)
        most = float(order.most)
        self.cases = [
            self.whole(most // offer.in_case if offer.in_case > 1 else 0.0)
            for offer in order.offers
        ]
        self.singles = [self.whole(most) for _ in order.offers]
        self.cut = {
            (k, way): self.whole(most) for k, offer in enumerate(order.offers) for way in offer.ways
        }
        self.over = [self.column(0.0 if one.most is None else INFINITE) for one in order.products]
        self.short = [self.column() for _ in order.products]
        self.made: list[Terms] = [{} for _ in order.products]
        self._rows()

    def _rows(self) -> None:
        order = self.order
        place = {one.name: i for i, one in enumerate(order.products)}
        for k, offer in enumerate(order.offers):
            terms = {self.cases[k]: float(offer.in_case), self.singles[k]: 1.0}
            self.row(0.0, 0.0, terms | {self.cut[k, way]: -1.0 for way in offer.ways})
            for way in offer.ways:
                for name, weight in order.made(offer, order.by_id[way]).items():
                    self.made[place[name]][self.cut[k, way]] = float(weight)
        for i, one in enumerate(order.products):
            self.row(float(one.least - one.have), INFINITE, self.made[i] | {self.short[i]: 1.0})
            if one.most is not None:
                less = {column: -value for column, value in self.made[i].items()}
                self.row(float(one.have - one.most), INFINITE, less | {self.over[i]: 1.0})

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
        self.aim(terms)
        if not self.is_proven:
            raise OutOfTime(self.status)
        values = self.values
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
        return self.value, order_figures(self.order, buys)


def best_order(order: Order, *, seconds: float = 10.0) -> OrderFigures:
    """The best order. Raises OutOfTime where it was not proven in time."""
    programme = _Programme(order, seconds)
    value, best = programme.least(programme.against())
    programme.hold(programme.against(), value)
    _, fewer = programme.least(programme.pieces())
    return min(best, fewer, key=OrderFigures.order)
