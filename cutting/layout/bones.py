"""Compositions of a piece between its bones: the best, and the next ones that differ in counts."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from decimal import Decimal
from itertools import pairwise

from cutting.layout.solver import LOST, MARK, NONE, Search, lay_out
from cutting.layout.task import Layout, Task
from cutting.quantities import working

PORTERHOUSE, T_BONE = Decimal("1.25"), Decimal("0.5")
"""Inches of tenderloin across the cut: USDA IMPS, items 1173 and 1174."""

Row = tuple[int, int, int, "Row"] | tuple[()]
"""A part from a place to a place of a product, and the parts behind it."""
Found = dict[tuple[int, ...], tuple[int, Row]]
"""By the slices of each product: what they bring at best, and how."""


@dataclass
class Compositions:
    """The best few rows of parts from each place on, each with other counts than the others.

    Keeping so many at every place is enough: of one next part only that many ways to go on can
    be among the best.
    """

    search: Search
    many: int
    known: dict[tuple[int, int, bool], Found] = field(default_factory=dict)

    def best(self, place: int, code: int, *, is_after_gap: bool) -> Found:
        key = place, code, is_after_gap
        if key not in self.known:
            found: Found = {}
            self._slices(found, place, code)
            if not is_after_gap:
                self._gaps(found, place, code)
            self.known[key] = self._first(found)
        return self.known[key]

    def _first(self, found: Found) -> Found:
        order = sorted(found.items(), key=lambda one: (-one[1][0], one[0]))
        return dict(order[: self.many])

    def _slices(self, found: Found, place: int, code: int) -> None:
        search = self.search
        for number in range(len(search.task.products)):
            after, window = search.counting.after(code, number), search.windows[number][place]
            if after == NONE or window is None:
                continue
            worth, bonus = search.worth[number], search.bonus[number]
            for end in range(window[0], window[1] + 1):
                value = worth[end] - worth[place] + bonus
                self._join(found, value, (place, end, number), after)

    def _gaps(self, found: Found, place: int, code: int) -> None:
        search = self.search
        last = search.grid.last
        ends = [end for end in range(place + search.grid.gap, last) if search.grid.may_mark[end]]
        if place <= search.grid.last_gap:
            ends.append(last)
        for end in ends:
            self._join(found, search.rest[end] - search.rest[place], (place, end, NONE), code)

    def _join(self, found: Found, value: int, part: tuple[int, int, int], code: int) -> None:
        """A part with every way to go on behind it."""
        grid, (_, end, number) = self.search.grid, part
        if end == grid.last:
            then: Found = {}
            if self.search.at_end[code] > LOST:
                then = {(0,) * len(self.search.task.products): (0, ())}
        elif grid.may_mark[end]:
            then = self.best(end + grid.kerf, code, is_after_gap=number == NONE)
            value -= MARK
        else:
            return
        for counts, (more, row) in then.items():
            own = counts if number == NONE else _one_more(counts, number)
            if own not in found or value + more > found[own][0]:
                found[own] = value + more, (*part, row)


def _one_more(counts: tuple[int, ...], number: int) -> tuple[int, ...]:
    return (*counts[:number], counts[number] + 1, *counts[number + 1 :])


def compositions(task: Task, many: int = 3) -> tuple[Layout, ...]:
    """The best layout and the next ones with other counts, best first; fewer where there are no
    more. Raises NoLayout where there is none. For a piece whose cuts fall between bones."""
    best = lay_out(task)
    search = Search(task)
    found = Compositions(search, many + 1).best(0, 0, is_after_gap=False)
    layouts = [
        Layout(task, tuple(search.made(*part) for part in _parts(row))) for _, row in found.values()
    ]
    others = [one for one in layouts if one.counts != best.counts and one.slices]
    return (best, *others[: many - 1])


def _parts(row: Row) -> list[tuple[int, int, int]]:
    found = []
    while row:
        start, end, number, row = row
        found.append((start, end, number))
    return found


def reach(taper: Sequence[tuple[Decimal, Decimal]], least: Decimal) -> Decimal:
    """How far a muscle that runs along the piece stays at least so wide. `taper`: distances from
    the near end, ascending, and widths there, straight between them; 0 where it never is."""
    found = Decimal(0)
    with working():
        for (one, wide), (other, thin) in pairwise(taper):
            if wide < least:
                return found
            if thin >= least:
                found = other
                continue
            return one + (other - one) * (wide - least) / (wide - thin)
    return found
