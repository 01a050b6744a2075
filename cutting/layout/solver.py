"""The layout that brings the most money: exact, over every place of the grid.

From the far end to the near one: the best that can be had from each place on. A slice by weight
brings its price times a difference of two cumulative weights, so that of all its ends the best one
is the maximum of a window that only moves one way; a queue keeps it, and the whole is linear in the
length. Money is a whole number of a unit in which all of it is whole, so that equal is equal.
"""

from __future__ import annotations

from bisect import bisect_left, bisect_right
from collections import deque
from collections.abc import Iterator, Mapping, Sequence
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
    NOTCH,
    ZERO,
    Layout,
    Part,
    PlainRule,
    Slice,
    Task,
    Zone,
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
    """Everything of a task that does not depend on what was cut before, in whole numbers.

    `values`: what each product counts as, where that is not what it brings; as `Task.value_of`.
    """

    task: Task
    values: Sequence[tuple[Fraction, Fraction]] | None = None

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
        found, scale = self.task.profile.grid(self.task.step, self.last + 1)
        for zone in self.task.zones:
            if zone.rule == NOTCH and zone.share:
                found, scale = self._notched(found, scale, zone)
        return found, scale

    def _notched(self, volumes: list[int], scale: int, zone: Zone) -> tuple[list[int], int]:
        """The same without what is cut out of one zone."""
        before = self.task.profile.before
        start, end, share = Fraction(zone.start), Fraction(zone.end), Fraction(zone.share)
        lost = [
            share * (before(max(start, min(Fraction(self.task.at(place)), end))) - before(start))
            for place in range(self.last + 1)
        ]
        per = lcm(scale, *(one.denominator for one in lost))
        factor = per // scale
        return [v * factor - int(x * per) for v, x in zip(volumes, lost, strict=True)], per

    @property
    def cumulative(self) -> list[int]:
        """The volume up to every place, whole."""
        return self._volumes[0]

    @cached_property
    def about(self) -> list[float]:
        """`cumulative` as shares of the whole in floating point, for what is only an estimate."""
        whole = self.cumulative[-1]
        return [one / whole for one in self.cumulative]

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
        values = self.values or [task.value_of(one) for one in task.products]
        slopes, fixed = [slope * per for slope, _ in values], [each for _, each in values]
        rest = task.price_in_unit(task.rest) * per
        unit = lcm(*(one.denominator for one in (*slopes, *fixed, rest)))
        whole = [int(one * unit) * MONEY for one in (*slopes, *fixed, rest)]
        many = len(task.products)
        return whole[:many], whole[many : 2 * many], whole[-1]

    @cached_property
    def may_mark(self) -> list[bool]:
        """Whether the knife may go in at a place, leaving a next part behind the kerf. No part of the kerf lies
        in a zone that is not cut, whichever end the piece is laid from."""
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
                    if task.at(place) < zone.end and task.at(place + self.kerf) > zone.start:
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
        """Its limits of weight, as a slice has them, in units of `cumulative`."""
        light, heavy = product.lightest, product.heaviest
        per = self.per * product.kept
        least = None if light is None else ceil(self.task.in_unit(light) / per)
        most = None if heavy is None else int(self.task.in_unit(heavy) / per)
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


