"""The paper strip at true scale: laid along the piece it says where the knife goes.

As many pages as the piece needs, each going on where the last one ended; a bar of known length shows
whether the printer kept the scale.
"""

import io
from collections.abc import Callable
from decimal import Decimal

from reportlab.lib.pagesizes import A4, landscape, letter
from reportlab.lib.units import mm as MM_POINTS
from reportlab.pdfgen.canvas import Canvas

from cutting.layout.marks import inch_words, mm_words
from cutting.layout.profile import MM
from cutting.layout.task import Layout
from rooms.common.paper.rails import ACTION, INK, QUIET
from rooms.common.paper.typeface import runs
from rooms.layout.queries.asking import is_metric

MARGIN, BAND = 12.0, 34.0
"""mm: white at the edges, and the height of the strip itself."""


ROLL_HIGH = 62.0
"""mm: a wide rail label."""


def strip_pdf(layout: Layout, title: str, *, is_roll: bool = False) -> bytes:
    """A PDF in the shop's paper size, landscape; for a roll one label as long as the piece."""
    length, start, page = layout.task.profile.length, Decimal(0), 1
    size = landscape(A4 if is_metric() else letter)
    if is_roll:
        size = ((float(length) + 2 * MARGIN) * MM_POINTS, ROLL_HIGH * MM_POINTS)
    usable = Decimal(repr(size[0] / MM_POINTS - 2 * MARGIN)).quantize(Decimal(1))
    if is_roll:
        usable = length
    out = io.BytesIO()
    canvas = Canvas(out, pagesize=size, pageCompression=0)
    canvas.setTitle(title)
    pages = int((length / usable).to_integral_value(rounding="ROUND_CEILING"))
    while start < length:
        stretch = start, min(start + usable, length)
        _page(canvas, layout, stretch, size[1] / MM_POINTS + (10 if is_roll else 0))
        foot = 3.0 if is_roll else 14.0
        _line(canvas, MARGIN, foot, f"{title} · strip {page} of {pages}", INK)
        _check_bar(canvas, foot + 10 if not is_roll else foot + 5)
        canvas.showPage()
        start, page = start + usable, page + 1
    canvas.save()
    return out.getvalue()


def _page(canvas: Canvas, layout: Layout, stretch: tuple[Decimal, Decimal], high: float) -> None:
    start, end = stretch
    bottom = high - MARGIN - BAND - 8

    def x(at: Decimal) -> float:
        return (MARGIN + float(at - start)) * MM_POINTS

    canvas.setStrokeColor(INK)
    canvas.setLineWidth(0.6)
    canvas.rect(x(start), bottom * MM_POINTS, x(end) - x(start), BAND * MM_POINTS)
    _tape(canvas, stretch, bottom, x)
    canvas.setStrokeColor(ACTION)
    canvas.setLineWidth(1.2)
    for number, place in enumerate(layout.marks, start=1):
        at = layout.task.at(place)
        if start <= at <= end:
            canvas.line(x(at), bottom * MM_POINTS, x(at), (bottom + BAND) * MM_POINTS)
            words = mm_words(at) if is_metric() else inch_words(at)
            top = bottom + BAND + 2 + (number % 2) * 4
            _line(canvas, x(at) / MM_POINTS - 3, top, f"{number}: {words}", INK)
    edge = "cut here; the next strip goes on" if end < layout.task.profile.length else "far end"
    _line(
        canvas,
        MARGIN,
        bottom - 5,
        "near end" if start == 0 else "goes on from the last strip",
        QUIET,
    )
    _line(canvas, float(end - start) + MARGIN - 60, bottom - 5, edge, QUIET)


def _tape(
    canvas: Canvas, stretch: tuple[Decimal, Decimal], bottom: float, x: Callable[[Decimal], float]
) -> None:
    unit = Decimal(10) if is_metric() else MM["in"]
    parts = 2 if is_metric() else 4
    canvas.setLineWidth(0.4)
    number = 0
    while (at := unit * number / parts) <= stretch[1]:
        if at >= stretch[0]:
            tall = 6.0 if number % parts == 0 else 3.0
            canvas.line(x(at), bottom * MM_POINTS, x(at), (bottom + tall) * MM_POINTS)
            if number % parts == 0:
                _line(canvas, x(at) / MM_POINTS + 0.8, bottom + 3.2, str(number // parts), QUIET)
        number += 1


def _check_bar(canvas: Canvas, high: float) -> None:
    """4 in, or 10 cm: hold a ruler against it."""
    long, words = (100.0, "10 cm") if is_metric() else (101.6, "4 in")
    canvas.setStrokeColor(INK)
    canvas.setLineWidth(1.0)
    y = high * MM_POINTS
    canvas.line(MARGIN * MM_POINTS, y, (MARGIN + long) * MM_POINTS, y)
    for end in (MARGIN, MARGIN + long):
        canvas.line(end * MM_POINTS, y - 1.5 * MM_POINTS, end * MM_POINTS, y + 1.5 * MM_POINTS)
    words = f"This line is {words} long. If it is not, print at 100 %."
    _line(canvas, MARGIN + long + 4, high - 1, words, QUIET)


def _line(canvas: Canvas, left: float, bottom: float, text: str, colour: str) -> None:
    canvas.setFillColor(colour)
    place = left * MM_POINTS
    for font, part in runs(text, bold=False):
        canvas.setFont(font, 9)
        canvas.drawString(place, bottom * MM_POINTS, part)
        place += canvas.stringWidth(part, font, 9)
