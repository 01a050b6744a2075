"""Where the names of a rail's segments go, so that none is lost and none overlaps.

Pure geometry in pixels. A segment wide enough carries its name inside. The others get a
leader line to a label outside; when those do not fit, a number and a line in a key.
"""

from __future__ import annotations

import tomllib
from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path

_WIDTHS: dict[str, float] = {
    letter: float(width)
    for width, letters in tomllib.loads(
        (Path(__file__).parent / "data" / "letter_widths.toml").read_text(encoding="utf-8")
    )["em"].items()
    for letter in letters
}
_WIDEST_USUAL = 0.75
ROW = 20.0
PHONE = 500.0
"""Frames narrower than this are drawn for a phone."""
GAP = 10.0
SWATCH = 20.0
"""Room for a swatch before an entry of the key."""
MOST_ROWS = 3
MOST_LEADERS = 9
"""More narrow segments than this go straight to numbers and a key."""


@lru_cache(maxsize=4096)
def text_width(text: str, size: float) -> float:
    """Width of `text` in the shop's typeface at `size` pixels, taken bold to be safe."""
    return size * sum(_WIDTHS.get(letter, _WIDEST_USUAL) for letter in text)


def shorten(text: str, size: float, room: float) -> str:
    """`text`, cut with an ellipsis where it is wider than `room`."""
    if text_width(text, size) <= room:
        return text
    while text and text_width(text + "…", size) > room:
        text = text[:-1]
    return text.rstrip() + "…"


@dataclass(frozen=True, slots=True)
class Leader:
    """A label outside the rail: text from `x` to `x + width` on `row`, 0 nearest the rail.

    The line runs from the segment's middle `at` to the label.
    """

    index: int
    at: float
    x: float
    width: float
    row: int
    text: str


@dataclass(frozen=True, slots=True)
class Entry:
    """One entry of a key: a swatch at `x`, then the text, on `line` of the key."""

    index: int
    x: float
    line: int
    text: str


@dataclass(frozen=True, slots=True)
class Lettering:
    """Either leaders or, when they do not fit, numbers with a key. Rows count outward."""

    leaders: tuple[Leader, ...]
    key: tuple[Entry, ...]
    rows: int

    @property
    def key_lines(self) -> int:
        return 1 + max((entry.line for entry in self.key), default=-1)


@dataclass(frozen=True, slots=True)
class Room:
    """Where labels may stand: the width, the size of the letters, lines no label may cover."""

    width: float
    size: float
    posts: tuple[float, ...] = ()
    most_rows: int = MOST_ROWS


@dataclass(frozen=True, slots=True)
class Wanted:
    """A narrow segment: its index on this rail, its middle, its text, its number in a key."""

    index: int
    at: float
    text: str
    number: int


def letter(wanted: Sequence[Wanted], room: Room) -> Lettering:
    """Place outside labels for narrow segments, given from left to right.

    The result covers every wanted segment exactly once.
    """
    if not wanted:
        return Lettering((), (), 0)
    if len(wanted) <= MOST_LEADERS:
        best: list[Leader] | None = None
        for split in range(len(wanted), -1, -1):
            tried = _staircase(wanted, split, room)
            if tried is not None and (best is None or _rows(tried) < _rows(best)):
                best = tried
            if best is not None and _rows(best) == 1:
                break
        if best is not None:
            in_order = sorted(best, key=lambda leader: leader.index)
            return Lettering(tuple(in_order), (), _rows(best))
    return _numbered(wanted, room.width, room.size)


def _rows(leaders: Sequence[Leader]) -> int:
    return 1 + max(leader.row for leader in leaders)


def _staircase(wanted: Sequence[Wanted], split: int, room: Room) -> list[Leader] | None:
    """Labels before `split` stand right of their line, the others left of it; None if no room.

    Taking the first group from right to left and the second from left to right, each label
    only covers lines that are already drawn, so a free row above them always serves.
    """
    placed: list[Leader] = []
    order = [*range(split - 1, -1, -1), *range(split, len(wanted))]
    for i in order:
        index, at = wanted[i].index, wanted[i].at
        text = shorten(wanted[i].text, room.size, room.width)
        wide = text_width(text, room.size)
        x = at if i < split else at - wide
        hidden = any(x - 3 < post < x + wide + 3 for post in room.posts)
        if x < 0 or x + wide > room.width or hidden:
            return None
        row = next((r for r in range(room.most_rows) if _free(placed, at, x, wide, r)), None)
        if row is None:
            return None
        placed.append(Leader(index, at, x, wide, row, text))
    return placed


def _free(placed: Sequence[Leader], at: float, x: float, wide: float, row: int) -> bool:
    for other in placed:
        overlaps = x < other.x + other.width + GAP and other.x < x + wide + GAP
        if other.row == row and overlaps:
            return False
        if other.row < row and other.x - 2 < at < other.x + other.width + 2:
            return False
        if other.row >= row and x - 2 < other.at < x + wide + 2:
            return False
    return True


def _numbered(wanted: Sequence[Wanted], width: float, size: float) -> Lettering:
    """A number above each narrow segment, spread so that none touch, and a key in lines."""
    badge = min(size * 1.5, width / len(wanted))
    xs = [one.at - badge / 2 for one in wanted]
    for i, x in enumerate(xs):  # push right, then push back from the right edge
        xs[i] = max(x, 0.0 if i == 0 else xs[i - 1] + badge)
    limit = width - badge
    for i in range(len(xs) - 1, -1, -1):
        xs[i] = min(xs[i], limit)
        limit = xs[i] - badge
    leaders = tuple(
        Leader(one.index, one.at, x, badge, 0, str(one.number))
        for one, x in zip(wanted, xs, strict=True)
    )
    return Lettering(leaders, _key(wanted, width, size), 1)


def _key(wanted: Sequence[Wanted], width: float, size: float) -> tuple[Entry, ...]:
    """The key's entries, wrapped into lines: at the right edge, or at the left on a phone."""
    lines: list[list[tuple[Wanted, str, float]]] = [[]]
    used = 0.0
    for one in wanted:
        text = shorten(f"{one.number} {one.text}", size, width - SWATCH)
        need = SWATCH + text_width(text, size)
        if lines[-1] and used + 2 * GAP + need > width:
            lines.append([])
            used = 0.0
        used += need + (2 * GAP if lines[-1] else 0.0)
        lines[-1].append((one, text, need))
    entries = []
    for number, line in enumerate(lines):
        long = sum(need for _, _, need in line) + 2 * GAP * (len(line) - 1)
        x = max(width - long, 0.0) if width > PHONE else 0.0
        for one, text, need in line:
            entries.append(Entry(one.index, x, number, text))
            x += need + 2 * GAP
    return tuple(entries)
