"""The two rails: pounds above, money below, ribbons between, the cost as a post.

Pure geometry in pixels, made from the figures of a test; the same coordinates draw the page
and the print. Widths are to scale: the pound rail is as long as the weight paid for, the
dollar rail as long as the money the outputs bring (or the cost, when that is more).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from decimal import Decimal

from cutting.lettering import ROW, Leader, Room, letter, text_width

PAD = 8.0
BAR = 58.0
RIBBON = 116.0
TICK_STEPS = (1, 2, 5)
PHONE = 500.0
"""Frames narrower than this are drawn for a phone."""


@dataclass(frozen=True, slots=True)
class Part:
    """One segment to draw: its name, its size, the size in words, and its look (a pattern)."""

    name: str
    size: Decimal
    text: str
    look: str
    money: Decimal | None = None
    money_text: str = ""
    money_note: str = ""


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
        return _round(self.x + PAD / 2)

    @property
    def text_x(self) -> float:
        return _round(self.x + PAD)

    @property
    def is_solid(self) -> bool:
        """A main pile: light text straight on the tone."""
        return self.look.startswith("portions")

    @property
    def is_plated(self) -> bool:
        """A patterned pile: text stands on a paper plate."""
        return not self.is_solid and self.look != "block"


@dataclass(frozen=True, slots=True)
class Line:
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
class Rail:
    """One bar at height `y` with its lettering."""

    y: float
    bar: float
    boxes: tuple[Box, ...]
    lines: tuple[Line, ...]
    key: tuple[Words, ...]
    length: float
    """Where the outputs end, in pixels."""

    @property
    def name_y(self) -> float:
        return _round(self.y + self.bar / 2 - 6)

    @property
    def value_y(self) -> float:
        return _round(self.y + self.bar / 2 + 14)

    @property
    def plate_y(self) -> float:
        return _round(self.y + 5)

    @property
    def plate_height(self) -> float:
        return _round(self.bar - 10)


@dataclass(frozen=True, slots=True)
class PoundRail:
    """A pound rail alone, as at the bench."""

    width: float
    height: float
    rail: Rail
    ticks: tuple[Words, ...]
    post: float | None
    """Where the weight paid for ends, when the outputs reach past it."""

    @property
    def tick_y(self) -> float:
        return _round(self.rail.y + self.rail.bar)

    @property
    def tick_end(self) -> float:
        return _round(self.rail.y + self.rail.bar + 6)

    @property
    def post_y(self) -> float:
        return _round(self.rail.y - 5)


@dataclass(frozen=True, slots=True)
class Ribbon:
    path: str
    look: str
    name: str


@dataclass(frozen=True, slots=True)
class TwoRails:
    """Both rails. `dollars` is None when prices are missing. `short` is a loss or a profit bar."""

    width: float
    height: float
    pounds: Rail
    dollars: Rail | None
    ribbons: tuple[Ribbon, ...]
    post: float | None
    cost_x: float
    cost_words: tuple[Words, ...]
    cost_y: float
    loss: bool

    @property
    def post_y(self) -> float:
        return _round(self.pounds.y - 5)

    @property
    def post_end(self) -> float:
        return _round(self.pounds.y + self.pounds.bar + 5)

    @property
    def cost_top(self) -> float:
        return _round(self.dollars.y - 14) if self.dollars else 0.0

    @property
    def loss_width(self) -> float:
        """From the end of what the outputs bring to the cost; 0 when there is a profit."""
        if self.dollars is None or not self.loss:
            return 0.0
        return _round(self.cost_x - self.dollars.length)


@dataclass(frozen=True, slots=True)
class Frame:
    """How large to draw: the width in pixels and the size of the lettering."""

    width: float = 880.0
    size: float = 15.0
    bar: float = BAR


WIDE = Frame()
NARROW = Frame(width=350.0, size=14.0, bar=52.0)
BENCH = Frame(width=1240.0)


def _round(value: float) -> float:
    return round(value, 1)


def _boxes(
    sizes: Sequence[tuple[str, float, str, tuple[str, ...]]], scale: float, frame: Frame
) -> list[Box]:
    """Segments laid end to end; each carries its lines when they fit."""
    boxes, x = [], 0.0
    for name, size, look, lines in sizes:
        width = size * scale
        need = max((text_width(line, frame.size) for line in lines), default=0.0)
        inside = need + 2 * PAD <= width
        boxes.append(Box(_round(x), _round(width), look, name, lines, inside, _round(need + PAD)))
        x += width
    return boxes


@dataclass(frozen=True, slots=True)
class _Bar:
    """Where one bar is drawn: its frame, the height to start from, labels above or below."""

    frame: Frame
    y: float
    above: bool
    post: float | None = None

    def lettered(self, boxes: list[Box], texts: Sequence[str]) -> tuple[Rail, float]:
        """The rail with its lettering, and how much height the lettering takes."""
        frame = self.frame
        wanted = [
            (i, box.x + box.width / 2, texts[i]) for i, box in enumerate(boxes) if not box.inside
        ]
        posts = () if self.post is None else (self.post,)
        rows = 3 if frame.width > PHONE else 2
        found = letter(wanted, Room(frame.width, frame.size, posts, rows))
        key_rows = len(found.key)
        taken = (found.rows + key_rows) * ROW + (6 if found.rows else 0)
        y = self.y + taken if self.above else self.y
        lines = tuple(self._leader(mark, y, numbered=bool(found.key)) for mark in found.leaders)
        key = tuple(
            Words(
                0.0,
                _round(self._level(y, found.rows + (key_rows - 1 - i if self.above else i))),
                "   ".join(entries),
                "start",
            )
            for i, entries in enumerate(found.key)
        )
        end = boxes[-1].x + boxes[-1].width if boxes else 0.0
        return Rail(_round(y), frame.bar, tuple(boxes), lines, key, _round(end)), taken

    def _level(self, y: float, row: int) -> float:
        """Baseline of a row of labels; row 0 is nearest the bar."""
        return y - 10 - row * ROW if self.above else y + self.frame.bar + 20 + row * ROW

    def _leader(self, mark: Leader, y: float, *, numbered: bool) -> Line:
        """The line from the segment's edge to its label, straight up or down."""
        size, baseline = self.frame.size, self._level(y, mark.row)
        start = y if self.above else y + self.frame.bar
        middle = mark.x + mark.width / 2
        if numbered:
            knee = start - 3 if self.above else start + 3
            near = baseline + 3 if self.above else baseline - size + 1
            points = (
                f"{_round(mark.at)},{_round(start)} {_round(mark.at)},{_round(knee)} "
                f"{_round(middle)},{_round(near)}"
            )
            return Line(points, _round(middle), _round(baseline), mark.text, "middle")
        far = baseline - size + 3 if self.above else baseline + 3
        points = f"{_round(mark.at)},{_round(start)} {_round(mark.at)},{_round(far)}"
        right = mark.x >= mark.at - 0.05
        x = mark.x + 4 if right else mark.x + mark.width - 4
        return Line(points, _round(x), _round(baseline), mark.text, "start" if right else "end")


