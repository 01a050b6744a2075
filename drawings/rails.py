"""The two rails: pounds above, money below, ribbons between, the cost as a post.

Pure geometry in pixels, made from the figures of a test; the same coordinates draw the page
and the print. Widths are to scale: the pound rail is as long as the weight paid for, the
dollar rail as long as the money the outputs bring (or the cost, when that is more).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from decimal import Decimal

from drawings.bar import PAD, Bar, BarPart, Box, Frame, Rail, Words, lay_out, rounded
from drawings.lettering import PHONE, ROW, text_width

RIBBON = 116.0
TICK_STEPS = (1, 2, 5)
TICK_APART = 72.0
POST_LARGER = 1.5
"""The words at the post are set a little larger than the rest."""


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
        return rounded(self.rail.y + self.rail.bar)

    @property
    def tick_end(self) -> float:
        return rounded(self.rail.y + self.rail.bar + 6)

    @property
    def post_y(self) -> float:
        return rounded(self.rail.y - 5)


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
        return rounded(self.pounds.y - 5)

    @property
    def post_end(self) -> float:
        return rounded(self.pounds.y + self.pounds.bar + 5)

    @property
    def cost_top(self) -> float:
        return rounded(self.dollars.y - 14) if self.dollars else 0.0

    @property
    def loss_width(self) -> float:
        """From the end of what the outputs bring to the cost; 0 when there is a profit."""
        if self.dollars is None or not self.loss:
            return 0.0
        return rounded(self.cost_x - self.dollars.length)


WIDE = Frame()
NARROW = Frame(width=350.0, size=14.0, bar=52.0)
BENCH = Frame(width=1240.0)


def pound_rail(
    parts: Sequence[BarPart], paid: Decimal, end: str, frame: Frame = BENCH
) -> PoundRail:
    """The pound rail alone with a scale of ticks, and `end` written at the end of it.

    Parts beyond `paid` are drawn past a post.
    """
    rail, taken, post = _pounds(parts, paid, frame)
    scale = frame.width / _longest(parts, paid)
    ticks = _ticks(float(paid), end, scale, frame, rail.y + frame.bar)
    return PoundRail(frame.width, rounded(taken + frame.bar + 28), rail, ticks, post)


def _longest(parts: Sequence[BarPart], paid: Decimal) -> float:
    """What the whole width stands for: the weight paid for, or more when more came off."""
    return float(max(paid, sum((part.size for part in parts), Decimal(0))))


def _pounds(
    parts: Sequence[BarPart], paid: Decimal, frame: Frame
) -> tuple[Rail, float, float | None]:
    """The pound rail, the height of its lettering, and the post when it reaches past `paid`."""
    longest = _longest(parts, paid)
    scale = frame.width / longest
    boxes = lay_out([(p.name, float(p.size), p.look, p.lines) for p in parts], scale, frame)
    rail, taken = Bar(frame, 0.0, above=True).lettered(boxes, _named(parts))
    post = rounded(float(paid) * scale) if longest > float(paid) else None
    return rail, taken, post


def _named(parts: Sequence[BarPart]) -> list[tuple[int, str]]:
    """Each part's number on the rail and its text outside the bar."""
    return [(i, f"{part.name} {part.short or part.text}") for i, part in enumerate(parts, start=1)]


def plain_rail(parts: Sequence[BarPart], paid: Decimal, width: float = 200.0) -> tuple[Box, ...]:
    """A small rail for lists: segments to scale, no lettering (the row beside it says it)."""
    sizes = [(part.name, float(part.size), part.look, ((part.name,),)) for part in parts]
    return tuple(lay_out(sizes, width / _longest(parts, paid), Frame(width=width)))


