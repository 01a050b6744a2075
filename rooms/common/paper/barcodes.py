"""Bar codes and QR codes as bars, by the libraries zint and segno."""

from functools import lru_cache

import segno
import zint

from cutting.labels.codes import NONE, short_elements
from cutting.labels.tray_label import TrayLabel, label_codes, traced
from drawings.label import DOT, FINEST, GAP, MARGIN, SIZES, Stock, Symbol

SCALE = 2.0
"""zint draws two units a module."""
QUIET = {"ean13": 11, "upc12": 9, "databar": 1, "gs1-128": 10}
WIDEST, NARROWEST = 8, 2
"""Columns of a row of stacked DataBar Expanded."""
QR_QUIET = 4


@lru_cache(maxsize=256)
def linear(kind: str, content: str, columns: int = WIDEST) -> Symbol:
    """ean13, upc12 (digits with their check digit); databar (in rows of so many columns), gs1-128
    (element strings)."""
    symbol = zint.Symbol()
    symbol.symbology = {
        "ean13": zint.Symbology.EANX,
        "upc12": zint.Symbology.UPCA,
        "databar": zint.Symbology.DBAR_EXPSTK,
        "gs1-128": zint.Symbology.GS1_128,
    }[kind]
    symbol.show_text = False
    if kind in ("databar", "gs1-128"):
        symbol.input_mode = zint.InputMode.GS1
        content = content.replace("(", "[").replace(")", "]")
    if kind == "databar":
        symbol.option_2 = columns
    symbol.encode(content[:-1] if kind == "upc12" else content)
    symbol.buffer_vector()
    bars = [
        (one.x / SCALE, one.y / SCALE, one.width / SCALE, one.height / SCALE)
        for one in symbol.vector.rectangles
    ]
    left, right = min(one[0] for one in bars), max(one[0] + one[2] for one in bars)
    tall = max(one[1] + one[3] for one in bars)
    return Symbol(
        kind,
        right - left,
        tall,
        tuple((x - left, y, width, height) for x, y, width, height in bars),
        QUIET[kind],
        stretches=kind != "databar",
        words=content.replace("[", "(").replace("]", ")") if kind == "gs1-128" else digits(content),
    )


def digits(content: str) -> str:
    """Digits as they stand under a bar code; nothing for an element string."""
    return content if content.isdecimal() else ""


@lru_cache(maxsize=256)
def qr(text: str) -> Symbol:
    """At level M; runs of dark modules are one bar."""
    matrix = segno.make(text, error="m", micro=False, boost_error=False).matrix
    bars = []
    for y, row in enumerate(matrix):
        start = None
        for x, dark in enumerate([*row, 0]):
            if dark and start is None:
                start = x
            elif not dark and start is not None:
                bars.append((float(start), float(y), float(x - start), 1.0))
                start = None
    side = float(len(matrix))
    return Symbol("qr", side, side, tuple(bars), QR_QUIET, stretches=False)


def databar(content: str, room: float) -> Symbol:
    """In as few rows as a width in millimetres allows."""
    for columns in range(WIDEST, NARROWEST, -1):
        one = linear("databar", content, columns)
        if (one.width + 2 * one.quiet) * FINEST * DOT <= room:
            return one
    return linear("databar", content, NARROWEST)


def symbols_of(label: TrayLabel, stock: Stock) -> list[Symbol]:
    """What stands on a tray: the store's own number where it has one, else DataBar Expanded with the
    short set; and the QR."""
    codes = {one.kind: one for one in label_codes(label)}
    link = [qr(codes["qr"].content)] if "qr" in codes else []
    own = codes.get("ean13") or codes.get("upc12")
    if own is not None:
        return [linear(own.kind, own.content), *link]
    if "gs1" not in codes:
        return link
    taken = sum((one.width + 2 * one.quiet) * FINEST * DOT + GAP for one in link)
    room = SIZES[stock].width - 2 * MARGIN - taken
    return [databar(short_elements(traced(label))[0], room), *link]


def left_to_qr(label: TrayLabel) -> list[str]:
    """Application identifiers that the bar code does not carry."""
    return short_elements(traced(label))[1] if label.product.gtin else []


def why_none(label: TrayLabel) -> str:
    """Why there is no store number; empty where there is one, or none is wanted."""
    return next((one.content for one in label_codes(label) if one.kind == NONE), "")


def case_code(elements: str) -> Symbol:
    """GS1-128 of a case."""
    return linear("gs1-128", elements)
