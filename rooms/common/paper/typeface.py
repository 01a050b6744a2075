"""The shop's typeface on paper, embedded; letters it has not come from the next face that has them.

Latin is the shop's own, Greek, Cyrillic and many signs DejaVu, Chinese, Japanese and Korean the
printer's. Vendored by tools/vendor.py.
"""

from functools import lru_cache
from html import escape
from itertools import groupby
from pathlib import Path

from reportlab.pdfbase.cidfonts import UnicodeCIDFont
from reportlab.pdfbase.pdfmetrics import registerFont, stringWidth
from reportlab.pdfbase.ttfonts import TTFont

FONTS = Path(__file__).parent / "fonts"
FILES = {
    False: (
        "atkinson-hyperlegible-next/latin-400",
        "atkinson-hyperlegible-next/latin-ext-400",
        "dejavu/DejaVuSans",
    ),
    True: (
        "atkinson-hyperlegible-next/latin-700",
        "atkinson-hyperlegible-next/latin-ext-700",
        "dejavu/DejaVuSans-Bold",
    ),
}
PRINTERS = (
    ("HYGothic-Medium", ((0x1100, 0x11FF), (0xAC00, 0xD7AF))),
    ("HeiseiKakuGo-W5", ((0x3040, 0x30FF),)),
    ("STSong-Light", ((0x2E80, 0x9FFF), (0xF900, 0xFAFF), (0xFF00, 0xFFEF))),
)
"""Faces that a viewer has: Hangul, kana, Han."""


@lru_cache
def faces(*, bold: bool) -> tuple[tuple[str, frozenset[int]], ...]:
    """The embedded faces in the order they are asked, each with the letters it has."""
    found = []
    for file in FILES[bold]:
        font = TTFont(file.rpartition("/")[2], FONTS / f"{file}.ttf")
        registerFont(font)
        found.append((font.fontName, frozenset(font.face.charToGlyph)))
    return tuple(found)


@lru_cache
def printers(name: str) -> str:
    registerFont(UnicodeCIDFont(name))
    return name


@lru_cache(maxsize=4096)
def _face_of(sign: str, *, bold: bool) -> str:
    code = ord(sign)
    for name, letters in faces(bold=bold):
        if code in letters:
            return name
    for name, ranges in PRINTERS:
        if any(low <= code <= high for low, high in ranges):
            return printers(name)
    return faces(bold=bold)[-1][0]


def runs(text: str, *, bold: bool = False) -> list[tuple[str, str]]:
    """The text in pieces, each with the font that has all its letters."""
    signs = ((_face_of(sign, bold=bold), sign) for sign in text)
    return [
        (name, "".join(sign for _, sign in some))
        for name, some in groupby(signs, key=lambda pair: pair[0])
    ]


def width_of(text: str, size: float, *, bold: bool = False) -> float:
    return sum(stringWidth(piece, name, size) for name, piece in runs(text, bold=bold))


def markup(text: str, *, bold: bool = False) -> str:
    """The text for a paragraph, with its fonts named and nothing in it read as a tag."""
    return "".join(
        f'<font name="{name}">{escape(piece)}</font>' for name, piece in runs(text, bold=bold)
    )