def pound_rail(parts: Sequence[Part], paid: Decimal, end: str, frame: Frame = BENCH) -> PoundRail:
    """The pound rail alone with a scale of ticks, and `end` written at the end of it.

    Parts beyond `paid` are drawn past a post.
    """
    total = sum((part.size for part in parts), Decimal(0))
    longest = float(max(paid, total))
    scale = frame.width / longest
    boxes = _boxes([(p.name, float(p.size), p.look, (p.name, p.text)) for p in parts], scale, frame)
    over = total > paid
    post = _round(float(paid) * scale) if over else None
    rail, taken = _Bar(frame, 0.0, above=True).lettered(
        boxes, [f"{p.name} {p.text}" for p in parts]
    )
    ticks = _ticks(float(paid), end, scale, frame, rail.y + frame.bar)
    return PoundRail(frame.width, _round(taken + frame.bar + 28), rail, ticks, post)


def plain_rail(parts: Sequence[Part], paid: Decimal, width: float = 200.0) -> tuple[Box, ...]:
    """A small rail for lists: segments to scale, no lettering (the row beside it says it)."""
    total = sum((part.size for part in parts), Decimal(0))
    frame = Frame(width=width)
    sizes = [(part.name, float(part.size), part.look, (part.name,)) for part in parts]
    return tuple(_boxes(sizes, width / float(max(paid, total)), frame))


