"""A tray label: where its words and codes stand, in millimetres from the top left. One picture for the screen, the
printer, PNG and PDF.

Black on white for a thermal head of 8 dots a millimetre: the modules of the codes are whole dots.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from enum import StrEnum
from itertools import product

from cutting.labels.tray_label import NET, Lines
from drawings.icons import ICONS, Icon
from drawings.lettering import shorten, text_width

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


HANDLING = "safe handling instructions"


def label_picture(lines: Lines, symbols: Sequence[Symbol], stock: Stock) -> LabelPicture:
    """The picture of one label. `symbols`: as they are to stand, from the left.

    What a rule asks for goes before what the shop adds; the codes give way to it as far as they can be
    read. What does not fit is named in `left_out`: a duty there needs a label of its own.
    """
    roomy, compact = (_whole(lines, symbols, stock, is_small=small) for small in (False, True))
    return compact if duties_left(lines, roomy) and not duties_left(lines, compact) else roomy


def duties_left(lines: Lines, picture: LabelPicture) -> list[str]:
    """Return what a rule asks for and did not fit on this label."""
    duties = {name for name, _ in lines.duties} | {HANDLING}
    return [name for name in picture.left_out if name in duties]


def second_picture(lines: Lines, stock: Stock, names: Sequence[str]) -> LabelPicture:
    """The label beside the first, with the duties that did not fit there."""
    page = _Page(SIZES[stock])
    own = page.size
    page.line(lines.name, own.figure * 0.8, bold=True)
    foot = _foot(page, lines)
    bottom = own.height - MARGIN - (own.small * LEADING if foot else 0)
    left_out = _duties(page, [one for one in lines.duties if one[0] in names], bottom)
    if HANDLING in names and not _handling(page, lines.handling, bottom):
        left_out.append(HANDLING)
    return LabelPicture(own.width, own.height, tuple(page.words), tuple(page.bars), tuple(left_out))


def carries_handling(texts: Sequence[str], stock: Stock) -> bool:
    """Return whether safe handling fits on a label of its own of this stock: without it no raw meat is
    labeled (9 CFR 317.2(l))."""
    page = _Page(SIZES[stock])
    page.line("A", page.size.figure * 0.8, bold=True)
    return _handling(page, texts, page.size.height - MARGIN - page.size.small * LEADING)


def _whole(
    lines: Lines, symbols: Sequence[Symbol], stock: Stock, *, is_small: bool
) -> LabelPicture:
    """The label with name and codes as large as there is room, or smaller, so that more fits."""
    page = _Page(SIZES[stock])
    own = page.size
    name, flag_size = (own.name * 0.8, own.small) if is_small else (own.name, own.small * 1.2)
    for text in wrapped(lines.name, name, page.room)[:2]:
        page.line(text, name, bold=True)
    page.line(" · ".join(lines.under), own.small * 1.15)
    for flag in lines.flags:
        for text in wrapped(flag, flag_size, page.room):
            page.line(text, flag_size, bold=True)
    page.rule()
    _figures(page, lines)
    _dates(page, lines)
    page.rule()
    foot = _foot(page, lines)
    bottom = own.height - MARGIN - (own.small * LEADING if foot else 0)
    left_out = _codes(page, symbols, bottom, is_small=is_small)
    left_out += _duties(page, lines.duties, bottom)
    if not _handling(page, lines.handling, bottom):
        left_out.append(HANDLING)
    left_out += _small_print(page, lines.facts, bottom)
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
    cells = ((NET, lines.net), ("Price", lines.price), ("Total", lines.total))
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


def _codes(
    page: _Page, symbols: Sequence[Symbol], bottom: float, *, is_small: bool = False
) -> list[str]:
    """Side by side from the left, the last at the right edge, in whole dots; as large as there is room.
    What does not fit is named."""
    for some in (list(symbols), *([one] for one in symbols if len(symbols) > 1)):
        for tall in (page.size.bars, LEAST_BARS)[is_small:]:
            for dots in range(FINEST if is_small else COARSEST, FINEST - 1, -1):
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


def _duties(page: _Page, duties: Sequence[tuple[str, str]], bottom: float) -> list[str]:
    """Lines that a rule asks for; those that do not fit are named."""
    return [name for name, text in duties if not _paragraph(page, text, bottom)]


def _small_print(page: _Page, facts: Sequence[str], bottom: float) -> list[str]:
    """What the shop adds, while there is room; what does not fit is named."""
    return [fact for fact in facts if not _paragraph(page, fact, bottom)]


def _paragraph(page: _Page, text: str, bottom: float) -> bool:
    size = _largest((text,), SMALLEST, page.size.small, page.room, bottom - page.y)
    if size is None:
        return False
    for part in wrapped(text, size, page.room):
        page.line(part, size)
    return True


INSET, ICON_GAP = 1.2, 1.2
ICON_SIDES = (6.0, 4.0)
"""Millimetres of a picture of safe handling, the larger where there is room; whole dots of the printer."""
HEADING = 1.2
"""Its heading, by the size of its text."""


def _handling(page: _Page, texts: Sequence[str], bottom: float) -> bool:
    """Safe handling in a border: heading, text, and each rule beside its picture, in letters that 9 CFR
    317.2(l) asks for. False where even the smallest do not fit."""
    size = max(page.size.small, SMALLEST_HANDLING)
    while size >= SMALLEST_HANDLING:
        for icon, columns in product(ICON_SIDES, (2, 1)):
            box = _Box(page, texts, size, columns, icon)
            if page.y + box.height <= bottom:
                box.draw()
                return True
        size = round(size - 0.1, 2)
    return False


class _Box:
    """The box of safe handling at one size and in so many columns."""

    def __init__(
        self, page: _Page, texts: Sequence[str], size: float, columns: int, icon: float
    ) -> None:
        self.page, self.size, self.columns, self.icon = page, size, columns, icon
        self.heading, preamble, *rules = texts
        self.preamble = wrapped(preamble, size, page.room - 2 * INSET)
        self.cell = (page.room - 2 * INSET - (columns - 1) * GAP) / columns
        beside = self.cell - icon - ICON_GAP
        self.rules = [wrapped(text, size, beside) for text in rules]

    @property
    def leading(self) -> float:
        return self.size * LEADING

    def _rows(self) -> list[list[int]]:
        numbers = list(range(len(self.rules)))
        return [numbers[at : at + self.columns] for at in range(0, len(numbers), self.columns)]

    def _tall(self, row: Sequence[int]) -> float:
        return max(self.icon, *(len(self.rules[one]) * self.leading for one in row)) + GAP / 2

    @property
    def height(self) -> float:
        text = (HEADING + len(self.preamble)) * self.leading
        return text + sum(self._tall(row) for row in self._rows()) + 2 * INSET + GAP

    def draw(self) -> None:
        page, top = self.page, self.page.y + GAP / 2
        y = top + INSET
        big = self.size * HEADING
        middle = page.size.width / 2
        page.words.append(
            Words(middle, round(y + big, 2), round(big, 2), self.heading, True, "middle")
        )
        y += HEADING * self.leading
        y = self._text(MARGIN + INSET, y, self.preamble)
        for row in self._rows():
            for place, one in enumerate(row):
                x = MARGIN + INSET + place * (self.cell + GAP)
                page.bars += _icon(ICONS[one], x, y, self.icon)
                self._text(x + self.icon + ICON_GAP, y, self.rules[one])
            y += self._tall(row)
        page.bars += _border(MARGIN, top, page.room, y + INSET - top)
        page.y = y + INSET + GAP / 2

    def _text(self, x: float, y: float, lines: Sequence[str]) -> float:
        for line in lines:
            self.page.words.append(
                Words(round(x, 2), round(y + self.size, 2), round(self.size, 2), line)
            )
            y += self.leading
        return y


def _icon(icon: Icon, x: float, y: float, side: float) -> list[Bar]:
    """A picture as bars; its dots are whole dots of the printer."""
    dot = side / icon.side
    left, top = _on_dot(x), _on_dot(y)
    return [
        Bar(
            round(left + bx * dot, 4),
            round(top + by * dot, 4),
            round(width * dot, 4),
            round(dot, 4),
        )
        for bx, by, width in icon.runs
    ]


def _border(x: float, y: float, wide: float, tall: float) -> list[Bar]:
    thick = 2 * DOT
    x, y, wide, tall = (_on_dot(one) for one in (x, y, wide, tall))
    return [
        Bar(x, y, wide, thick),
        Bar(x, y + tall - thick, wide, thick),
        Bar(x, y, thick, tall),
        Bar(x + wide - thick, y, thick, tall),
    ]


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
