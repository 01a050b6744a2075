"""The day as lanes of hands over bars of what the case gets: coordinates only."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from decimal import Decimal

from cutting.planning.lanes import Placed

WIDTH, LEFT = 860.0, 84.0
TOP, LANE, BAR = 34.0, 112.0, 30.0
HALF_HOUR = 30
CASE_WIDTH, MOST_AT = 560.0, 0.8
SMALLEST_NAME, SMALLEST_MINUTES, LETTER = 64.0, 46.0, 8.4
"""A job narrower than this is named by its number."""


@dataclass(frozen=True)
class Stretch:
    """A part of a job's bar: what pile it is, by its look."""

    x: float
    width: float
    look: str


@dataclass(frozen=True)
class JobBox:
    key: str
    x: float
    width: float
    y: float
    minutes: str
    stretches: tuple[Stretch, ...]
    lost: float | None
    """Where the dots of what comes before it begin: a washed board, the saw's setting up, meat that is
    not firm yet; None where nothing does."""
    before: str

    @property
    def is_wide(self) -> bool:
        return self.width >= SMALLEST_NAME

    @property
    def has_minutes(self) -> bool:
        """Whether its minutes fit under it."""
        return self.width >= SMALLEST_MINUTES

    @property
    def letters(self) -> int:
        """How many of a name fit over it."""
        return int(self.width / LETTER)

    @property
    def y_name(self) -> float:
        return round(self.y - 26, 1)

    @property
    def y_way(self) -> float:
        return round(self.y - 9, 1)

    @property
    def x_before(self) -> float:
        """Where the words of what comes before it end."""
        return round(self.x - 6, 1)

    @property
    def y_hand(self) -> float:
        return round(self.y + BAR / 2 + 5, 1)

    @property
    def y_minutes(self) -> float:
        return round(self.y + BAR + 19, 1)


@dataclass(frozen=True)
class LanesView:
    width: float
    height: float
    hours: tuple[tuple[float, str], ...]
    rows: tuple[tuple[JobBox, ...], ...]
    bar: float = BAR
    top: float = TOP

    @property
    def bottom(self) -> float:
        return self.height - 6


def lanes_view(
    lanes: Sequence[Sequence[Placed]],
    shares: Mapping[str, Sequence[tuple[str, Decimal]]],
    start: int,
) -> LanesView:
    """`shares`: for each job's key the looks of its piles with their shares; `start`: minutes
    after midnight."""
    longest = max((one.end for lane in lanes for one in lane), default=Decimal(HALF_HOUR))
    steps = max(int(longest // HALF_HOUR) + 1, 1)
    scale = (WIDTH - LEFT - 26) / (steps * HALF_HOUR)
    rows = []
    for number, lane in enumerate(lanes):
        y = TOP + 40 + number * LANE
        ends = (Decimal(0), *(one.end for one in lane))
        rows.append(
            tuple(
                _box(one, shares.get(one.job.key, ()), scale, y, end)
                for one, end in zip(lane, ends, strict=False)
            )
        )
    hours = tuple(
        (round(LEFT + i * HALF_HOUR * scale, 1), _clock(start + i * HALF_HOUR))
        for i in range(steps + 1)
    )
    return LanesView(WIDTH, TOP + len(lanes) * LANE + 6, hours, tuple(rows))


def _box(
    placed: Placed, shares: Sequence[tuple[str, Decimal]], scale: float, y: float, end: Decimal
) -> JobBox:
    """`end`: when the job before it is done."""
    x, width = LEFT + float(placed.start) * scale, float(placed.end - placed.start) * scale
    total = float(sum((share for _, share in shares), Decimal(0))) or 1.0
    stretches, at = [], x
    for look, share in shares:
        wide = width * float(share) / total
        stretches.append(Stretch(round(at, 1), round(wide, 1), look))
        at += wide
    return JobBox(
        placed.job.key,
        round(x, 1),
        round(width, 1),
        y,
        f"{placed.end - placed.start:.0f} min",
        tuple(stretches),
        round(LEFT + float(end) * scale, 1) if placed.before else None,
        ", ".join(placed.before),
    )


def _clock(minutes: int) -> str:
    return f"{minutes // 60 % 24}:{minutes % 60:02d}"


@dataclass(frozen=True)
class CaseBar:
    """One product: at hand, from this plan, least and most, all from x 0. None for no limit."""

    have: float
    made: float
    least: float | None
    most: float | None

    @property
    def words_at(self) -> float:
        """Beyond all that is drawn on the left: where words begin."""
        return round(max(self.have + self.made, self.least or 0.0) + 12, 1)


def case_bar(have: Decimal, made: Decimal, least: Decimal, most: Decimal | None) -> CaseBar:
    """Each product by its own scale: its most, or all there is, at the same place."""
    reach = float(max(most or Decimal(0), have + made, least)) or 1.0
    scale = CASE_WIDTH * MOST_AT / reach

    def x(value: Decimal) -> float:
        return round(min(float(value) * scale, CASE_WIDTH), 1)

    return CaseBar(x(have), x(made), x(least) if least else None, None if most is None else x(most))
