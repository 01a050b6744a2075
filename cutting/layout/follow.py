"""At the block: what was weighed says how the piece differs from its shape, and where the knife
stands; the rest is laid out again from there.

A portion that comes out heavy for its thickness has either been cut by a slip or come from a piece
that is heavier there than its shape says. A fit that gives far-off portions little weight (Huber's)
tells the two apart. The weight that is gone says where the knife stands in any case.
"""

from __future__ import annotations

from bisect import bisect_left, bisect_right
from collections.abc import Sequence
from dataclasses import dataclass, replace
from decimal import Decimal
from fractions import Fraction
from functools import cached_property, lru_cache
from itertools import pairwise

from cutting.layout.aims import Aim, lay_out_for
from cutting.layout.profile import Profile, Station
from cutting.layout.solver import Grid, NoLayout
from cutting.layout.task import Layout, Task
from cutting.quantities import Weight, working

KNIFE = 0.04
"""How far one portion usually is from what its thickness says: share of its weight."""
USUAL_SCALE, USUAL_TILT = 0.06, 0.25
"""How far pieces usually are from their shape: weight of a length where nobody measured it, and
how that changes from end to end. Common practice, no published source."""
HUBER = 1.345
"""Beyond so many usual deviations a portion counts less: 95 % efficient where all is well (Huber
1981)."""
SLIP = 3.0
ROUNDS, PLACES = 40, 4
FINE = Decimal("0.001")
"""mm: an estimated shape is no finer, which keeps its numbers small."""
ONE = Decimal(1)


@dataclass(frozen=True, slots=True)
class Asked:
    """The next portion as it was said: its name, how thick in mm, what comes off before it (face,
    gap, dust) in mm, what it should weigh in the piece's unit. A slice may be parted into `of`
    portions; `continues`: this one is of a slice that was cut already."""

    name: str
    thick: Decimal
    before: Decimal
    expected: Fraction
    of: int = 1
    lost: Decimal = Decimal(0)
    continues: bool = False


@dataclass(frozen=True, slots=True)
class Told:
    """What was weighed: in the piece's unit, so many portions of a name; as it was asked for, None
    where something else was cut."""

    weight: Fraction
    name: str
    portions: int = 1
    asked: Asked | None = None

    @property
    def share(self) -> Fraction:
        """The share of the asked slice that was weighed."""
        return Fraction(self.portions, self.asked.of) if self.asked else Fraction(1)

    @property
    def whole(self) -> Fraction:
        """What it took off the piece."""
        return self.weight / (1 - Fraction(self.asked.lost)) if self.asked else self.weight


def asked_for(coming: Sequence[Asked], name: str, portions: int) -> Asked | None:
    """What so many portions of a name on the scale together were asked for; None where something
    else came next, or where a slice would be weighed with part of another."""
    taken: list[Asked] = []
    for one in coming[:portions]:
        if one.name != name:
            return None
        taken.append(one)
    if len(taken) < portions:
        return None
    first, slices = taken[0], [one for one in taken if not one.continues]
    if first.continues:
        return None if slices else first
    if len(slices) == 1:
        return first
    return replace(
        first,
        thick=sum((one.thick for one in slices), Decimal(0)),
        before=sum((one.before for one in slices), Decimal(0)),
        expected=sum((one.expected for one in taken), Fraction(0)) / portions,
        of=sum(one.of for one in slices),
    )


@dataclass(frozen=True, slots=True)
class Fit:
    """How a piece differs from its shape: the weight of a length (1 as the shape says), and the
    change of that from end to end."""

    scale: Decimal = ONE
    tilt: Decimal = Decimal(0)

    def here(self, share: float, centre: float) -> float:
        """The weight of a length at a share of the piece's length, against the shape."""
        return float(self.scale) * (1 + float(self.tilt) * (share - centre))


@dataclass(frozen=True, slots=True)
class Seen:
    """One weighing against the shape: where, how heavy (1 as the shape says), of how many."""

    share: float
    ratio: float
    portions: int


