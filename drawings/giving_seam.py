"""The seam between what one product gives and another takes, drawn so that it can be moved.

The picture shows where the seam lies; the figures come from `give_take`. Lengths along the way of
the seam are true to scale within one picture, the rest of the outline is not.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from decimal import Decimal
from enum import StrEnum

from cutting.errors import BadValue

WIDTH, HEIGHT = 420.0, 210.0
LEFT, RIGHT, TOP, BOTTOM = 14.0, 406.0, 34.0, 176.0
BONE = 15.0
"""Half the height of a rib seen from its end."""


class Way(StrEnum):
    """Which way the seam moves: up from the bones, or along from the left end."""

    UP = "up"
    ALONG = "along"


@dataclass(frozen=True, slots=True)
class Stop:
    """A place the seam may have: the amount, and where it lies in the picture."""

    amount: Decimal
    at: float


@dataclass(frozen=True, slots=True)
class SeamPicture:
    """`meat` is the whole body, `bones` lie on it; what is taken is the meat within `taken`
    (x, y, width, height); the seam runs through `at` and stands at one of `stops` or between."""

    way: Way
    meat: str
    bones: tuple[str, ...]
    stops: tuple[Stop, ...]
    at: float
    is_beyond: bool

    @property
    def taken(self) -> tuple[float, float, float, float]:
        if self.way is Way.UP:
            return 0.0, self.at, WIDTH, round(HEIGHT - self.at, 1)
        return 0.0, 0.0, self.at, HEIGHT

    @property
    def seam(self) -> tuple[float, float, float, float]:
        """From x1, y1 to x2, y2, a little over the meat on both sides."""
        if self.way is Way.UP:
            return LEFT - 8, self.at, RIGHT + 8, self.at
        return self.at, TOP - 10, self.at, BOTTOM + 10


def seam_picture(kind: str, amount: Decimal, *, most: Decimal, step: Decimal) -> SeamPicture:
    """The picture of a link of `kind` (layer, pieces, weight) with its seam at `amount`.

    Stops go from 0 to `most` by `step`. An amount over `most` is drawn at `most` and said so.
    Raises BadValue for a kind, an amount below 0, a step or a most that is not above 0.
    """
    if kind not in _BODIES:
        raise BadValue("kind", kind, f"one of {', '.join(_BODIES)}")
    if not 0 < step <= most:
        raise BadValue("step", str(step), "above 0, at most the most is right")
    if kind == "pieces" and most < 1:
        raise BadValue("most", str(most), "1 piece or more is right")
    if amount < 0:
        raise BadValue("amount", str(amount), "0 or more is right")
    way, body, (start, end) = _BODIES[kind]
    meat, bones = body(int(most))

    def place(value: Decimal) -> float:
        return round(start + (end - start) * float(min(value, most) / most), 1)

    steps = int(most / step)
    stops = tuple(Stop(step * i, place(step * i)) for i in range(steps + 1))
    return SeamPicture(way, meat, bones, stops, place(amount), amount > most)


def _layer(_: int) -> tuple[str, tuple[str, ...]]:
    """Ribs from their ends, the meat over them."""
    count, low = 11, BOTTOM - BONE
    apart = (RIGHT - LEFT) / count
    bones = tuple(
        _ellipse(LEFT + apart * (i + 0.5), low, apart * 0.30, BONE * 0.72) for i in range(count)
    )
    middle, side = (LEFT + RIGHT) / 2, TOP + 12
    meat = f"M{LEFT} {side}Q{middle:.1f} {TOP - 12} {RIGHT} {side}V{BOTTOM}H{LEFT}Z"
    return meat, bones


def _ribs(count: int) -> tuple[str, tuple[str, ...]]:
    """A rack from above, its ribs side by side."""
    apart = (RIGHT - LEFT) / count
    bones = tuple(
        _slat(
            LEFT + apart * (i + 0.34),
            TOP + 12 + abs(i - count / 2) * 1.5,
            apart * 0.32,
            BOTTOM - 10,
        )
        for i in range(count)
    )
    middle = (LEFT + RIGHT) / 2
    meat = (
        f"M{LEFT} {TOP + 8}Q{middle:.1f} {TOP - 8} {RIGHT} {TOP + 8}"
        f"V{BOTTOM - 4}Q{middle:.1f} {BOTTOM + 8} {LEFT} {BOTTOM - 4}Z"
    )
    return meat, bones


def _cap(_: int) -> tuple[str, tuple[str, ...]]:
    """The cap from its outer side, tapering to the loin end."""
    high = (TOP + BOTTOM) / 2
    meat = (
        f"M{LEFT} {high:.1f}C{LEFT} {TOP} 110 {TOP} 190 {TOP + 6}S{RIGHT - 20} {TOP + 34} {RIGHT}"
        f" {high + 8:.1f}S330 {BOTTOM - 6} 220 {BOTTOM - 2}S{LEFT} {BOTTOM} {LEFT} {high:.1f}Z"
    )
    return meat, ()


def _ellipse(x: float, y: float, rx: float, ry: float) -> str:
    return (
        f"M{x - rx:.1f} {y:.1f}a{rx:.1f} {ry:.1f} 0 1 0 {2 * rx:.1f} 0"
        f"a{rx:.1f} {ry:.1f} 0 1 0 {-2 * rx:.1f} 0Z"
    )


def _slat(x: float, top: float, width: float, bottom: float) -> str:
    r = width / 2
    return (
        f"M{x:.1f} {top + r:.1f}a{r:.1f} {r:.1f} 0 0 1 {width:.1f} 0V{bottom - r:.1f}"
        f"a{r:.1f} {r:.1f} 0 0 1 {-width:.1f} 0Z"
    )


_Body = Callable[[int], tuple[str, tuple[str, ...]]]
_BODIES: dict[str, tuple[Way, _Body, tuple[float, float]]] = {
    "layer": (Way.UP, _layer, (BOTTOM - 2 * BONE, TOP + 8)),
    "pieces": (Way.ALONG, _ribs, (LEFT, RIGHT)),
    "weight": (Way.ALONG, _cap, (LEFT, RIGHT)),
}


def bars(values: Sequence[Decimal], longest: float) -> tuple[float, ...]:
    """Lengths of some sums beside each other, the largest as `longest`; nothing is 0."""
    most = max(values)
    return tuple(round(float(each / most) * longest, 1) if most else 0.0 for each in values)
