"""The sheet on one printed page: both rails, the table, the four schools, the balance."""

import io
from typing import Any

from reportlab.lib.enums import TA_RIGHT
from reportlab.lib.pagesizes import A4, landscape, letter
from reportlab.lib.styles import ParagraphStyle
from reportlab.pdfgen.canvas import Canvas
from reportlab.platypus import (
    BaseDocTemplate,
    Flowable,
    Frame,
    PageTemplate,
    Paragraph,
    Spacer,
    Table,
)

from cutting.quantities import HUNDRED
from drawings.rails import TwoRails
from rooms.bench.queries.choices import chosen_and_seen, opened_as
from rooms.bench.queries.sheet import SchoolView, SheetView
from rooms.common.paper.rails import CAUTION, INK, QUIET, RULE, Pen, draw_rails
from rooms.common.paper.typeface import markup
from rooms.shop.queries.current import house
from rooms.shop.queries.dates import said_day, said_moment
from wording.pencil import money, percent, pounds, signed

MARGIN = 30.0
WIDTH = 880.0
"""The page is laid out in the rail's own pixels and then made to fit."""
COLUMNS = (
    ("", 20),
    ("output", 250),
    ("weight", 70),
    ("yield %", 70),
    ("count", 50),
    ("mean", 80),
    ("cost each", 80),
    ("cost", 65),
    ("price", 65),
    ("sales", 65),
    ("margin %", 65),
)
MOST_NOTES = 4
LONGEST = 1e6
RULED = [
    ("VALIGN", (0, 0), (-1, -1), "MIDDLE"),
    ("LEFTPADDING", (0, 0), (-1, -1), 0),
    ("RIGHTPADDING", (0, 0), (-1, -1), 0),
    ("TOPPADDING", (0, 0), (-1, -1), 2),
    ("BOTTOMPADDING", (0, 0), (-1, -1), 2),
    ("LINEBELOW", (0, 0), (-1, -3), 0.6, RULE),
    ("LINEBELOW", (0, 0), (-1, 0), 1, INK),
    ("LINEBELOW", (0, -2), (-1, -2), 1.4, INK),
]
BARE = [
    ("VALIGN", (0, 0), (-1, -1), "TOP"),
    ("LEFTPADDING", (0, 0), (-1, -1), 0),
    ("RIGHTPADDING", (0, 0), (-1, -1), 8),
]


def as_pdf(view: SheetView, notes: list[str]) -> bytes:
    """One page, whatever the number of outputs: it is drawn smaller when it must be."""
    story = [*_head(view), Rails(dict(view.rails)["wide"]), _table(view), *_foot(view, notes)]
    height = sum(part.wrap(WIDTH, LONGEST)[1] for part in story) + 1
    paper = landscape(A4 if house().unit == "kg" else letter)
    scale = min((paper[0] - 2 * MARGIN) / WIDTH, (paper[1] - 2 * MARGIN) / height)

    def in_pixels(canvas: Canvas, _: BaseDocTemplate) -> None:
        canvas.translate((paper[0] - WIDTH * scale) / 2, paper[1] - MARGIN - height * scale)
        canvas.scale(scale, scale)

    out, test = io.BytesIO(), view.rows.test
    frame = Frame(0, 0, WIDTH, height, 0, 0, 0, 0)
    BaseDocTemplate(
        out,
        pagesize=paper,
        pageTemplates=[PageTemplate("sheet", [frame], onPage=in_pixels)],
        title=f"Cutting test {test.number}: {test.piece_name}",
        invariant=1,
    ).build(story)
    return out.getvalue()


class Rails(Flowable):
    """Both rails, in the core's coordinates."""

    def __init__(self, drawn: TwoRails) -> None:
        super().__init__()
        self.drawn = drawn
        self.width, self.height = WIDTH, drawn.height

    def draw(self) -> None:
        draw_rails(Pen(self.canv, self.drawn.height), self.drawn)


class Swatch(Flowable):
    """A pile's colour and pattern."""

    def __init__(self, look: str) -> None:
        super().__init__()
        self.look = look
        self.width = self.height = 12

    def draw(self) -> None:
        Pen(self.canv, 12).box(0, 0, 12, 12, self.look)


