"""A shelf tag: the name, the price large, the other unit small. Millimetres, black on white, as a label."""

from __future__ import annotations

from dataclasses import dataclass

from cutting.drawing.label import LEADING, MARGIN, LabelPicture, Words, fitting, wrapped
from cutting.drawing.lettering import shorten, text_width

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
