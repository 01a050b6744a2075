"""A shelf tag, a card for the service counter, the label of a case: the name, the price or the weight large. Millimetres,
black on white, as a label."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from drawings.label import (
    DOT,
    FINEST,
    LEADING,
    MARGIN,
    Bar,
    LabelPicture,
    Symbol,
    Words,
    fitting,
    wrapped,
)
from drawings.lettering import shorten, text_width

WIDTH, HEIGHT = 80.0, 40.0
NAME, SMALL, PRICE = 6.0, 2.8, 15.0


@dataclass(frozen=True, slots=True)
class TagLines:
    """What a tag tells; `other` is empty where the shop shows one unit alone."""

    name: str
    under: str
    price: str
    per: str
    other: str
    since: str


def tag_picture(lines: TagLines) -> LabelPicture:
    """The picture of one tag."""
    room, y = WIDTH - 2 * MARGIN, MARGIN
    words = []
    for text in wrapped(lines.name, NAME, room)[:2]:
        size = fitting(text, NAME, room)
        y += size
        words.append(
            Words(MARGIN, round(y, 2), round(size, 2), shorten(text, size, room), bold=True)
        )
        y += size * (LEADING - 1)
    if lines.under:
        y += SMALL
        words.append(Words(MARGIN, round(y, 2), SMALL, shorten(lines.under, SMALL, room)))
    base = HEIGHT - MARGIN - SMALL * LEADING
    size = fitting(lines.price, PRICE, room * 0.62)
    words.append(Words(MARGIN, round(base, 2), round(size, 2), lines.price, bold=True))
    beside = MARGIN + text_width(lines.price, size) + 2
    words.append(
        Words(round(beside, 2), round(base - size * 0.35, 2), SMALL * 1.3, lines.per, bold=True)
    )
    if lines.other:
        words.append(Words(round(beside, 2), round(base, 2), SMALL, lines.other))
    words.append(Words(MARGIN, HEIGHT - MARGIN, SMALL * 0.8, lines.since))
    return LabelPicture(WIDTH, HEIGHT, tuple(words), (), ())


CARD_WIDTH, CARD_HEIGHT, CARD_SMALL, CARD_LEAST = 100.0, 130.0, 4.4, 3.0


def card_picture(tag: TagLines, told: Sequence[str]) -> LabelPicture:
    """A card for the service counter: the tag on top, what a shopper is told below it, in the largest
    letters that hold all of it; what does not fit is named."""
    head = tag_picture(tag)
    scale = CARD_WIDTH / WIDTH
    words = [
        Words(
            round(MARGIN + (one.x - MARGIN) * scale, 2),
            round(one.y * scale, 2),
            round(one.size * scale, 2),
            one.text,
            one.bold,
            one.anchor,
        )
        for one in head.words
    ]
    top, room = HEIGHT * scale + MARGIN, CARD_WIDTH - 2 * MARGIN
    size = CARD_SMALL
    while size > CARD_LEAST and _tall(told, size, room) > CARD_HEIGHT - top - MARGIN:
        size = round(size - 0.1, 2)
    y, left_out = top, []
    for text in told:
        rows = wrapped(text, size, room)
        if y + len(rows) * size * LEADING > CARD_HEIGHT - MARGIN:
            left_out.append(text)
            continue
        for row in rows:
            y += size
            words.append(Words(MARGIN, round(y, 2), size, shorten(row, size, room)))
            y += size * (LEADING - 1)
        y += size * BETWEEN
    bar = Bar(MARGIN, round(top - MARGIN / 2, 2), room, 2 * DOT)
    return LabelPicture(CARD_WIDTH, CARD_HEIGHT, tuple(words), (bar,), tuple(left_out))


BETWEEN = 0.4


def _tall(told: Sequence[str], size: float, room: float) -> float:
    return sum(len(wrapped(text, size, room)) * size * LEADING + size * BETWEEN for text in told)


CASE_WIDTH, CASE_HEIGHT, CASE_BARS = 148.0, 60.0, 20.0


@dataclass(frozen=True, slots=True)
class CaseLines:
    """What the label of a case tells; `elements` stand under its bars."""

    name: str
    under: str
    net: str
    packed: str
    lot: str
    number: str
    elements: str


def case_picture(lines: CaseLines, symbol: Symbol) -> LabelPicture:
    """A case with its GS1-128, as wide as the bars need at two dots a module."""
    module = FINEST * DOT
    width = max(CASE_WIDTH, (symbol.width + 2 * symbol.quiet) * module + 2 * MARGIN)
    room, y = width - 2 * MARGIN, MARGIN + NAME
    size = fitting(lines.name, NAME, room)
    told = [f"{lines.net} net", f"packed {lines.packed}", f"case {lines.number}"]
    told += [f"lot {lines.lot}"] if lines.lot else []
    line = " · ".join(told)
    fits = fitting(line, SMALL * 2, room)
    words = [
        Words(MARGIN, round(y, 2), round(size, 2), shorten(lines.name, size, room), bold=True),
        Words(MARGIN, round(y + 5, 2), SMALL * 1.3, lines.under),
        Words(MARGIN, round(y + 13, 2), round(fits, 2), shorten(line, fits, room), bold=True),
    ]
    top, scale = round(y + 17), CASE_BARS / symbol.height
    left = MARGIN + symbol.quiet * module
    bars = tuple(
        Bar(
            round(left + bx * module, 4),
            round(top + by * scale, 4),
            round(wide * module, 4),
            round(tall * scale, 4),
        )
        for bx, by, wide, tall in symbol.bars
    )
    below = top + CASE_BARS + SMALL * 1.3
    words.append(Words(left, round(below, 2), SMALL, shorten(lines.elements, SMALL, room)))
    return LabelPicture(width, CASE_HEIGHT, tuple(words), bars, ())
