"""The layout that brings the most money: exact, over every place of the grid.

From the far end to the near one: the best that can be had from each place on. A slice by weight
brings its price times a difference of two cumulative weights, so that of all its ends the best one
is the maximum of a window that only moves one way; a queue keeps it, and the whole is linear in the
length. Money is a whole number of a unit in which all of it is whole, so that equal is equal.
"""

from __future__ import annotations

from bisect import bisect_left, bisect_right
from collections import deque
from collections.abc import Iterator
from dataclasses import dataclass, replace
from decimal import Decimal
from fractions import Fraction
from functools import cached_property
from itertools import pairwise
from math import ceil, lcm

from cutting.errors import BadValue
from cutting.layout.task import (
    NO_CUT,
    NO_PRODUCT,
    ZERO,
    Layout,
    Part,
    PlainRule,
    Slice,
    Task,
)

NONE = -1
"""No place."""
NEVER = -(1 << 4000)
"""Worse than anything that can be had."""
LOST = NEVER >> 1
"""What is at most this cannot be had."""
SLICE, MARK = 1 << 12, 1
MONEY = 1 << 24
"""A slice and a mark weigh less than any money: with equal money fewer slices, then fewer marks."""


@dataclass
class Grid:
    """Everything of a task that does not depend on what was cut before, in whole numbers."""

    task: Task

    @cached_property
    def last(self) -> int:
        return self.task.last

    @cached_property
    def kerf(self) -> int:
        return int(self.task.kerf / self.task.step)

    @cached_property
    def gap(self) -> int:
        """A gap has at least so many steps."""
        return max(ceil(self.task.least_gap / self.task.step), 1)

    @cached_property
    def last_gap(self) -> int:
        """The last place where a gap up to the far end may start."""
        room = self.task.profile.length - max(self.task.least_gap, ZERO)
        return NONE if room < 0 else min(int(room // self.task.step), self.last - 1)

    @cached_property
    def _volumes(self) -> tuple[list[int], int]:
        return self.task.profile.grid(self.task.step, self.last + 1)

    @property
    def cumulative(self) -> list[int]:
        """The volume up to every place, whole."""
        return self._volumes[0]

    @property
    def scale(self) -> int:
        """What `cumulative` was made whole by."""
        return self._volumes[1]

    @cached_property
    def per(self) -> Fraction:
        """Weight of one of `cumulative`."""
        return self.task.per_volume / self.scale

    def weight(self, start: int, end: int) -> Fraction:
        return (self.cumulative[end] - self.cumulative[start]) * self.per

    @cached_property
    def rates(self) -> tuple[list[int], list[int], int]:
        """Money of one unit of `cumulative` for each product, of one slice of it for each, and of
        the rest; all in one unit of money."""
        task = self.task
        per = self.per
        slopes = [task.price_in_unit(one.price) * per for one in task.products]
        fixed = [Fraction(one.each or 0) for one in task.products]
        rest = task.price_in_unit(task.rest) * per
        unit = lcm(*(one.denominator for one in (*slopes, *fixed, rest)))
        whole = [int(one * unit) * MONEY for one in (*slopes, *fixed, rest)]
        many = len(task.products)
        return whole[:many], whole[many : 2 * many], whole[-1]

    @cached_property
    def may_mark(self) -> list[bool]:
        """Whether the knife may go in at a place, leaving a next part behind the kerf."""
        task = self.task
        if task.bone_cuts is None:
            found = [place > 0 and place + self.kerf < self.last for place in range(self.last + 1)]
        else:
            cuts = set(task.bone_cuts)
            found = [task.at(place) in cuts for place in range(self.last + 1)]
            found = [ok and i + self.kerf < self.last for i, ok in enumerate(found)]
        for zone in task.zones:
            if zone.rule == NO_CUT:
                for place in range(1, self.last):
                    if zone.start < task.at(place) < zone.end:
                        found[place] = False
        return found

    def windows(self, product: Slice) -> list[tuple[int, int] | None]:
        """For each place where a slice of it may start, the first and last place where it may end.

        Going towards the near end both only ever move that way too.
        """
        task, last, length = self.task, self.last, self.task.profile.length
        start = self._first_at(max(task.near, product.start or task.near))
        behind = length - task.far
        end: int = self._last_at(behind if product.end is None else min(behind, product.end))
        thin, thick = product.thinnest or task.step, product.thickest
        shortest = ceil(thin / task.step)
        longest = last if thick is None else int(thick // task.step)
        reaches = 0 if thick is None else self._first_at(max(length - thick, ZERO))
        too_late = self._last_at(length - thin) if thin <= length else NONE
        blocked = [
            (self._first_at(zone.end), self._last_at(zone.start))
            for zone in task.zones
            if zone.rule == NO_PRODUCT
        ]
        least, most = self._weights(product)
        bones = self._bones(product) if product.bones is not None else None
        found: list[tuple[int, int] | None] = [None] * last
        for place in range(start, min(too_late, last - 1) + 1):
            low = min(place + shortest, last)
            high = min(end, last if place >= reaches else place + longest)
            if least is not None:
                low = max(low, bisect_left(self.cumulative, self.cumulative[place] + least))
            if most is not None:
                high = min(high, bisect_right(self.cumulative, self.cumulative[place] + most) - 1)
            for until, before in blocked:
                if place < until:
                    high = min(high, before)
            if bones is not None:
                only = bones.get(place, NONE)
                low, high = (only, only) if low <= only <= high else (1, 0)
            found[place] = (low, high) if low <= high else None
        return found

    def _weights(self, product: Slice) -> tuple[int | None, int | None]:
        """Its limits of weight in units of `cumulative`."""
        light, heavy = product.lightest, product.heaviest
        least = None if light is None else ceil(self.task.in_unit(light) / self.per)
        most = None if heavy is None else int(self.task.in_unit(heavy) / self.per)
        return least, most

    def _first_at(self, at: Decimal) -> int:
        """The first place at or behind a distance."""
        return min(ceil(at / self.task.step), self.last)

    def _last_at(self, at: Decimal) -> int:
        """The last place at or before a distance."""
        if at >= self.task.profile.length:
            return self.last
        return min(int(at // self.task.step), self.last - 1)

    def _bones(self, product: Slice) -> dict[int, int]:
        """For each place where a part may start, the place so many bones further."""
        cuts = [int(cut / self.task.step) for cut in self.task.bone_cuts or ()]
        starts = [0, *(cut + self.kerf for cut in cuts)]
        ends = [*cuts, self.last]
        many = product.bones or 1
        return {
            start: ends[number + many - 1]
            for number, start in enumerate(starts)
            if number + many <= len(ends)
        }


@dataclass
class Counting:
    """How many of the counted products were cut, as one number."""

    products: tuple[Slice, ...]

    def __post_init__(self) -> None:
        self.caps = [
            (one.most if one.most is not None else one.least) if one.is_counted else 0
            for one in self.products
        ]
        self.strides: list[int] = []
        self.many = 1
        for cap in self.caps:
            self.strides.append(self.many)
            self.many *= cap + 1

    def after(self, code: int, product: int) -> int:
        """The number after one more of a product; NONE where that is one too many."""
        one = self.products[product]
        if not one.is_counted:
            return code
        digit = code // self.strides[product] % (self.caps[product] + 1)
        if digit < self.caps[product]:
            return code + self.strides[product]
        return NONE if one.most is not None else code

    def is_enough(self, code: int) -> bool:
        return all(
            code // stride % (cap + 1) >= one.least
            for one, stride, cap in zip(self.products, self.strides, self.caps, strict=True)
        )


class Way:
    """One product as the next slice, asked from the far end to the near one.

    `then`: the best from each place on once it is cut, `end`: at the far end. The queue holds the
    ends of the window that may still be best, the farthest first.
    """

    def __init__(
        self,
        grid: Grid,
        windows: list[tuple[int, int] | None],
        rates: tuple[int, int],
        then: list[int],
        end: int,
    ) -> None:
        self.cumulative, self.may_mark = grid.cumulative, grid.may_mark
        self.last, self.kerf = grid.last, grid.kerf
        self.windows, self.then, self.end = windows, then, end
        self.slope, self.bonus = rates
        self.queue: deque[tuple[int, int]] = deque()
        self.reached = grid.last + 1

    def best(self, place: int) -> int:
        """The most that a slice from this place brings with all that follows."""
        window = self.windows[place]
        if window is None:
            return NEVER
        low, high = window
        queue = self.queue
        while self.reached > low:
            self.reached -= 1
            self._take(self.reached)
        while queue and queue[0][0] > high:
            queue.popleft()
        if not queue:
            return NEVER
        return queue[0][1] - self.slope * self.cumulative[place] + self.bonus

    def _take(self, end: int) -> None:
        if end == self.last:
            value = self.end
        elif self.may_mark[end]:
            value = self.then[end + self.kerf]
        else:
            return
        if value <= LOST:
            return
        value += self.slope * self.cumulative[end] - (MARK if end < self.last else 0)
        queue = self.queue
        while queue and queue[-1][1] <= value:
            queue.pop()
        queue.append((end, value))


class Search:
    """The tables of one task: the best from each place on, for each count.

    `any_part`: whatever comes next; `slice_next`: after a gap, so that a slice must follow.
    """

    def __init__(self, task: Task) -> None:
        self.task, self.grid = task, Grid(task)
        self.counting = Counting(task.products)
        self.windows = [self.grid.windows(product) for product in task.products]
        many, places = self.counting.many, self.grid.last + 1
        self.any_part = [[NEVER] * places for _ in range(many)]
        self.slice_next = [[NEVER] * places for _ in range(many)]
        self.at_end = [0 if self.counting.is_enough(code) else NEVER for code in range(many)]
        for code in reversed(range(many)):
            self._fill(code)

    def _fill(self, code: int) -> None:
        """All places of one count; those with more are filled already, and its own further on."""
        grid = self.grid
        cumulative, last, kerf, may_mark = grid.cumulative, grid.last, grid.kerf, grid.may_mark
        rest, end = grid.rates[2], self.at_end[code]
        any_part, slice_next = self.any_part[code], self.slice_next[code]
        ways = self._ways(code)
        gap, at_end = NEVER, end + rest * cumulative[last] if end > LOST else NEVER
        for place in range(last - 1, -1, -1):
            mark = place + grid.gap
            if place == grid.last_gap:
                gap = max(gap, at_end)
            if mark < last and may_mark[mark] and slice_next[mark + kerf] > LOST:
                gap = max(gap, slice_next[mark + kerf] - MARK + rest * cumulative[mark])
            best = max((way.best(place) for way in ways), default=NEVER)
            slice_next[place] = best
            any_part[place] = max(best, gap - rest * cumulative[place]) if gap > LOST else best

    def _ways(self, code: int) -> list[Way]:
        """What may be cut next, and what it leads to."""
        slopes, fixed, _ = self.grid.rates
        found = []
        for number in range(len(self.task.products)):
            after = self.counting.after(code, number)
            if after != NONE:
                then, end = self.any_part[after], self.at_end[after]
                rates = (slopes[number], fixed[number] - SLICE)
                found.append(Way(self.grid, self.windows[number], rates, then, end))
        return found

    @property
    def best(self) -> int:
        return self.any_part[0][0]

    @property
    def is_possible(self) -> bool:
        return self.best > LOST

    def parts(self) -> tuple[Part, ...]:
        """The best row of parts; of equal ones that with the smaller marks, then the earlier
        products."""
        last = self.grid.last
        rows: dict[tuple[int, int, bool], tuple[tuple[int, ...], tuple[tuple[int, int, int], ...]]]
        rows = {(0, 0, False): ((), ())}
        while True:
            found: list[
                tuple[int, tuple[int, int, bool], tuple[int, ...], tuple[tuple[int, int, int], ...]]
            ] = []
            for (place, code, is_after_gap), (order, row) in rows.items():
                for end, product, after in self._options(place, code, is_after_gap):
                    key = (end + self.grid.kerf, after, product == NONE)
                    rank = len(self.task.products) if product == NONE else product
                    found.append((end, key, (*order, rank), (*row, (place, end, product))))
            first = min(end for end, *_ in found)
            kept = [one for one in found if one[0] == first]
            if first == last:
                row = min(kept, key=lambda one: one[2])[3]
                return tuple(self._part(*one) for one in row)
            rows = {}
            for _, key, order, row in kept:
                if key not in rows or order < rows[key][0]:
                    rows[key] = (order, row)

    def _options(self, place: int, code: int, is_after_gap: bool) -> Iterator[tuple[int, int, int]]:
        """Ends, products and counts of every next part that leads to the best."""
        grid = self.grid
        table = self.slice_next if is_after_gap else self.any_part
        goal = table[code][place]
        slopes, fixed, rest = grid.rates
        for number in range(len(self.task.products)):
            window, after = self.windows[number][place], self.counting.after(code, number)
            if window is None or after == NONE:
                continue
            for end in range(window[0], window[1] + 1):
                then = self._then(end, after, self.any_part)
                taken = slopes[number] * (grid.cumulative[end] - grid.cumulative[place])
                if then > LOST and taken + fixed[number] - SLICE + then == goal:
                    yield end, number, after
        if is_after_gap:
            return
        ends = [
            *range(place + grid.gap, grid.last),
            *([grid.last] if place <= grid.last_gap else []),
        ]
        for end in ends:
            then = self._then(end, code, self.slice_next)
            taken = rest * (grid.cumulative[end] - grid.cumulative[place])
            if then > LOST and taken + then == goal:
                yield end, NONE, code

    def _then(self, end: int, code: int, table: list[list[int]]) -> int:
        if end == self.grid.last:
            return self.at_end[code]
        return table[code][end + self.grid.kerf] - MARK if self.grid.may_mark[end] else NEVER

    def _part(self, start: int, end: int, product: int) -> Part:
        task = self.task
        weight = self.grid.weight(start, end)
        if product == NONE:
            return Part(start, end, None, weight, weight * task.price_in_unit(task.rest))
        one = task.products[product]
        each = None if one.each is None else Fraction(one.each)
        value = weight * task.price_in_unit(one.price) if each is None else each
        return Part(start, end, product, weight, value)


def lay_out(task: Task) -> Layout:
    """The layout that brings the most. Raises NoLayout, with a reason for each limit, for none."""
    search = Search(task)
    wrong = [] if search.is_possible and _any_slice(search) else _reasons(task)
    if wrong:
        raise NoLayout(tuple(wrong))
    return Layout(task, search.parts(), plain_rule(task))


class NoLayout(Exception):
    """Nothing fits. `reasons`: each names the limit and the nearest that can be met."""

    def __init__(self, reasons: tuple[BadValue, ...]) -> None:
        super().__init__("; ".join(str(one) for one in reasons))
        self.reasons = reasons


def _any_slice(search: Search) -> bool:
    """Whether a slice fits anywhere at all, whatever it brings."""
    grid = search.grid
    for windows in search.windows:
        for place, window in enumerate(windows):
            is_start = place == 0 or (place > grid.kerf and grid.may_mark[place - grid.kerf])
            if not is_start or window is None:
                continue
            ends = range(window[0], window[1] + 1)
            if any(end == grid.last or grid.may_mark[end] for end in ends):
                return True
    return False


def most_of(task: Task, number: int) -> int:
    """How many of one product fit, when nothing else is wanted."""
    alone = replace(task.products[number], least=0, most=None, price=None, each=Decimal(1))
    found = Search(replace(task, products=(alone,), rest=None))
    return len([part for part in found.parts() if part.product is not None])


def _reasons(task: Task) -> list[BadValue]:
    """Why nothing fits: products none of which fits, else the counts that are too many."""
    fits = [most_of(task, number) for number in range(len(task.products))]
    if not any(fits):
        return [_no_slice(task, number) for number in range(len(task.products))]
    found = [
        BadValue(
            f"products[{number}].least",
            f"{one.least} of {one.name}",
            f"at most {fits[number]} fit, so {fits[number]} or fewer is right",
        )
        for number, one in enumerate(task.products)
        if one.least > fits[number]
    ]
    return found or [_together(task)]


def _together(task: Task) -> BadValue:
    """The first count that does not fit beside those before it, and how many of it do."""
    none = tuple(replace(one, least=0) for one in task.products)
    for number, one in enumerate(task.products):
        before = (*task.products[:number], *none[number:])
        for least in range(one.least, -1, -1):
            tried = (*before[:number], replace(one, least=least), *before[number + 1 :])
            if Search(replace(task, products=tried)).is_possible:
                if least == one.least:
                    break
                names = " and ".join(x.name for x in task.products[:number] if x.least)
                return BadValue(
                    f"products[{number}].least",
                    f"{one.least} of {one.name} beside {names}",
                    f"{least} or fewer is right",
                )
    raise AssertionError("counts that fit one by one and together are possible")


def _no_slice(task: Task, number: int) -> BadValue:
    """Which limit of a product no slice meets, and the nearest that one does."""
    one = task.products[number]
    for name, right, freed in (
        ("weight", "weight", replace(one, lightest=None, heaviest=None)),
        ("thickness", "thickness", replace(one, thinnest=None, thickest=None)),
        ("from", "stretch", replace(one, start=None, end=None)),
    ):
        if freed == one or not _any_slice(Search(replace(task, products=(_uncounted(freed),)))):
            continue
        path = f"products[{number}].{name}"
        return BadValue(path, f"no slice of {one.name} meets it", _nearest(task, freed, right))
    return BadValue(
        f"products[{number}]", f"no slice of {one.name} fits", "other limits or zones are right"
    )


def _uncounted(one: Slice) -> Slice:
    return replace(one, least=0, most=None)


def _nearest(task: Task, freed: Slice, what: str) -> str:
    """What slices of a product have, once one limit is left out."""
    search = Search(replace(task, products=(_uncounted(freed),)))
    grid = search.grid
    pairs = [
        (place, end)
        for place, window in enumerate(search.windows[0])
        if window is not None
        for end in window
    ]
    if what == "weight":
        sizes = [float(grid.weight(start, end)) for start, end in pairs]
        return f"{min(sizes):.4g} to {max(sizes):.4g} {task.unit.value} is what its slices weigh"
    if what == "thickness":
        thick = [task.at(end) - task.at(start) for start, end in pairs]
        return f"{min(thick):f} to {max(thick):f} mm is what its weights give"
    starts = [task.at(start) for start, _ in pairs]
    return f"a stretch from {min(starts):f} mm on is right"


def plain_rule(task: Task) -> PlainRule | None:
    """Halves, quarters, then three or four of each, of the first product; None with bones.

    Common practice, no published source. What is out of the limits brings what the rest does.
    """
    if task.bone_cuts is not None:
        return None
    found = [_divided(task, count) for count in (12, 16)]
    return max(found, key=lambda one: (one.money, -one.count))


def _divided(task: Task, count: int) -> PlainRule:
    one, length = task.products[0], Fraction(task.profile.length)
    ends = [task.profile.before(length * i / count) for i in range(count + 1)]
    thick = length / count
    money, out = Fraction(0), 0
    for before, after in pairwise(ends):
        weight = (after - before) * task.per_volume
        if keeps_limits(task, one, weight, thick):
            each = None if one.each is None else Fraction(one.each)
            money += weight * task.price_in_unit(one.price) if each is None else each
        else:
            out += 1
            money += weight * task.price_in_unit(task.rest)
    return PlainRule(count, out, money)


def keeps_limits(task: Task, one: Slice, weight: Fraction, thick: Fraction) -> bool:
    """Whether a slice of that weight and thickness is one of the product."""
    low = None if one.lightest is None else task.in_unit(one.lightest)
    high = None if one.heaviest is None else task.in_unit(one.heaviest)
    thin = None if one.thinnest is None else Fraction(one.thinnest)
    broad = None if one.thickest is None else Fraction(one.thickest)
    return all(
        (least is None or least <= value) and (most is None or value <= most)
        for least, most, value in ((low, high, weight), (thin, broad, thick))
    )
