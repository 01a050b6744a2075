"""Rails on paper: the same coordinates as on the page, drawn into a PDF with the same patterns.

The core's y runs down from the top; a PDF's runs up, so everything is drawn in a flipped frame.
"""

from collections.abc import Callable
from dataclasses import dataclass

from reportlab.pdfgen.canvas import Canvas

from drawings.bar import Box, Rail
from drawings.rails import TwoRails
from rooms.common.paper.typeface import runs, width_of

INK, QUIET, RULE, PAPER = "#1f2a30", "#424d54", "#d9cfbd", "#ffffff"
ACTION, CAUTION = "#0b4a50", "#7d2f22"

Mark = Callable[[Canvas, float, float, float, float], None]


@dataclass(frozen=True)
class Tone:
    """A pile's colour and the pattern on it."""

    fill: str
    mark: str = ""
    pattern: str = ""


TONES = {
    "portions-1": Tone("#7d2f22"),
    "portions-2": Tone("#8f3f24", "#a86a55", "across"),
    "portions-3": Tone("#6b2a30", "#8d5a5f", "down"),
    "portions-4": Tone("#7f4420", "#a0724f", "slant"),
    "portions-5": Tone("#5f3a22", "#866950", "grid"),
    "secondary-1": Tone("#c98d72", "#a35a41", "slant"),
    "secondary-2": Tone("#d3a184", "#a35a41", "back"),
    "secondary-3": Tone("#c98d72", "#a35a41", "fine"),
    "secondary-4": Tone("#d3a184", "#a35a41", "fine-back"),
    "lean": Tone("#e3c7ac", "#a8714f", "dots"),
    "fat": Tone("#f1e8c6", "#cdbb7b", "cross"),
    "suet": Tone("#f1e8c6", "#cdbb7b", "fine-cross"),
    "bone": Tone("#e9e4d8", "#8d8674", "dots"),
    "discard": Tone("#c3c7c6", "#8c9493", "across"),
    "purge": Tone("#dfe4e4", "#7d9296", "across"),
    "unaccounted": Tone("#ffffff", "#1f2a30", "slant"),
    "block": Tone("#ffffff"),
}
GAPS = {"fine": 5.0, "fine-back": 5.0, "fine-cross": 6.0}


@dataclass(frozen=True)
class Face:
    """How a line of text looks."""

    size: float = 13
    anchor: str = "start"
    colour: str = INK
    bold: bool = False


@dataclass
class Pen:
    """A canvas with the top of the page as zero and y running down."""

    canvas: Canvas
    height: float

    def text(self, at: tuple[float, float], words: str, face: Face | None = None) -> None:
        """One line of text; `at` is its baseline at the face's anchor."""
        face = face or Face()
        back = {"start": 0.0, "middle": 0.5, "end": 1.0}[face.anchor]
        x = at[0] - back * width_of(words, face.size, bold=face.bold)
        self.canvas.setFillColor(face.colour)
        for font, piece in runs(words, bold=face.bold):
            self.canvas.setFont(font, face.size)
            self.canvas.drawString(x, self.height - at[1], piece)
            x += self.canvas.stringWidth(piece, font, face.size)

    def line(self, points: list[tuple[float, float]], colour: str = INK, width: float = 1) -> None:
        self.canvas.setStrokeColor(colour)
        self.canvas.setLineWidth(width)
        path = self.canvas.beginPath()
        path.moveTo(points[0][0], self.height - points[0][1])
        for x, y in points[1:]:
            path.lineTo(x, self.height - y)
        self.canvas.drawPath(path)

    def box(self, x: float, y: float, width: float, height: float, look: str) -> None:
        """A rectangle in a pile's colour with its pattern, cut off at its edges."""
        tone, canvas = TONES.get(look, TONES["block"]), self.canvas
        bottom = self.height - y - height
        canvas.saveState()
        path = canvas.beginPath()
        path.rect(x, bottom, width, height)
        canvas.clipPath(path, stroke=0, fill=0)
        canvas.setFillColor(tone.fill)
        canvas.rect(x, bottom, width, height, stroke=0, fill=1)
        if tone.pattern:
            canvas.setStrokeColor(tone.mark)
            canvas.setFillColor(tone.mark)
            canvas.setLineWidth(1)
            _pattern(canvas, tone.pattern, (x, bottom, width, height))
        canvas.restoreState()
        canvas.setStrokeColor(PAPER if look != "block" else QUIET)
        canvas.setLineWidth(1)
        canvas.rect(x, bottom, width, height, stroke=1, fill=0)


def _pattern(canvas: Canvas, kind: str, area: tuple[float, float, float, float]) -> None:
    for draw in PATTERNS.get(kind, ()):
        draw(canvas, area, GAPS.get(kind, 8.0))


def _across(canvas: Canvas, area: tuple[float, float, float, float], gap: float) -> None:
    x, y, width, height = area
    for i in range(1, int(height / gap) + 1):
        canvas.line(x, y + i * gap, x + width, y + i * gap)


