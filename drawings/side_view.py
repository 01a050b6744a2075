"""The side of a piece to scale with its cuts, a tape below, each slice as a dot against its band.

Coordinates only: the same ones draw the page and the printed strip.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from decimal import Decimal

from cutting.layout.marks import inch_words, mm_words
from cutting.layout.profile import MM, Profile
from cutting.layout.task import Layout
from cutting.layout.ways import is_right

Across = Callable[[float], float]
"""Millimetres along the piece to x."""
WIDTH, LEFT, TOP = 860.0, 24.0, 64.0
MOST_HIGH = 190.0
LABEL_ROWS, LABELS_APART = 2, 46.0
"""Thicknesses stand in turn in two rows; one that would run into the last of its row is left out."""
GRIP, NARROWEST = 28.0, 30.0
DOTS = 46.0
"""Half the height of the strip of dots: from the aim to twice its band."""


@dataclass(frozen=True)
class CutLine:
    """A mark: x, the upper and lower end of the line, its place on the grid, its distance."""

    x: float
    top: float
    bottom: float
    place: int
    inches: str
    mm: str

    @property
    def grip(self) -> float:
        """Where a finger may take hold, wider than the line."""
        return self.x - GRIP / 2

    @property
    def grip_top(self) -> float:
        return self.bottom - 4


@dataclass(frozen=True)
class SliceBox:
    """One part of the row. `y_label` staggers the labels; `dot` is None for a gap."""

    x: float
    width: float
    centre: float
    product: int | None
    kind: int
    """The number of its name among the products' names."""
    name: str
    thickness: str
    weight: str
    y_label: float
    dot: float | None
    is_right: bool
    is_labelled: bool = True
    is_next: bool = False
    """The first slice there is to cut."""

    @property
    def is_wide(self) -> bool:
        """Wide enough for its weight to stand below it."""
        return self.width >= NARROWEST

    @property
    def y_dot(self) -> float | None:
        """The dot in a strip of its own, the aim in its middle."""
        return None if self.dot is None else round(DOTS - self.dot * DOTS / 2, 2)


@dataclass(frozen=True)
class Tick:
    x: float
    is_long: bool
    text: str


@dataclass(frozen=True)
class SideView:
    """`outline` are the points of the piece's side; `scale` is pixels a millimetre."""

    width: float
    height: float
    outline: str
    scale: float
    left: float
    middle: float
    tape: float
    cuts: tuple[CutLine, ...]
    slices: tuple[SliceBox, ...]
    ticks: tuple[Tick, ...]
    zones: tuple[tuple[float, float], ...] = ()
    """x and width of each stretch that is to be avoided."""
    legend: tuple[tuple[int, str], ...] = ()
    """The number and the name of each product that is cut."""
    right: float = 0.0
    """Where the piece ends, and as much again as before its start."""
    done: float = 0.0
    """The width of what is cut already, from the near end."""

    @property
    def small_height(self) -> float:
        """From the top of the piece to its lower edge, without labels and tape."""
        return round(self.tape - TOP, 1)

    @property
    def tape_end(self) -> float:
        return self.tape + 14

    @property
    def tape_text(self) -> float:
        return self.tape + 32


def side_view(layout: Layout, *, is_metric: bool, most_high: float = MOST_HIGH) -> SideView:
    """The layout as coordinates, as wide as the page allows, heights at the same scale. What lies
    before its first part is cut already."""
    profile, task = layout.task.profile, layout.task
    length = float(profile.length)
    scale = (WIDTH - 2 * LEFT) / length
    highest = max(float(_high(profile, one.at)) for one in profile.stations)
    scale = min(scale, most_high / highest)
    middle = TOP + highest * scale / 2

    def x(mm: float) -> float:
        return round(LEFT + mm * scale, 2)

    def half(mm: Decimal) -> float:
        return float(_high(profile, mm)) * scale / 2

    tape = TOP + highest * scale + 34
    cuts = []
    for place in layout.marks:
        at = task.at(place)
        edge = half(at) + 14
        cuts.append(
            CutLine(
                x(float(at)),
                round(middle - edge, 2),
                round(middle + edge, 2),
                place,
                inch_words(at),
                mm_words(at),
            )
        )
    return SideView(
        width=WIDTH,
        height=round(tape + 40, 1),
        outline=_outline(profile, x, half, middle),
        scale=round(scale, 6),
        left=LEFT,
        middle=round(middle, 2),
        tape=round(tape, 2),
        cuts=tuple(cuts),
        slices=_slices(layout, x, is_metric=is_metric),
        ticks=_ticks(length, x, is_metric=is_metric),
        zones=tuple(
            (x(float(zone.start)), round(float(zone.end - zone.start) * scale, 2))
            for zone in task.zones
        ),
        legend=_legend(layout),
        right=round(x(length) + LEFT, 2),
        done=x(float(task.at(layout.parts[0].start))) - LEFT if layout.parts else 0.0,
    )


