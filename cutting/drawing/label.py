"""A tray label: where its words and codes stand, in millimetres from the top left. One picture for the screen, the
printer, PNG and PDF.

Black on white for a thermal head of 8 dots a millimetre: the modules of the codes are whole dots.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from enum import StrEnum

from cutting.drawing.lettering import shorten, text_width
from cutting.labels.tray_label import Lines

DOTS = 8
"""A millimetre: 203 dots an inch."""
DOT = 1 / DOTS
FINEST, COARSEST = 2, 3
"""Dots of a module."""


class Stock(StrEnum):
    """Three sizes of label."""

    SMALL = "small"
    MIDDLE = "middle"
    LARGE = "large"


@dataclass(frozen=True, slots=True)
class Size:
    """Millimetres: the stock, its letters, the height of a bar code."""

    width: float
    height: float
    name: float
    figure: float
    total: float
    small: float
    bars: float


SIZES = {
    Stock.SMALL: Size(60, 50, 4.8, 3.8, 5.4, 2.2, 8),
    Stock.MIDDLE: Size(80, 72, 6.6, 4.8, 8.0, 2.5, 12),
    Stock.LARGE: Size(100, 130, 8.4, 6.0, 10.4, 2.9, 16),
}
MARGIN, GAP = 2.5, 1.4
LEAST_BARS = 6.0
SMALLEST = 2.1
SMALLEST_HANDLING = 2.4
"""Em of letters 1/16 inch tall: 9 CFR 317.2(l). Value from memory."""
LEADING = 1.24


@dataclass(frozen=True, slots=True)
class Symbol:
    """A code as its bars: `bars` are x, y, width and height in modules, `quiet` the free modules left
    and right. One that `stretches` may have any height. `words` stand below it."""

    kind: str
    width: float
    height: float
    bars: tuple[tuple[float, float, float, float], ...]
    quiet: int
    stretches: bool
    words: str = ""


@dataclass(frozen=True, slots=True)
class Words:
    """One line; `y` is its baseline."""

    x: float
    y: float
    size: float
    text: str
    bold: bool = False
    anchor: str = "start"


@dataclass(frozen=True, slots=True)
class Bar:
    """A black box."""

    x: float
    y: float
    width: float
    height: float


@dataclass(frozen=True, slots=True)
class LabelPicture:
    """`left_out`: what did not fit and needs a label of its own."""

    width: float
    height: float
    words: tuple[Words, ...]
    bars: tuple[Bar, ...]
    left_out: tuple[str, ...]


@dataclass
class _Page:
    size: Size
    y: float = MARGIN
    words: list[Words] = field(default_factory=list)
    bars: list[Bar] = field(default_factory=list)

    @property
    def room(self) -> float:
        return self.size.width - 2 * MARGIN

    def line(self, text: str, size: float, *, bold: bool = False) -> None:
        """One line at the left, made smaller or cut where it is too long."""
        size = fitting(text, size, self.room)
        self.y += size
        own = shorten(text, size, self.room)
        self.words.append(Words(MARGIN, round(self.y, 2), round(size, 2), own, bold))
        self.y += size * (LEADING - 1)

    def rule(self) -> None:
        self.y += GAP / 2
        self.bars.append(Bar(MARGIN, round(self.y, 2), self.room, 2 * DOT))
        self.y += GAP


def fitting(text: str, size: float, room: float) -> float:
    """The size at which a line fits, never under the smallest."""
    wide = text_width(text, size)
    return size if wide <= room else max(size * room / wide, SMALLEST)


def wrapped(text: str, size: float, room: float) -> list[str]:
    """Whole words into lines; a word that is too long stands alone."""
    lines: list[str] = []
    for word in text.split():
        longer = f"{lines[-1]} {word}" if lines else word
        if lines and text_width(longer, size) <= room:
            lines[-1] = longer
        else:
            lines.append(word)
    return lines


def label_picture(lines: Lines, symbols: Sequence[Symbol], stock: Stock) -> LabelPicture:
    """The picture of one label. `symbols`: as they are to stand, from the left."""
    page = _Page(SIZES[stock])
    own = page.size
    for text in wrapped(lines.name, own.name, page.room)[:2]:
        page.line(text, own.name, bold=True)
    page.line(" · ".join(lines.under), own.small * 1.15)
    for flag in lines.flags:
        for text in wrapped(flag, own.small * 1.2, page.room):
            page.line(text, own.small * 1.2, bold=True)
    page.rule()
    _figures(page, lines)
    _dates(page, lines)
    page.rule()
    foot = _foot(page, lines)
    bottom = own.height - MARGIN - (own.small * LEADING if foot else 0)
    left_out = [*_codes(page, symbols, bottom), *_small_print(page, lines, bottom)]
    return LabelPicture(own.width, own.height, tuple(page.words), tuple(page.bars), tuple(left_out))


def _foot(page: _Page, lines: Lines) -> str:
    """Lot and shop on the last line."""
    own = page.size
    parts = (f"Lot {lines.lot}" if lines.lot else "", lines.place)
    foot = " · ".join(part for part in parts if part)
    if foot:
        base = round(own.height - MARGIN, 2)
        fits = round(fitting(foot, own.small, page.room), 2)
        page.words.append(Words(MARGIN, base, fits, shorten(foot, fits, page.room)))
    return foot


def _figures(page: _Page, lines: Lines) -> None:
    """Net, price, total side by side; the total the largest."""
    own = page.size
    shares = ((0.0, 0.27), (0.29, 0.34), (0.65, 0.35))
    cells = (("Net", lines.net), ("Price", lines.price), ("Total", lines.total))
    sizes = (own.figure, own.figure, own.total)
    tallest, top = own.total, page.y
    for (start, share), (caption, value), size in zip(shares, cells, sizes, strict=True):
        x, room = MARGIN + start * page.room, share * page.room
        page.words.append(Words(x, round(top + own.small, 2), own.small, caption))
        fits = round(fitting(value, size, room), 2)
        base = round(top + own.small + tallest * 1.05, 2)
        page.words.append(Words(x, base, fits, value, bold=True))
    page.y = top + own.small + tallest * 1.05 + own.small * 1.25
    x = MARGIN + shares[1][0] * page.room
    page.words.append(Words(x, round(page.y, 2), own.small, lines.other_price))
    page.y += own.small * 0.5


def _dates(page: _Page, lines: Lines) -> None:
    own = page.size
    size = own.figure * 0.75
    page.y += size * 0.3
    half = page.room / 2
    cells = [
        (MARGIN, f"Packed {lines.packed}", False),
        (MARGIN + half, f"Sell by {lines.sell_by}", True),
    ]
    page.y += size
    for x, text, bold in cells:
        fits = round(fitting(text, size, half - GAP), 2)
        page.words.append(Words(x, round(page.y, 2), fits, text, bold))
    page.y += size * 0.3


def _codes(page: _Page, symbols: Sequence[Symbol], bottom: float) -> list[str]:
    """Side by side from the left, the last at the right edge, in whole dots; as large as there is room.
    What does not fit is named."""
    for some in (list(symbols), *([one] for one in symbols if len(symbols) > 1)):
        for tall in (page.size.bars, LEAST_BARS):
            for dots in range(COARSEST, FINEST - 1, -1):
                deep = max((_depth(one, dots, tall, page.size) for one in some), default=0.0)
                if _width(some, dots) <= page.room and _on_dot(page.y) + deep <= bottom:
                    _draw_codes(page, some, dots, tall)
                    return [one.kind for one in symbols if one not in some]
    return [one.kind for one in symbols]


def _depth(one: Symbol, dots: int, tall: float, size: Size) -> float:
    own = tall if one.stretches else one.height * dots * DOT
    return own + (size.small * 1.3 if one.words else 0)


def _draw_codes(page: _Page, symbols: Sequence[Symbol], dots: int, tall: float) -> None:
    if not symbols:
        return
    own, top, module = page.size, _on_dot(page.y), dots * DOT
    x = MARGIN
    for at, one in enumerate(symbols):
        wide = (one.width + 2 * one.quiet) * module
        is_last = at > 0 and at == len(symbols) - 1
        start = _on_dot(own.width - MARGIN - wide if is_last else x) + one.quiet * module
        deep = tall if one.stretches else one.height * module
        scale = deep / one.height
        page.bars += [
            Bar(
                round(start + bx * module, 4),
                round(top + by * scale, 4),
                round(width * module, 4),
                round(height * scale, 4),
            )
            for bx, by, width, height in one.bars
        ]
        if one.words:
            base = round(top + deep + own.small * 1.05, 2)
            middle = round(start + one.width * module / 2, 2)
            page.words.append(Words(middle, base, own.small, one.words, anchor="middle"))
        x += wide + GAP
    page.y = top + max(_depth(one, dots, tall, own) for one in symbols) + GAP


def _width(symbols: Sequence[Symbol], dots: int) -> float:
    wide = sum((one.width + 2 * one.quiet) * dots * DOT for one in symbols)
    return wide + GAP * (len(symbols) - 1)


def _on_dot(value: float) -> float:
    return round(value * DOTS) / DOTS


def _small_print(page: _Page, lines: Lines, bottom: float) -> list[str]:
    """Facts and storage, then safe handling in letters that the rule asks for; what does not fit is
    named."""
    groups = [
        *((fact, (fact,), SMALLEST) for fact in lines.facts),
        ("storage", (lines.storage,), SMALLEST),
        ("safe handling instructions", lines.handling, SMALLEST_HANDLING),
    ]
    left_out = []
    for name, texts, least in groups:
        size = _largest(texts, least, page.size.small, page.room, bottom - page.y)
        if size is None:
            left_out.append(name)
            continue
        for at, text in enumerate(texts):
            for part in wrapped(text, size, page.room):
                page.line(part, size, bold=len(texts) > 1 and at == 0)
    return left_out


def _largest(
    texts: Sequence[str], least: float, size: float, room: float, tall: float
) -> float | None:
    """The largest letters in which all of it fits; None where even the smallest are too many."""
    size = max(size, least)
    while size >= least:
        rows = sum(len(wrapped(text, size, room)) for text in texts)
        if rows * size * LEADING <= tall:
            return size
        size = round(size - 0.1, 2)
    return None
