"""One bar of a rail: segments laid end to end, with their lettering. Pure geometry in pixels."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from decimal import Decimal

from drawings.lettering import PHONE, ROW, SWATCH, Leader, Room, Wanted, letter, text_width

PAD = 8.0
BAR = 58.0


def rounded(value: float) -> float:
    return round(value, 1)


@dataclass(frozen=True, slots=True)
class BarPart:
    """One segment to draw: its name, its size, the size in words, and its look (a pattern)."""

    name: str
    size: Decimal
    text: str
    look: str
    money: Decimal | None = None
    money_text: str = ""
    money_note: str = ""
    short: str = ""
    """A shorter `text` for a segment that is only just too narrow."""

    @property
    def lines(self) -> tuple[tuple[str, ...], ...]:
        """What may stand inside, the fullest first."""
        full = (self.name, self.text)
        return (full, (self.name, self.short)) if self.short else (full,)


@dataclass(frozen=True, slots=True)
class Box:
    """A drawn segment. `inside` tells whether it carries its own name."""

    x: float
    width: float
    look: str
    name: str
    lines: tuple[str, ...]
    inside: bool
    plate: float
    """Width of the paper plate under the text."""

    @property
    def plate_x(self) -> float:
        return rounded(self.x + PAD / 2)

    @property
    def text_x(self) -> float:
        return rounded(self.x + PAD)

    @property
    def is_solid(self) -> bool:
        """A main pile: light text straight on the tone."""
        return self.look.startswith("portions")

    @property
    def is_plated(self) -> bool:
        """A patterned pile: text stands on a paper plate."""
        return not self.is_solid and self.look != "block"


@dataclass(frozen=True, slots=True)
class LeaderLine:
    """A leader line and its label; coordinates are final."""

    points: str
    x: float
    y: float
    text: str
    anchor: str = "start"


@dataclass(frozen=True, slots=True)
class Words:
    x: float
    y: float
    text: str
    anchor: str


@dataclass(frozen=True, slots=True)
class KeyEntry:
    """An entry of the key: a swatch with its top left corner, and text on its baseline."""

    x: float
    y: float
    text_x: float
    swatch_y: float
    text: str
    look: str


@dataclass(frozen=True, slots=True)
class Rail:
    """One bar at height `y` with its lettering."""

    y: float
    bar: float
    boxes: tuple[Box, ...]
    lines: tuple[LeaderLine, ...]
    key: tuple[KeyEntry, ...]
    length: float
    """Where the outputs end, in pixels."""

    @property
    def name_y(self) -> float:
        return rounded(self.y + self.bar / 2 - 6)

    @property
    def value_y(self) -> float:
        return rounded(self.y + self.bar / 2 + 14)

    @property
    def plate_y(self) -> float:
        return rounded(self.y + 5)

    @property
    def plate_height(self) -> float:
        return rounded(self.bar - 10)


@dataclass(frozen=True, slots=True)
class Frame:
    """How large to draw: the width in pixels and the size of the lettering."""

    width: float = 880.0
    size: float = 15.0
    bar: float = BAR
    rows: int = 0
    """Rows of lettering whose room is kept, so that the bar stays where it is as segments come."""


Sized = tuple[str, float, str, tuple[tuple[str, ...], ...]]
"""A segment to lay out: name, size, look, and what may stand inside, the fullest first."""


def lay_out(sizes: Sequence[Sized], scale: float, frame: Frame) -> list[Box]:
    """Segments laid end to end; each carries the fullest lines that fit, or none."""
    boxes, x = [], 0.0
    for name, size, look, choices in sizes:
        width = size * scale
        lines, inside, need = choices[0], False, 0.0
        for choice in choices:
            need = max(text_width(line, frame.size) for line in choice)
            if need + 2 * PAD <= width:
                lines, inside = choice, True
                break
        plate = rounded(need + PAD)
        boxes.append(Box(rounded(x), rounded(width), look, name, lines, inside, plate))
        x += width
    return boxes


@dataclass(frozen=True, slots=True)
class Bar:
    """Where one bar is drawn: its frame, the height to start from, labels above or below."""

    frame: Frame
    y: float
    above: bool
    post: float | None = None

    def lettered(self, boxes: list[Box], texts: Sequence[tuple[int, str]]) -> tuple[Rail, float]:
        """The rail with its lettering, and how much height the lettering takes."""
        frame = self.frame
        wanted = [
            Wanted(i, box.x + box.width / 2, texts[i][1], texts[i][0])
            for i, box in enumerate(boxes)
            if not box.inside
        ]
        posts = () if self.post is None else (self.post,)
        most_rows = 3 if frame.width > PHONE else 2
        found = letter(wanted, Room(frame.width, frame.size, posts, most_rows))
        key_rows = found.key_lines
        rows = max(found.rows + key_rows, frame.rows)
        taken = rows * ROW + (6 if rows else 0)
        y = self.y + taken if self.above else self.y
        lines = tuple(self._leader(mark, y, numbered=bool(found.key)) for mark in found.leaders)
        key = []
        for entry in found.key:
            line = key_rows - 1 - entry.line if self.above else entry.line
            base = self._level(y, found.rows + line)
            key.append(
                KeyEntry(
                    rounded(entry.x),
                    rounded(base),
                    rounded(entry.x + SWATCH),
                    rounded(base - 12),
                    entry.text,
                    boxes[entry.index].look,
                )
            )
        end = boxes[-1].x + boxes[-1].width if boxes else 0.0
        return Rail(rounded(y), frame.bar, tuple(boxes), lines, tuple(key), rounded(end)), taken

    def _level(self, y: float, row: int) -> float:
        """Baseline of a row of labels; row 0 is nearest the bar."""
        return y - 10 - row * ROW if self.above else y + self.frame.bar + 20 + row * ROW

    def _leader(self, mark: Leader, y: float, *, numbered: bool) -> LeaderLine:
        """The line from the segment's edge to its label, straight up or down."""
        size, baseline = self.frame.size, self._level(y, mark.row)
        start = y if self.above else y + self.frame.bar
        middle = mark.x + mark.width / 2
        if numbered:
            knee = start - 3 if self.above else start + 3
            near = baseline + 3 if self.above else baseline - size + 1
            points = (
                f"{rounded(mark.at)},{rounded(start)} {rounded(mark.at)},{rounded(knee)} "
                f"{rounded(middle)},{rounded(near)}"
            )
            return LeaderLine(points, rounded(middle), rounded(baseline), mark.text, "middle")
        far = baseline - size + 3 if self.above else baseline + 3
        points = f"{rounded(mark.at)},{rounded(start)} {rounded(mark.at)},{rounded(far)}"
        right = mark.x >= mark.at - 0.05
        x = mark.x + 4 if right else mark.x + mark.width - 4
        return LeaderLine(
            points, rounded(x), rounded(baseline), mark.text, "start" if right else "end"
        )
