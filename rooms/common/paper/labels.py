"""Labels as SVG, PNG and PDF: one picture, three pens. No Django: the command line draws with it too."""

import io
from functools import lru_cache
from html import escape

from PIL import Image, ImageDraw, ImageFont
from reportlab.pdfgen.canvas import Canvas

from cutting.labels.tray_label import Lines, TrayLabel, lines_of
from drawings.label import DOTS, LabelPicture, Stock, Words, label_picture
from rooms.common.paper.barcodes import symbols_of
from rooms.common.paper.typeface import FILES, FONTS, runs, width_of

POINTS = 72 / 25.4
"""A millimetre."""
BLACK, WHITE = 0, 255
MIDDLE_GREY = 128
KINDS = ("svg", "png", "pdf")


def picture_of(
    label: TrayLabel, stock: Stock = Stock.MIDDLE, lines: Lines | None = None
) -> LabelPicture:
    """`lines`: where the shop adds facts or writes its days; else as the document has them."""
    return label_picture(lines or lines_of(label), symbols_of(label, stock), stock)


def drawn_as(label: TrayLabel, kind: str, stock: Stock = Stock.MIDDLE) -> bytes:
    """svg, png or pdf."""
    return draw(picture_of(label, stock), kind)


def draw(picture: LabelPicture, kind: str) -> bytes:
    """One picture by one of the pens."""
    if kind == "svg":
        return as_svg(picture).encode()
    return as_png(picture) if kind == "png" else as_pdf([picture])


def as_svg(picture: LabelPicture) -> str:
    """In millimetres; black on white whatever the page's theme."""
    parts = [
        f'<svg xmlns="http://www.w3.org/2000/svg" class="tray-label" viewBox="0 0 {picture.width:g}'
        f' {picture.height:g}" role="img" aria-label="{escape(_aloud(picture), quote=True)}">',
        f'<rect width="{picture.width:g}" height="{picture.height:g}" fill="#fff"/>',
    ]
    parts += [
        f'<rect x="{one.x:g}" y="{one.y:g}" width="{one.width:g}" height="{one.height:g}"/>'
        for one in picture.bars
    ]
    parts += [_svg_words(one) for one in picture.words]
    return "".join([*parts, "</svg>"])


def _svg_words(one: Words) -> str:
    weight = ' font-weight="700"' if one.bold else ""
    return (
        f'<text x="{one.x:g}" y="{one.y:g}" font-size="{one.size:g}"{weight}'
        f' text-anchor="{one.anchor}">{escape(one.text)}</text>'
    )


def _aloud(picture: LabelPicture) -> str:
    return ", ".join(one.text for one in picture.words[:12])


def as_pdf(pictures: list[LabelPicture]) -> bytes:
    """A page a label, as large as its stock."""
    out = io.BytesIO()
    canvas = Canvas(out, pageCompression=1, invariant=1)
    for picture in pictures:
        height = picture.height * POINTS
        canvas.setPageSize((picture.width * POINTS, height))
        for one in picture.bars:
            x, y = one.x * POINTS, height - (one.y + one.height) * POINTS
            canvas.rect(x, y, one.width * POINTS, one.height * POINTS, stroke=0, fill=1)
        for words in picture.words:
            _pdf_words(canvas, words, height)
        canvas.showPage()
    canvas.save()
    return out.getvalue()


def _pdf_words(canvas: Canvas, words: Words, height: float) -> None:
    size = words.size * POINTS
    x = words.x * POINTS
    if words.anchor == "middle":
        x -= width_of(words.text, size, bold=words.bold) / 2
    for font, piece in runs(words.text, bold=words.bold):
        canvas.setFont(font, size)
        canvas.drawString(x, height - words.y * POINTS, piece)
        x += canvas.stringWidth(piece, font, size)


def as_png(picture: LabelPicture) -> bytes:
    """Black and white, a pixel a dot of the thermal head."""
    width, height = round(picture.width * DOTS), round(picture.height * DOTS)
    image = Image.new("L", (width, height), WHITE)
    pen = ImageDraw.Draw(image)
    for one in picture.words:
        _png_words(pen, one)
    image = image.point(lambda grey: WHITE if grey >= MIDDLE_GREY else BLACK)
    pen = ImageDraw.Draw(image)
    for bar in picture.bars:
        left, top = round(bar.x * DOTS), round(bar.y * DOTS)
        right = round((bar.x + bar.width) * DOTS) - 1
        bottom = max(round((bar.y + bar.height) * DOTS) - 1, top)
        pen.rectangle((left, top, right, bottom), fill=BLACK)
    out = io.BytesIO()
    image.convert("1").save(out, "PNG", optimize=True, dpi=(DOTS * 25.4, DOTS * 25.4))
    return out.getvalue()


def _png_words(pen: ImageDraw.ImageDraw, words: Words) -> None:
    size = words.size * DOTS
    pieces = [(_font(name, size), piece) for name, piece in runs(words.text, bold=words.bold)]
    x = words.x * DOTS
    if words.anchor == "middle":
        x -= sum(font.getlength(piece) for font, piece in pieces) / 2
    for font, piece in pieces:
        pen.text((x, words.y * DOTS), piece, font=font, fill=BLACK, anchor="ls")
        x += font.getlength(piece)


@lru_cache(maxsize=256)
def _font(name: str, size: float) -> ImageFont.FreeTypeFont:
    """The face of this name; letters of a printer's face are drawn by the last embedded one."""
    files = {file.rpartition("/")[2]: file for some in FILES.values() for file in some}
    return ImageFont.truetype(str(FONTS / f"{files.get(name, FILES[False][-1])}.ttf"), size)