def robust_fit(seen: Sequence[Seen], centre: float, *, is_measured: bool) -> Fit:
    """The fit that explains the portions best; with few of them the shape is believed more.

    Least squares with Huber's loss and a prior at the shape, by weights that are worked out again
    until they stay. `is_measured`: the length is known, so that only the tilt is free.
    """
    scale = tilt = 0.0
    priors = (USUAL_SCALE**-2, USUAL_TILT**-2)
    for _ in range(ROUNDS):
        a, b, c = priors[0], 0.0, priors[1]
        d = e = 0.0
        for one in seen:
            x, y = one.share - centre, one.ratio - 1
            sigma = KNIFE / one.portions**0.5
            off = abs(y - scale - tilt * x) / sigma
            weight = sigma**-2 * min(1.0, HUBER / off if off else 1.0)
            a, b, c = a + weight, b + weight * x, c + weight * x * x
            d, e = d + weight * y, e + weight * x * y
        before = scale, tilt
        if is_measured:
            scale, tilt = 0.0, e / c
        else:
            whole = a * c - b * b
            scale, tilt = (d * c - b * e) / whole, (a * e - b * d) / whole
        if max(abs(scale - before[0]), abs(tilt - before[1])) < 1e-10:
            break
    return Fit(
        Decimal(repr(round(1 + scale, PLACES))).quantize(Decimal("0.0001")),
        Decimal(repr(round(tilt, PLACES))).quantize(Decimal("0.0001")),
    )


@lru_cache(maxsize=32)
def centre_of(profile: Profile) -> float:
    """Where the piece would balance, as a share of its length."""
    steps = 40
    length = Fraction(profile.length)
    volumes = [profile.before(length * i / steps) for i in range(steps + 1)]
    moments = sum(
        (after - before) * (2 * i + 1) for i, (before, after) in enumerate(pairwise(volumes))
    )
    return float(moments / (2 * steps) / profile.whole)


def fitted(profile: Profile, fit: Fit) -> Profile:
    """The shape as the fit has it: shorter and wider where a length weighs more, wider at the
    heavier end."""
    if fit == Fit():
        return profile
    centre = Decimal(repr(round(centre_of(profile), 6)))
    with working():
        length, last = profile.length / fit.scale, len(profile.stations) - 1
        stations = []
        for number, one in enumerate(profile.stations):
            share = one.at / profile.length
            wider = max(fit.scale * (1 + fit.tilt * (share - centre)), Decimal("0.05"))
            stations.append(
                Station(
                    (length if number == last else one.at / fit.scale).quantize(FINE),
                    None if one.width is None else (one.width * wider).quantize(FINE),
                    one.height,
                    None if one.area is None else (one.area * wider).quantize(FINE),
                )
            )
    return Profile(profile.section, tuple(stations))


@dataclass(frozen=True)
class Following:
    """Where a piece stands after what was weighed. `layout`: of the rest, None where nothing more
    fits; `short`: names whose least can no longer be met; `fit` and what it rests on."""

    task: Task
    told: tuple[Told, ...]
    fit: Fit
    seen: tuple[Seen, ...]
    centre: float
    """Where the shape would balance, as a share of its length: the tilt turns about it."""
    place: int
    """Where the next part begins."""
    knife: int
    """Where the last cut was made."""
    pending: Asked | None
    """The next portion, where it is of a slice that was cut already."""
    to_come: int
    """How many of those are not yet weighed."""
    layout: Layout | None
    short: tuple[str, ...] = ()

    @cached_property
    def next(self) -> tuple[Asked, ...]:
        """Every portion to come, in order."""
        found = [self.pending] * self.to_come if self.pending else []
        if self.layout is None:
            return tuple(found)
        stands, task = self.knife, self.layout.task
        for part in self.layout.slices:
            one = task.products[part.product or 0]
            asked = Asked(
                one.name,
                task.at(part.end) - task.at(part.start),
                task.at(part.start) - task.at(stands),
                part.weight * one.kept,
                one.across,
                one.lost,
            )
            found += [
                asked,
                *[replace(asked, before=Decimal(0), continues=True)] * (one.across - 1),
            ]
            stands = part.end
        return tuple(found)

    @property
    def here(self) -> float:
        """The weight of a length where the knife stands, against the shape."""
        share = float(self.task.at(self.place) / self.task.profile.length)
        return self.fit.here(share, self.centre)

    @property
    def heavy(self) -> Fraction:
        """How much the weighed portions are over what was asked, in the mean."""
        known = [one for one in self.told if one.asked is not None]
        if not known:
            return Fraction(0)
        over = sum(
            (one.weight - one.portions * one.asked.expected for one in known if one.asked),
            Fraction(0),
        )
        return over / sum(one.portions for one in known)

    @property
    def is_slip(self) -> bool:
        """Whether the last weighing is far from what the others say."""
        if not self.seen or not self.told or self.told[-1].asked is None:
            return False
        last = self.seen[-1]
        off = last.ratio - self.fit.here(last.share, self.centre)
        return bool(abs(off) * last.portions**0.5 > SLIP * KNIFE)