def _legend(layout: Layout) -> tuple[tuple[int, str], ...]:
    names = list(layout.portions)
    cut = {layout.task.products[part.product or 0].name for part in layout.slices}
    return tuple((names.index(name), name) for name in names if name in cut)


def _high(profile: Profile, at: Decimal) -> Decimal:
    return profile.size_at(at)[1]


def _outline(profile: Profile, x: Across, half: Callable[[Decimal], float], middle: float) -> str:
    points = [one.at for one in profile.stations]
    upper = [f"{x(float(at))},{middle - half(at):.2f}" for at in points]
    lower = [f"{x(float(at))},{middle + half(at):.2f}" for at in reversed(points)]
    return " ".join((*upper, *lower))


def _slices(layout: Layout, x: Across, *, is_metric: bool) -> tuple[SliceBox, ...]:
    task = layout.task
    found: list[SliceBox] = []
    names = list(layout.portions)
    labelled = [-LABELS_APART] * LABEL_ROWS
    for number, part in enumerate(layout.parts):
        start, end = task.at(part.start), task.at(part.end)
        left, right = x(float(start)), x(float(end))
        thick = end - start
        is_sold = part.product is not None
        kept = task.products[part.product].kept if part.product is not None else 1
        weight = float(part.weight * kept)
        row, centre = number % LABEL_ROWS, round((left + right) / 2, 2)
        is_labelled = centre - labelled[row] >= LABELS_APART
        if is_labelled:
            labelled[row] = centre
        found.append(
            SliceBox(
                x=left,
                width=round(right - left, 2),
                centre=centre,
                product=part.product,
                kind=names.index(task.products[part.product].name)
                if part.product is not None
                else -1,
                name=task.products[part.product].name if part.product is not None else "",
                thickness=mm_words(thick) if is_metric else inch_words(thick),
                weight=_short(weight, task.unit.value),
                y_label=TOP - 22 - row * 20,
                is_labelled=is_labelled,
                dot=_dot(layout, number) if is_sold else None,
                is_right=is_right(task, part),
                is_next=is_sold and not any(one.product is not None for one in found),
            )
        )
    return tuple(found)


def _short(weight: float, unit: str) -> str:
    """Ounces to a tenth, grams whole: what a portion is said in."""
    if unit in ("lb", "oz"):
        return f"{weight * (16 if unit == 'lb' else 1):.1f}"
    return f"{weight * (1000 if unit == 'kg' else 1):.0f}"


def _dot(layout: Layout, number: int) -> float:
    """How far from the aim a slice lies, −1 to 1 at the ends of its band, at most 2."""
    part, task = layout.parts[number], layout.task
    one = task.products[part.product or 0]
    if one.lightest is None or one.heaviest is None:
        return 0.0
    low, high = float(task.in_unit(one.lightest)), float(task.in_unit(one.heaviest))
    span = max((high - low) / 2, 1e-9)
    return round(min(max((float(part.weight * one.kept) - (low + high) / 2) / span, -2.0), 2.0), 4)


def _ticks(length: float, x: Across, *, is_metric: bool) -> tuple[Tick, ...]:
    """A tape: inches with quarters, or centimetres with halves."""
    unit, parts = (10.0, 2) if is_metric else (float(MM["in"]), 4)
    many = int(length / unit * parts) + 1
    return tuple(
        Tick(
            x(i * unit / parts),
            i % parts == 0,
            str(i // parts) if i % parts == 0 else "",
        )
        for i in range(many)
    )