class Counting:
    """How many portions of the counted names were cut, as one number."""

    def __init__(self, products: tuple[Slice, ...]) -> None:
        self.products = products
        names = list(dict.fromkeys(one.name for one in products))
        first = {one.name: one for one in reversed(products)}
        self.of = [names.index(one.name) for one in products]
        """The name of each product, as a number."""
        self.limits = [(first[name].least, first[name].most) for name in names]
        self.caps = [most if most is not None else least for least, most in self.limits]
        self.strides: list[int] = []
        self.many = 1
        for cap in self.caps:
            self.strides.append(self.many)
            self.many *= cap + 1

    def after(self, code: int, product: int, portions: int = 0) -> int:
        """The number after one more slice of a product, or after so many portions; NONE where
        that is too many."""
        name = self.of[product]
        cap, most = self.caps[name], self.limits[name][1]
        if not cap:
            return code
        digit = code // self.strides[name] % (cap + 1)
        more = portions or self.products[product].across
        if most is not None and digit + more > cap:
            return NONE
        return code + min(more, cap - digit) * self.strides[name]

    def code(self, cut: Mapping[str, int]) -> int:
        """The number for so many portions of each name; NONE where a limit is passed already."""
        code = 0
        for product, one in enumerate(self.products):
            many = cut.get(one.name, 0)
            if many and self.of.index(self.of[product]) == product:
                code = self.after(code, product, many)
                if code == NONE:
                    return NONE
        return code

    def is_enough(self, code: int) -> bool:
        limits = zip(self.limits, self.strides, self.caps, strict=True)
        return all(code // stride % (cap + 1) >= least for (least, _), stride, cap in limits)


class Way:
    """One product as the next slice, asked from the far end to the near one.

    `then`: the best from each place on once it is cut, `end`: at the far end. The queue holds the
    ends of the window that may still be best, the farthest first.
    """

    def __init__(
        self,
        grid: Grid,
        windows: list[tuple[int, int] | None],
        worth: list[int],
        bonus: int,
        then: list[int],
        end: int,
    ) -> None:
        self.may_mark, self.last, self.kerf = grid.may_mark, grid.last, grid.kerf
        self.windows, self.worth, self.then, self.end = windows, worth, then, end
        self.bonus = bonus
        self.queue: deque[tuple[int, int]] = deque()
        self.reached = grid.last + 1

    def best(self, place: int) -> int:
        """The most that a slice from this place brings with all that follows."""
        window = self.windows[place]
        if window is None:
            return NEVER
        low, high = window
        queue = self.queue
        if self.reached > low:
            self._take(low)
        while queue and queue[0][0] > high:
            queue.popleft()
        if not queue:
            return NEVER
        return queue[0][1] - self.worth[place] + self.bonus

    def sweep(self, first: int) -> list[int]:
        """`best` of every place from one on, where all that follows is known already."""
        queue, worth, bonus, windows = self.queue, self.worth, self.bonus, self.windows
        found = [NEVER] * (self.last + 1)
        for place in range(self.last - 1, first - 1, -1):
            window = windows[place]
            if window is None:
                continue
            low, high = window
            if self.reached > low:
                self._take(low)
            while queue and queue[0][0] > high:
                queue.popleft()
            if queue:
                found[place] = queue[0][1] - worth[place] + bonus
        return found

    def _take(self, low: int) -> None:
        """Take in every end down to a place."""
        queue, worth, then, may_mark = self.queue, self.worth, self.then, self.may_mark
        for end in range(self.reached - 1, low - 1, -1):
            if end == self.last:
                value = self.end + MARK
            elif may_mark[end]:
                value = then[end + self.kerf]
            else:
                continue
            if value <= LOST:
                continue
            value += worth[end] - MARK
            while queue and queue[-1][1] <= value:
                queue.pop()
            queue.append((end, value))
        self.reached = low


class Search:
    """The tables of one task: the best from each place on, for each count.

    `any_part`: whatever comes next; `slice_next`: after a gap, so that a slice must follow.
    `first`: nothing before that place is asked for.
    """

    def __init__(
        self,
        task: Task,
        first: int = 0,
        values: Sequence[tuple[Fraction, Fraction]] | None = None,
    ) -> None:
        self.task, self.grid, self.first = task, Grid(task, values), first
        self.counting = Counting(task.products)
        self.windows = [self.grid.windows(product) for product in task.products]
        cumulative = self.grid.cumulative
        slopes, fixed, rest = self.grid.rates
        by_slope = {slope: [slope * one for one in cumulative] for slope in {*slopes, rest}}
        self.worth = [by_slope[slope] for slope in slopes]
        self.bonus = [one - SLICE for one in fixed]
        self.rest = by_slope[rest]
        many, places = self.counting.many, self.grid.last + 1
        self.any_part = [[NEVER] * places for _ in range(many)]
        self.slice_next = [[NEVER] * places for _ in range(many)]
        self.at_end = [0 if self.counting.is_enough(code) else NEVER for code in range(many)]
        for code in reversed(range(many)):
            self._fill(code)

    def _fill(self, code: int) -> None:
        """All places of one count; those with more are filled already, and its own further on."""
        grid, rest = self.grid, self.rest
        last, kerf, may_mark = grid.last, grid.kerf, grid.may_mark
        end = self.at_end[code]
        any_part, slice_next = self.any_part[code], self.slice_next[code]
        ways, swept = self._ways(code)
        gap, at_end = NEVER, end + rest[last] if end > LOST else NEVER
        for place in range(last - 1, self.first - 1, -1):
            mark = place + grid.gap
            if place == grid.last_gap:
                gap = max(gap, at_end)
            if mark < last and may_mark[mark] and slice_next[mark + kerf] > LOST:
                gap = max(gap, slice_next[mark + kerf] - MARK + rest[mark])
            best = swept[place]
            for way in ways:
                best = max(best, way.best(place))
            slice_next[place] = best
            any_part[place] = max(best, gap - rest[place]) if gap > LOST else best

    def _ways(self, code: int) -> tuple[list[Way], list[int]]:
        """What may be cut next and leads to more of this very count; and of each place the best
        of what leads to another."""
        here, swept = [], [[NEVER] * (self.grid.last + 1)]
        for number in range(len(self.task.products)):
            after = self.counting.after(code, number)
            if after == NONE:
                continue
            then, end = self.any_part[after], self.at_end[after]
            worth, bonus = self.worth[number], self.bonus[number]
            way = Way(self.grid, self.windows[number], worth, bonus, then, end)
            if after == code:
                here.append(way)
            else:
                swept.append(way.sweep(self.first))
        return here, list(map(max, *swept)) if len(swept) > 1 else swept[0]

    @property
    def best(self) -> int:
        return self.any_part[0][0]

    @property
    def is_possible(self) -> bool:
        return self.best > LOST

    def parts(self, start: int = 0, code: int = 0) -> tuple[Part, ...]:
        """The best row of parts from a place on, when so much was cut before; of equal ones that
        with the smaller marks, then the earlier products."""
        last = self.grid.last
        rows: dict[tuple[int, int, bool], tuple[tuple[int, ...], tuple[tuple[int, int, int], ...]]]
        rows = {(start, code, False): ((), ())}
        while True:
            found: list[
                tuple[int, tuple[int, int, bool], tuple[int, ...], tuple[tuple[int, int, int], ...]]
            ] = []
            for (place, count, is_after_gap), (order, row) in rows.items():
                for end, product, after in self._options(place, count, is_after_gap):
                    key = (end + self.grid.kerf, after, product == NONE)
                    rank = len(self.task.products) if product == NONE else product
                    found.append((end, key, (*order, rank), (*row, (place, end, product))))
            first = min(end for end, *_ in found)
            kept = [one for one in found if one[0] == first]
            if first == last:
                row = min(kept, key=lambda one: one[2])[3]
                return tuple(self.made(*one) for one in row)
            rows = {}
            for _, key, order, row in kept:
                if key not in rows or order < rows[key][0]:
                    rows[key] = (order, row)

    def _options(self, place: int, code: int, is_after_gap: bool) -> Iterator[tuple[int, int, int]]:
        """Ends, products and counts of every next part that leads to the best."""
        grid = self.grid
        table = self.slice_next if is_after_gap else self.any_part
        goal = table[code][place]
        for number in range(len(self.task.products)):
            worth, bonus = self.worth[number], self.bonus[number]
            window, after = self.windows[number][place], self.counting.after(code, number)
            if window is None or after == NONE:
                continue
            for end in range(window[0], window[1] + 1):
                then = self._then(end, after, self.any_part)
                if then > LOST and worth[end] - worth[place] + bonus + then == goal:
                    yield end, number, after
        if is_after_gap:
            return
        ends = [
            *range(place + grid.gap, grid.last),
            *([grid.last] if place <= grid.last_gap else []),
        ]
        for end in ends:
            then = self._then(end, code, self.slice_next)
            if then > LOST and self.rest[end] - self.rest[place] + then == goal:
                yield end, NONE, code

    def _then(self, end: int, code: int, table: list[list[int]]) -> int:
        if end == self.grid.last:
            return self.at_end[code]
        return table[code][end + self.grid.kerf] - MARK if self.grid.may_mark[end] else NEVER

    def made(self, start: int, end: int, product: int) -> Part:
        return made(self.task, self.grid, start, end, product)


def made(task: Task, grid: Grid, start: int, end: int, product: int) -> Part:
    """One part with its weight and what it brings; NONE is a gap."""
    weight = grid.weight(start, end)
    if product == NONE:
        return Part(start, end, None, weight, weight * task.price_in_unit(task.rest))
    slope, fixed = task.value_of(task.products[product])
    return Part(start, end, product, weight, weight * slope + fixed)


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


def most_of(task: Task, name: str) -> int:
    """How many portions of one name fit, when nothing else is wanted."""
    alone = tuple(
        replace(one, least=0, most=None, price=None, each=Decimal(1))
        for one in task.products
        if one.name == name
    )
    search = Search(replace(task, products=alone, rest=None))
    parts = [part for part in search.parts() if part.product is not None]
    return sum(alone[part.product or 0].across for part in parts)


def _first_of_each(task: Task) -> dict[str, int]:
    """The first product of each name; its counts are the name's."""
    found: dict[str, int] = {}
    for number, one in enumerate(task.products):
        found.setdefault(one.name, number)
    return found


def _reasons(task: Task) -> list[BadValue]:
    """Why nothing fits: products none of which fits, else the counts that are too many."""
    first = _first_of_each(task)
    fits = {name: most_of(task, name) for name in first}
    if not any(fits.values()):
        return [_no_slice(task, number) for number in first.values()]
    found = [
        BadValue(
            f"products[{number}].least",
            f"{task.products[number].least} of {name}",
            f"at most {fits[name]} fit, so {fits[name]} or fewer is right",
        )
        for name, number in first.items()
        if task.products[number].least > fits[name]
    ]
    return found or [_together(task)]


def _together(task: Task) -> BadValue:
    """The first count that does not fit beside those before it, and how many of it do."""
    first = _first_of_each(task)
    wanted = dict.fromkeys(first, 0)

    def is_possible() -> bool:
        tried = tuple(replace(one, least=wanted[one.name]) for one in task.products)
        return Search(replace(task, products=tried)).is_possible

    for name, number in first.items():
        least = task.products[number].least
        for wanted[name] in range(least, -1, -1):
            if is_possible():
                break
        if wanted[name] < least:
            before = list(first)[: list(first).index(name)]
            names = " and ".join(one for one in before if wanted[one])
            return BadValue(
                f"products[{number}].least",
                f"{least} of {name} beside {names}",
                f"{wanted[name]} or fewer is right",
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
        return f"{min(thick):.1f} to {max(thick):.1f} mm is what its weights give"
    starts = [task.at(start) for start, _ in pairs]
    return f"a stretch from {min(starts):.1f} mm on is right"


def plain_rule(task: Task) -> PlainRule | None:
    """Halves, quarters, then three or four of each, of the first product; None with bones.

    Common practice, no published source. What is out of the limits brings what the product brings outside
    them, else what the rest does.
    """
    if task.bone_cuts is not None:
        return None
    kinds = [one for one in task.products if one.name == task.products[0].name]
    found = [_divided(task, one, count) for one in kinds for count in (12, 16)]
    return max(found, key=lambda one: (one.money, -one.count))


def _divided(task: Task, one: Slice, count: int) -> PlainRule:
    length = Fraction(task.profile.length)
    ends = [task.profile.before(length * i / count) for i in range(count + 1)]
    weights = [(after - before) * task.per_volume for before, after in pairwise(ends)]
    slices = tuple((weight, keeps_limits(task, one, weight, length / count)) for weight in weights)
    money = sum(
        (task.brings(one, weight, is_right=is_right) for weight, is_right in slices), Fraction(0)
    )
    return PlainRule(count, sum(not is_right for _, is_right in slices), money, slices)


def keeps_limits(task: Task, one: Slice, slice_weight: Fraction, thick: Fraction) -> bool:
    """Whether a slice of that weight and thickness is one of the product."""
    weight = slice_weight * one.kept
    low = None if one.lightest is None else task.in_unit(one.lightest)
    high = None if one.heaviest is None else task.in_unit(one.heaviest)
    thin = None if one.thinnest is None else Fraction(one.thinnest)
    broad = None if one.thickest is None else Fraction(one.thickest)
    return all(
        (least is None or least <= value) and (most is None or value <= most)
        for least, most, value in ((low, high, weight), (thin, broad, thick))
    )