@lru_cache(maxsize=64)
def follow(
    task: Task,
    told: tuple[Told, ...],
    *,
    aim: Aim = Aim.MONEY,
    is_measured: bool = False,
    put_back: Fraction = Fraction(0),
) -> Following:
    """The rest laid out again after what was weighed, in the order it was cut.

    `is_measured`: the length of the piece is known. `put_back`: what was taken off the far end
    since. With portions that weigh exactly what was asked nothing changes.
    """
    is_fixed = is_measured or task.bone_cuts is not None
    fit, centre = Fit(), centre_of(task.profile)
    plain = Grid(task)
    walk = _walk(plain, task, told)
    for _ in range(3):
        found = robust_fit(walk.seen, centre, is_measured=is_fixed)
        if found == fit:
            break
        fit = found
        walk = _walk(plain, replace(task, profile=fitted(task.profile, fit)), told)
    now = walk.task
    place = min(walk.knife + (walk.grid.kerf if told else 0), now.last)
    rest = _as_heavy(now, walk, put_back)
    layout, short = _laid(rest, aim, place, _counted(told, walk.to_come))
    return Following(
        now,
        told,
        fit,
        tuple(walk.seen),
        centre,
        place,
        walk.knife,
        walk.pending,
        walk.to_come,
        layout,
        short,
    )


@dataclass
class _Walk:
    """The knife's way along a piece."""

    task: Task
    grid: Grid
    knife: int
    gone: Fraction
    """In the grid's own unit of weight."""
    seen: list[Seen]
    pending: Asked | None
    to_come: int = 0
    """Portions of a slice that was cut already, not yet weighed."""


def _walk(plain: Grid, task: Task, told: Sequence[Told]) -> _Walk:
    """Where the knife stands by the weight that is gone, and each weighing against the shape."""
    grid = Grid(task)
    walk = _Walk(task, grid, 0, Fraction(0), [], None)
    start, left = 0, Fraction(0)
    for one in told:
        if one.asked is None or not one.asked.continues:
            before = one.asked.before if one.asked else Decimal(0)
            start = min(walk.knife + round(before / task.step), grid.last)
            walk.gone += grid.cumulative[start] - grid.cumulative[walk.knife]
            left = Fraction(1)
        walk.gone += one.whole / grid.per
        left -= one.share
        walk.knife = max(_nearest(grid, walk.gone), start)
        if task.bone_cuts is not None:
            walk.knife = _between_bones(task, one, start, walk.knife)
        if one.asked is not None:
            _see(walk, plain, one, task.at(start))
            more = replace(one.asked, before=Decimal(0), continues=True)
            walk.pending = more if left > 0 else None
        else:
            walk.pending = None
    if walk.pending is not None:  # the rest of that slice is cut, though not yet weighed
        walk.to_come = int(left * walk.pending.of)
        walk.gone += told[-1].whole / grid.per / told[-1].portions * walk.to_come
        walk.knife = max(_nearest(grid, walk.gone), start)
    return walk