def _ticks(paid: float, end: str, scale: float, frame: Frame, y: float) -> tuple[Words, ...]:
    """A tick at round weights, and the weight paid for in words at the end."""
    clear = paid * scale - text_width(end, frame.size - 2) - 24
    step, power = 1.0, 0
    while True:
        step = TICK_STEPS[power % 3] * 10.0 ** (power // 3)
        if step * scale >= 60:
            break
        power += 1
    marks, at = [], step
    while at * scale < clear:
        marks.append(Words(_round(at * scale), _round(y + 22), f"{at:g}", "middle"))
        at += step
    return (*marks, Words(_round(min(paid * scale, frame.width)), _round(y + 22), end, "end"))


def two_rails(
    parts: Sequence[Part], paid: Decimal, cost: Decimal, words: tuple[str, str],
    frame: Frame = WIDE,
) -> TwoRails:  # fmt: skip
    """Pounds over money. `words` are what to write at the post: the cost, and the profit.

    Parts without money have no ribbon. When a part that is sold has no price the caller
    leaves every `money` None and the dollar rail stays away.
    """
    total = sum((part.size for part in parts), Decimal(0))
    scale = frame.width / float(max(paid, total))
    boxes = _boxes([(p.name, float(p.size), p.look, (p.name, p.text)) for p in parts], scale, frame)
    pounds, _ = _Bar(frame, 0.0, above=True).lettered(boxes, [f"{p.name} {p.text}" for p in parts])
    bottom = pounds.y + frame.bar
    post = _round(float(paid) * scale) if total > paid else None
    sold = [(box, part) for box, part in zip(boxes, parts, strict=True) if part.money is not None]
    if not sold:
        return TwoRails(
            frame.width, _round(bottom + 2), pounds, None, (), post, 0.0, (), 0.0, False
        )
    retail = sum((part.money for _, part in sold if part.money is not None), Decimal(0))
    money_scale = frame.width / float(max(retail, cost, Decimal("0.01")))
    cost_x = _round(max(float(cost), 0.0) * money_scale)
    top = bottom + (RIBBON if frame.width > PHONE else RIBBON * 0.75)
    money_boxes = _boxes(
        [(p.name, float(p.money or 0), p.look, (p.money_text, p.money_note)) for _, p in sold],
        money_scale, frame,
    )  # fmt: skip
    dollars, taken = _Bar(frame, top, above=False, post=cost_x).lettered(
        money_boxes, [f"{p.name} {p.money_text}" for _, p in sold]
    )  # fmt: skip
    ribbons = tuple(
        Ribbon(_ribbon_path(box, low, bottom, top), part.look, part.name)
        for (box, part), low in zip(sold, money_boxes, strict=True)
    )
    words_y = top + frame.bar + taken + ROW
    cost_words = _cost_words(words, cost_x, words_y, frame)
    height = cost_words[-1].y + 8
    return TwoRails(
        frame.width, _round(height), pounds, dollars, ribbons, post, cost_x, cost_words,
        _round(words_y - frame.size), cost > retail,
    )  # fmt: skip


def _ribbon_path(high: Box, low: Box, y0: float, y1: float) -> str:
    """A band from a pound segment down to its money segment, with level ends."""
    mid = _round((y0 + y1) / 2)
    a, b = high.x, _round(high.x + high.width)
    c, d = low.x, _round(low.x + low.width)
    y0, y1 = _round(y0), _round(y1)
    return f"M{a},{y0}C{a},{mid} {c},{mid} {c},{y1}L{d},{y1}C{d},{mid} {b},{mid} {b},{y0}Z"


def _cost_words(words: tuple[str, str], x: float, y: float, frame: Frame) -> tuple[Words, ...]:
    """The cost left of the post and the profit right of it, on one line when both fit."""
    left, right = (text_width(text, frame.size) for text in words)
    y = _round(y)
    if left + PAD <= x and x + PAD + right <= frame.width:
        return (
            Words(_round(x - PAD), y, words[0], "end"),
            Words(_round(x + PAD), y, words[1], "start"),
        )
    lines = []
    for i, (text, wide) in enumerate(zip(words, (left, right), strict=True)):
        start = min(max(x - wide / 2, 0.0), max(frame.width - wide, 0.0))
        lines.append(Words(_round(start), _round(y + i * ROW), text, "start"))
    return tuple(lines)
