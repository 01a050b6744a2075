"""The sheet on one printed page: both rails, the table, the four schools, the balance."""

import io

from django.conf import settings
from django.utils import timezone
from reportlab.lib.pagesizes import A4, landscape, letter
from reportlab.pdfgen.canvas import Canvas

from cutting.quantities import HUNDRED
from cutting.words.pencil import money, percent, pounds, signed
from rooms.bench.queries.sheet import SheetView
from rooms.common.paper import CAUTION, INK, QUIET, RULE, Face, Pen, draw_rails

MARGIN = 30.0
WIDTH = 880.0
"""The page is laid out in the rail's own pixels and then made to fit."""
ROW = 19.0
NAME = 250.0
"""Room for an output's name beside its weight."""
COLUMNS = (
    ("output", 0, "start"),
    ("weight", 330, "end"),
    ("yield %", 400, "end"),
    ("count", 450, "end"),
    ("mean", 530, "end"),
    ("cost each", 610, "end"),
    ("cost", 680, "end"),
    ("price", 745, "end"),
    ("sales", 815, "end"),
    ("margin %", 880, "end"),
)


def as_pdf(view: SheetView, notes: list[str]) -> bytes:
    """One page, whatever the number of outputs: it is drawn smaller when it must be."""
    drawn = dict(view.rails)["wide"]
    height = 74 + drawn.height + 40 + ROW * (len(view.table) + 2) + 150 + 16 * min(len(notes), 4)
    paper = landscape(A4 if settings.SHOP["unit"] == "kg" else letter)
    scale = min((paper[0] - 2 * MARGIN) / WIDTH, (paper[1] - 2 * MARGIN) / height)
    out = io.BytesIO()
    canvas = Canvas(out, pagesize=paper, invariant=1)
    test = view.rows.test
    canvas.setTitle(f"Cutting test {test.number}: {test.piece_name}")
    canvas.translate((paper[0] - WIDTH * scale) / 2, paper[1] - MARGIN - height * scale)
    canvas.scale(scale, scale)
    pen = Pen(canvas, height)
    _head(pen, view)
    canvas.saveState()
    canvas.translate(0, -64)
    draw_rails(pen, drawn)
    canvas.restoreState()
    y = _table(pen, view, 74 + drawn.height + 20)
    _foot(pen, view, y + 14, notes)
    canvas.showPage()
    canvas.save()
    return out.getvalue()


def _head(pen: Pen, view: SheetView) -> None:
    test = view.rows.test
    pen.text((0, 20), f"{test.piece_name} {test.item_number}".strip(), Face(20, bold=True))
    pen.text(
        (WIDTH, 20), f"{settings.SHOP['name']} · cutting test {test.number}", Face(13, "end", QUIET)
    )
    facts = [
        f"{test.weight_value} {test.weight_unit} at {money(test.price_amount)}",
        f"cut {timezone.localtime(test.started_at):%d %B %Y}"
        + (f" by {test.cutter}" if test.cutter else ""),
        test.supplier,
        f"lot {test.lot}" if test.lot else "",
        test.plan_name,
    ]
    _quiet(pen, 42, " · ".join(fact for fact in facts if fact))


def _table(pen: Pen, view: SheetView, y: float) -> float:
    """The footed table; returns where it ends."""
    unit = view.unit
    for name, x, anchor in COLUMNS:
        pen.text((x, y), f"{name} {unit}" if name == "weight" else name, Face(11, anchor, QUIET))
    y += 5
    pen.line([(0, y), (WIDTH, y)], INK, 1)
    for row in view.table:
        y += ROW
        pen.box(0, y - 11, 12, 12, row.look)
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
        pen.text((18, y), pen.fit(row.name, NAME, Face(13)), Face(13))
        for (_, x, anchor), cell in zip(COLUMNS[1:], cells, strict=True):
            pen.text((x, y), cell, Face(13, anchor))
        pen.line([(0, y + 5), (WIDTH, y + 5)], RULE, 0.6)
    y += ROW
    found, margin = view.sheet.figures, view.sheet.margin
    pen.line([(0, y - ROW + 5), (WIDTH, y - ROW + 5)], INK, 1.4)
    totals = {
        1: pounds(found.paid, unit),
        2: signed(view.share_total),
        6: _money(view.cost_total),
        8: _money(view.sales_total),
        9: _share(margin.gp_percent / HUNDRED) if margin else "",
    }
    pen.text((18, y), "all", Face(13, bold=True))
    for at, cell in totals.items():
        pen.text((COLUMNS[at][1], y), cell, Face(13, "end", bold=True))
    return y


def _quiet(pen: Pen, y: float, words: str) -> None:
    """A line in the second ink, cut short where the page ends."""
    face = Face(12, colour=QUIET)
    pen.text((0, y), pen.fit(words, WIDTH, face), face)


def _share(value) -> str:
    return "" if value is None else percent(value).removesuffix(" %")


def _money(value) -> str:
    return "" if value is None else money(value)


def _foot(pen: Pen, view: SheetView, y: float, notes: list[str]) -> None:
    found, wide = view.sheet.figures, WIDTH / 4
    y += 12
    for i, school in enumerate(view.schools):
        x = i * wide
        pen.text(
            (x, y),
            school.name + (" (in the table)" if school.is_chosen else ""),
            Face(12, bold=True),
        )
        pen.text((x, y + 22), school.figure or "–", Face(18, bold=True))
        words = f"{school.of}" if school.figure else school.pencil.missing
        pen.text((x, y + 38), words[:44], Face(10, colour=QUIET))
        pen.text((x, y + 51), school.extra[:44], Face(10, colour=QUIET))
    y += 76
    balanced = found.balance.in_balance
    pen.text((0, y), view.words, Face(13, colour=INK if balanced else CAUTION, bold=not balanced))
    yields = found.yields
    words = (
        f"Of the weight paid for: main {percent(yields.main)}, saleable {percent(yields.saleable)},"
        f" usable {percent(yields.usable)}, waste {percent(yields.waste)}. {view.moved}"
    )
    _quiet(pen, y + 18, words)
    test = view.rows.test
    if test.approved_at:
        by = f" by {test.approved_by}" if test.approved_by else ""
        when = f"{timezone.localtime(test.approved_at):%d %B %Y %H:%M}"
        reason = f" Reason: {test.approval_reason}" if test.approval_reason else ""
        _quiet(pen, y + 36, f"Approved {when}{by}.{reason}")
    for i, note in enumerate(notes[:4]):
        pen.text(
            (0, y + 54 + 16 * i), pen.fit(f"Note: {note}", WIDTH, Face(12)), Face(12, colour=QUIET)
        )