def _see(walk: _Walk, plain: Grid, one: Told, start: Decimal) -> None:
    """Set a weighing against what the shape says of its thickness there."""
    assert one.asked is not None  # noqa: S101 (its caller has looked)
    length, shape = float(walk.task.profile.length), float(plain.task.profile.length)
    low, thick = float(start) * shape / length, float(one.asked.thick)
    high = low + thick * shape / length
    if high > shape + 1e-6:
        return
    whole = float(plain.cumulative[-1] * plain.per)
    per_length = (_at(plain, high) - _at(plain, low)) * whole / (high - low)
    ratio = float(one.whole) / (per_length * thick * float(one.share))
    walk.seen.append(Seen((low + high) / 2 / shape, ratio, one.portions))


def _at(grid: Grid, at: float) -> float:
    """The share of the volume up to a distance, straight between two places of the grid."""
    step = float(grid.task.step)
    place = min(int(at / step), grid.last - 1)
    one, other = place * step, min((place + 1) * step, float(grid.task.profile.length))
    before, after = grid.about[place], grid.about[place + 1]
    return before + (after - before) * (at - one) / (other - one)


def _between_bones(task: Task, one: Told, start: int, place: int) -> int:
    """Where the cut fell: as asked, else at the nearest place it may have, behind its start."""
    if one.asked is not None:
        return min(start + round(one.asked.thick / task.step), task.last)
    cuts = [int(cut / task.step) for cut in task.bone_cuts or ()]
    behind = [cut for cut in (*cuts, task.last) if cut > start]
    return min(behind or [task.last], key=lambda cut: abs(cut - place))


def _nearest(grid: Grid, gone: Fraction) -> int:
    """The place up to which nearest so much lies."""
    about, wanted = grid.about, float(gone / grid.cumulative[-1])
    place = bisect_left(about, wanted)
    if place >= len(about):
        return len(about) - 1
    if place and wanted - about[place - 1] < about[place] - wanted:
        return place - 1
    return place


def _as_heavy(task: Task, walk: _Walk, put_back: Fraction) -> Task:
    """The piece with its rest weighing exactly what is left, its far end where it was parted."""
    grid = walk.grid
    whole, here = grid.cumulative[-1], grid.cumulative[walk.knife]
    left = whole - walk.gone
    if whole > here and left > 0 and left != whole - here:
        heavy = Fraction(task.weight.value) * left / (whole - here)
        with working():
            value = (Decimal(heavy.numerator) / Decimal(heavy.denominator)).quantize(
                Decimal("1e-9")
            )
        task = replace(task, weight=Weight(value, task.unit))
    if not put_back:
        return task
    parted = bisect_right(grid.cumulative, whole - put_back / Grid(task).per) - 1
    return replace(task, far=max(task.far, task.profile.length - task.at(parted)))


def _counted(told: Sequence[Told], to_come: int) -> dict[str, int]:
    found: dict[str, int] = {}
    for one in told:
        found[one.name] = found.get(one.name, 0) + one.portions
    if to_come:
        found[told[-1].name] += to_come
    return found


def _laid(
    task: Task, aim: Aim, place: int, cut: dict[str, int]
) -> tuple[Layout | None, tuple[str, ...]]:
    """The rest; without its least counts where they can no longer be met."""
    if place >= task.last:
        return None, _missing(task, cut)
    try:
        return lay_out_for(task, aim, place, cut), ()
    except NoLayout:
        pass
    caps = {
        one.name: None if one.most is None else max(one.most - cut.get(one.name, 0), 0)
        for one in task.products
    }
    free = tuple(
        replace(one, least=0, most=caps[one.name]) for one in task.products if caps[one.name] != 0
    )
    if not free:
        return None, _missing(task, cut)
    try:
        layout = lay_out_for(replace(task, products=free), aim, place)
    except NoLayout:
        return None, _missing(task, cut)
    return layout, _missing(task, {n: cut.get(n, 0) + m for n, m in layout.portions.items()})


def _missing(task: Task, cut: dict[str, int]) -> tuple[str, ...]:
    names = {one.name for one in task.products if one.least > cut.get(one.name, 0)}
    return tuple(sorted(names))