def _line(
    words: str, size: float = 13, colour: str = INK, *, bold: bool = False, right: bool = False
) -> Paragraph:
    style = ParagraphStyle(
        "line", fontSize=size, leading=size * 1.25, textColor=colour, alignment=right * TA_RIGHT
    )
    return Paragraph(markup(words, bold=bold), style)


def _head(view: SheetView) -> list[Flowable]:
    test = view.rows.test
    shop = f"{house().name} · cutting test {test.number}"
    title = f"{test.piece_name} {test.item_number}".strip()
    row = [_line(title, 20, bold=True), _line(shop, 13, QUIET, right=True)]
    facts = [
        f"{test.weight_value} {test.weight_unit} at {money(test.price_amount)}",
        f"cut {said_day(test.started_at)}" + (f" by {test.cutter}" if test.cutter else ""),
        test.supplier,
        f"lot {test.lot}" if test.lot else "",
        test.plan_name,
        *chosen_and_seen(test),
    ]
    return [
        Table([row], colWidths=[WIDTH - 340, 340], style=BARE),
        _line(" · ".join(fact for fact in facts if fact), 12, QUIET),
        *[_line(words, 12, CAUTION) for words in opened_as(test)],
        Spacer(1, 14),
    ]


def _table(view: SheetView) -> Table:
    """The footed table: its head, a line an output, the totals."""
    heads = [f"{name} {view.unit}" if name == "weight" else name for name, _ in COLUMNS]
    lines: list[list[Flowable | str]] = [
        [_line(name, 11, QUIET, right=at > 1) for at, name in enumerate(heads)]
    ]
    for row in view.table:
        count = row.figures.count if row.figures else None
        cells = [
            signed(row.weight),
            signed(row.share),
            "" if count is None else str(count),
            row.mean,
            _money(row.cost_per_unit),
            _money(row.cost),
            _money(row.price),
            _money(row.sales),
            _share(row.margin),
        ]
        numbers = [_line(cell, right=True) for cell in cells]
        lines.append([Swatch(row.look), _line(row.name), *numbers])
    found, margin = view.sheet.figures, view.sheet.margin
    totals = {
        1: "all",
        2: pounds(found.paid, view.unit),
        3: signed(view.share_total),
        7: _money(view.cost_total),
        9: _money(view.sales_total),
        10: _share(margin.gp_percent / HUNDRED) if margin else "",
    }
    lines.append([_line(totals.get(at, ""), bold=True, right=at > 1) for at in range(len(COLUMNS))])
    return Table(lines, colWidths=[width for _, width in COLUMNS], style=RULED)


def _share(value: Any) -> str:
    return "" if value is None else percent(value).removesuffix(" %")


def _money(value: Any) -> str:
    return "" if value is None else money(value)


def _school(school: SchoolView) -> list[Flowable]:
    chosen = " (in the table)" if school.is_chosen else ""
    return [
        _line(school.name + chosen, 12, bold=True),
        _line(school.figure or "–", 18, bold=True),
        _line(school.of if school.figure else school.pencil.missing, 10, QUIET),
        _line(school.extra, 10, QUIET),
    ]


def _foot(view: SheetView, notes: list[str]) -> list[Flowable]:
    found, test = view.sheet.figures, view.rows.test
    balanced = found.balance.in_balance
    cards = [_school(school) for school in view.schools]
    words = f"Of the weight paid for: {view.shares}. {view.moved}"
    lines = [
        Spacer(1, 12),
        Table([cards], colWidths=[WIDTH / len(cards)] * len(cards), style=BARE),
        _line(view.words, colour=INK if balanced else CAUTION, bold=not balanced),
        _line(words, 12, QUIET),
    ]
    if test.approved_at:
        by = f" by {test.approved_by}" if test.approved_by else ""
        when = said_moment(test.approved_at, year=True, whole=True)
        reason = f" Reason: {test.approval_reason}" if test.approval_reason else ""
        lines.append(_line(f"Approved {when}{by}.{reason}", 12, QUIET))
    return lines + [_line(f"Note: {note}", 12, QUIET) for note in notes[:MOST_NOTES]]