def _down(canvas: Canvas, area: tuple[float, float, float, float], gap: float) -> None:
    x, y, width, height = area
    for i in range(1, int(width / gap) + 1):
        canvas.line(x + i * gap, y, x + i * gap, y + height)


def _slant(canvas: Canvas, area: tuple[float, float, float, float], gap: float) -> None:
    x, y, width, height = area
    for i in range(-int(height / gap) - 1, int(width / gap) + 1):
        canvas.line(x + i * gap, y, x + i * gap + height, y + height)


def _back(canvas: Canvas, area: tuple[float, float, float, float], gap: float) -> None:
    x, y, width, height = area
    for i in range(int((width + height) / gap) + 1):
        canvas.line(x + i * gap, y, x + i * gap - height, y + height)


def _dots(canvas: Canvas, area: tuple[float, float, float, float], gap: float) -> None:
    x, y, width, height = area
    for i in range(int(width / gap) + 1):
        for j in range(int(height / gap) + 1):
            canvas.circle(x + i * gap + 2, y + j * gap + 2, 1.2, stroke=0, fill=1)


PATTERNS = {
    "across": (_across,),
    "down": (_down,),
    "grid": (_across, _down),
    "slant": (_slant,),
    "fine": (_slant,),
    "back": (_back,),
    "fine-back": (_back,),
    "cross": (_slant, _back),
    "fine-cross": (_slant, _back),
    "dots": (_dots,),
}


def draw_rails(pen: Pen, drawn: TwoRails) -> None:
    """Both rails with ribbons, lettering and the cost post, in the core's coordinates."""
    for ribbon in drawn.ribbons:
        _ribbon(pen, ribbon.path, TONES.get(ribbon.look, TONES["block"]).fill)
    _bar(pen, drawn.pounds)
    if drawn.post:
        pen.line([(drawn.post, drawn.post_y), (drawn.post, drawn.post_end)], width=2.5)
    if drawn.dollars is None:
        return
    if drawn.loss_width:
        pen.canvas.setDash(5, 4)
        top, bottom = drawn.dollars.y, drawn.dollars.y + drawn.dollars.bar
        pen.line(
            [
                (drawn.dollars.length, top),
                (drawn.cost_x, top),
                (drawn.cost_x, bottom),
                (drawn.dollars.length, bottom),
            ],
            CAUTION,
        )
        pen.canvas.setDash()
    _bar(pen, drawn.dollars)
    pen.line([(drawn.cost_x, drawn.cost_top), (drawn.cost_x, drawn.cost_y)], width=2.5)
    for i, words in enumerate(drawn.cost_words):
        colour = INK if i == 0 else CAUTION if drawn.loss else ACTION
        pen.text((words.x, words.y), words.text, Face(15, words.anchor, colour, bold=True))


def _ribbon(pen: Pen, path: str, fill: str) -> None:
    """An SVG path of the core (M, C, L, Z with absolute numbers) as a faint band."""
    canvas = pen.canvas
    numbers = [
        float(part)
        for part in path.replace("M", " ")
        .replace("C", " ")
        .replace("L", " ")
        .replace("Z", " ")
        .replace(",", " ")
        .split()
    ]
    points = [(x, pen.height - y) for x, y in zip(numbers[::2], numbers[1::2], strict=True)]
    shape = canvas.beginPath()
    shape.moveTo(*points[0])
    shape.curveTo(*points[1], *points[2], *points[3])
    shape.lineTo(*points[4])
    shape.curveTo(*points[5], *points[6], *points[7])
    shape.close()
    canvas.saveState()
    canvas.setFillColor(fill)
    canvas.setFillAlpha(0.32)
    canvas.drawPath(shape, stroke=0, fill=1)
    canvas.restoreState()


def _bar(pen: Pen, rail: Rail) -> None:
    for box in rail.boxes:
        if box.width > 0:
            pen.box(box.x, rail.y, box.width, rail.bar, box.look)
        if box.inside:
            _inside(pen, rail, box)
    for line in rail.lines:
        pairs = (point.split(",") for point in line.points.split())
        points = [(float(x), float(y)) for x, y in pairs]
        pen.line(points, QUIET, 0.8)
        pen.text((line.x, line.y), line.text, Face(14, line.anchor))
    for entry in rail.key:
        pen.box(entry.x, entry.swatch_y, 14, 14, entry.look)
        pen.text((entry.text_x, entry.y), entry.text, Face(14))


def _inside(pen: Pen, rail: Rail, box: Box) -> None:
    if box.is_plated:
        pen.canvas.setFillColor("#fbf6ec")
        bottom = pen.height - rail.plate_y - rail.plate_height
        pen.canvas.roundRect(box.plate_x, bottom, box.plate, rail.plate_height, 3, stroke=0, fill=1)
    colour = "#fffdf8" if box.is_solid else INK
    for i, (y, words) in enumerate(zip((rail.name_y, rail.value_y), box.lines, strict=False)):
        pen.text((box.text_x, y), words, Face(14, colour=colour, bold=i == 0))