def _ticks(paid: float, end: str, scale: float, frame: Frame, y: float) -> tuple[Words, ...]:
    """A tick at round weights, and the weight paid for in words at the end."""
    clear = paid * scale - text_width(end, frame.size - 2) - 24
    step, power = 1.0, 0
    while True:
        step = TICK_STEPS[power % 3] * 10.0 ** (power // 3)
        if step * scale >= TICK_APART:
            break
        power += 1
    marks, at = [], step
    while at * scale < clear:
        marks.append(Words(rounded(at * scale), rounded(y + 22), f"{at:g}", "middle"))
        at += step
    return (*marks, Words(rounded(min(paid * scale, frame.width)), rounded(y + 22), end, "end"))


def two_rails(
    parts: Sequence[BarPart],
    paid: Decimal,
    cost: Decimal,
    words: tuple[str, str],
    frame: Frame = WIDE,
) -> TwoRails:
    """Pounds over money. `words` are what to write at the post: the cost, and the profit.

    Parts without money have no ribbon. When a part that is sold has no price the caller
    leaves every `money` None and the dollar rail stays away.
    """
    pounds, _, post = _pounds(parts, paid, frame)
    bottom = pounds.y + frame.bar
    sold = [
        (box, part) for box, part in zip(pounds.boxes, parts, strict=True) if part.money is not None
    ]
    if not sold:
        return TwoRails(
            frame.width, rounded(bottom + 2), pounds, None, (), post, 0.0, (), 0.0, False
        )
    retail = sum((part.money for _, part in sold if part.money is not None), Decimal(0))
    money_scale = frame.width / float(max(retail, cost, Decimal("0.01")))
    cost_x = rounded(max(float(cost), 0.0) * money_scale)
    top = bottom + (RIBBON if frame.width > PHONE else RIBBON * 0.75)
    money_boxes = lay_out(
        [(p.name, float(p.money or 0), p.look, ((p.money_text, p.money_note),)) for _, p in sold],
        money_scale,
        frame,
    )
    dollars, taken = Bar(frame, top, above=False, post=cost_x).lettered(
        money_boxes, [(parts.index(p) + 1, f"{p.name} {p.money_text}") for _, p in sold]
    )
    ribbons = tuple(
        Ribbon(_ribbon_path(box, low, bottom, top), part.look, part.name)
        for (box, part), low in zip(sold, money_boxes, strict=True)
    )
    words_y = top + frame.bar + taken + ROW
    if dollars.key:  # the words stand between the numbers and the key, so the post ends there
        words_y = dollars.key[0].y
    cost_words = _cost_words(words, cost_x, words_y, frame)
    height = cost_words[-1].y + 8
    if dollars.key:
        dollars = _key_below(dollars, height - 8 + ROW - dollars.key[0].y)
        height = dollars.key[-1].y + 8
    return TwoRails(
        frame.width,
        rounded(height),
        pounds,
        dollars,
        ribbons,
        post,
        cost_x,
        cost_words,
        rounded(words_y - frame.size),
        cost > retail,
    )


def _key_below(rail: Rail, by: float) -> Rail:
    """The same rail with its key moved down."""
    key = tuple(
        replace(entry, y=rounded(entry.y + by), swatch_y=rounded(entry.swatch_y + by))
        for entry in rail.key
    )
    return replace(rail, key=key)


def _ribbon_path(high: Box, low: Box, y0: float, y1: float) -> str:
    """A band from a pound segment down to its money segment, with level ends."""
    mid = rounded((y0 + y1) / 2)
    a, b = high.x, rounded(high.x + high.width)
    c, d = low.x, rounded(low.x + low.width)
    y0, y1 = rounded(y0), rounded(y1)
    return f"M{a},{y0}C{a},{mid} {c},{mid} {c},{y1}L{d},{y1}C{d},{mid} {b},{mid} {b},{y0}Z"


def _cost_words(words: tuple[str, str], x: float, y: float, frame: Frame) -> tuple[Words, ...]:
    """The cost left of the post and the profit right of it, on one line when both fit."""
    left, right = (text_width(text, frame.size + POST_LARGER) for text in words)
    y = rounded(y)
    if left + PAD <= x and x + PAD + right <= frame.width:
        return (
            Words(rounded(x - PAD), y, words[0], "end"),
            Words(rounded(x + PAD), y, words[1], "start"),
        )
    lines = []
    for i, (text, wide) in enumerate(zip(words, (left, right), strict=True)):
        start = min(max(x - wide / 2, 0.0), max(frame.width - wide, 0.0))
        lines.append(Words(rounded(start), rounded(y + i * ROW), text, "start"))
    return tuple(lines)


@dataclass(frozen=True, slots=True)
class MoneyBar:
    """The dollar rail alone, without lettering, for a price that is being moved."""

    width: float
    boxes: tuple[tuple[float, float], ...]
    """Left edge and width of each part, in order."""
    post: float
    """Where the cost ends."""


def money_bar(
    parts: Sequence[Decimal], cost: Decimal, longest: Decimal, width: float = 1000.0
) -> MoneyBar:
    """`parts`: the money each output brings; the whole width stands for `longest`, so that a
    price that goes up makes the bar longer. Anything past the width is cut off by the page.
    """
    scale = width / float(max(longest, Decimal("0.01")))
    boxes, at = [], 0.0
    for money in parts:
        wide = max(float(money), 0.0) * scale
        boxes.append((rounded(at), rounded(wide)))
        at += wide
    return MoneyBar(width, tuple(boxes), rounded(max(float(cost), 0.0) * scale))
