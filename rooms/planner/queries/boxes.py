"""A piece against boxes of the pieces that one of its plans gives, at today's prices."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from decimal import Decimal

from cutting.quantities import ZERO, Unit, UnitPrice, working
from cutting.sheet.cutting_test import Piece as CorePiece
from cutting.ways.boxed import AgainstBoxes, BoxedPiece, Side, against_boxes
from rooms.bench.queries.invoice import invoice_now
from rooms.bench.queries.meat import WASTE
from rooms.catalog.models import Piece, Plan
from rooms.planner.queries.chains import goes_on_into
from rooms.planner.queries.ways import WayView
from wording.pencil import money

UNITS = ("lb", "kg")


@dataclass(frozen=True)
class BoxLine:
    """One piece of the comparison. `price`: a unit in the box, as typed or of its newest invoice; empty where
    nobody knows it."""

    key: str
    name: str
    weight: str
    price: str
    costs: str
    """Its weight at that price."""


@dataclass(frozen=True)
class BoxesView:
    plan: Plan
    lines: list[BoxLine]
    rows: list[tuple[str, str, str]]
    """What it is, of the piece itself and of the boxes; empty while a price is missing."""
    words: str
    missing: list[str]


@dataclass(frozen=True)
class Box:
    """A piece that comes in a box too. `price`: of its newest invoice; None where none came yet."""

    key: str
    name: str
    price: UnitPrice | None

    def words(self, unit: str) -> str:
        """What a unit of it costs; empty where nobody knows."""
        per = Unit(unit) if unit in UNITS else Unit.LB
        return f"{self.price.to(per):.2f}" if self.price is not None else ""


def boxes_of(piece: Piece) -> list[Box]:
    """Return the pieces of a piece that boxes give too: one query, and four where there are any."""
    pieces = goes_on_into(piece)
    known = invoice_now({one.pk for one in pieces}) if pieces else {}
    return [Box(one.key, one.shown_name, known.get(one.pk)) for one in pieces]


def boxes_view(
    bought: CorePiece,
    plan: Plan,
    way: WayView,
    boxes: Iterable[Box],
    typed: Mapping[str, Decimal],
    freight: Decimal,
    rate: Decimal | None,
) -> BoxesView | None:
    """Return a plan's whole pieces against boxes of them; None where it gives none: no query. `way`: the plan as
    it ends, as its page shows it; `typed`: prices of boxes a unit of `bought`, by the key of the piece;
    `freight`: of boxes, a unit."""
    by_key = {one.key: one for one in boxes}
    unit = bought.weight.unit
    pieces, lines, unpriced, worth = [], [], [], ZERO
    for row, one in zip(way.outputs, way.figures.way.outputs, strict=True):
        box = by_key.get(row.goes_on.partition("/")[0])
        if not one.share:
            continue
        with working():
            weight = bought.weight.value * one.share
        if box is not None:
            price = UnitPrice(typed[box.key], unit) if box.key in typed else box.price
            pieces.append(BoxedPiece(one.name, one.share, price))
            lines.append(_line(box.key, one.name, weight, unit, price))
            continue
        price = one.retail if one.goes_to_case else one.credit
        if price is not None:
            with working():
                worth += weight * price.to(unit)
        elif one.role not in WASTE:
            unpriced.append(one.name)
    if not pieces:
        return None
    missing = [one.name for one in pieces if one.price is None]
    if missing:
        return BoxesView(plan, lines, [], "", missing)
    minutes = way.figures.way.minutes or ZERO
    found = against_boxes(bought, pieces, worth, minutes, rate, freight)
    words = _words(found, bought, unit)
    if unpriced:
        words += f" No price yet for {', '.join(unpriced)}: counted as nothing."
    if not way.is_timed:
        words += f" Breaking it is taken as {minutes:.0f} minutes, an assumption."
    return BoxesView(plan, lines, _rows(found.carcass, found.boxes), words, [])


def _line(key: str, name: str, weight: Decimal, unit: Unit, price: UnitPrice | None) -> BoxLine:
    if price is None:
        return BoxLine(key, name, f"{weight:.2f} {unit}", "", "")
    per = price.to(unit)
    with working():
        costs = weight * per
    return BoxLine(key, name, f"{weight:.2f} {unit}", money(per), money(costs))


def _rows(carcass: Side, boxes: Side) -> list[tuple[str, str, str]]:
    return [
        (words, money(getattr(carcass, name)), money(getattr(boxes, name)))
        for words, name in (
            ("meat", "meat"),
            ("freight", "freight"),
            ("labor to break it", "labor"),
            ("less what else it gives", "beside"),
            ("the same pieces cost", "total"),
        )
    ]


def _words(found: AgainstBoxes, bought: CorePiece, unit: Unit) -> str:
    name = bought.name
    if not round(found.saved, 2):
        words = f"{name} and boxes cost the same."
    else:
        less = "less" if found.saved > 0 else "more"
        words = f"{name} costs {money(abs(found.saved))} {less} than boxes of the same pieces."
    if found.even_at is None:
        return words
    return f"{words} They cost the same at {money(found.even_at)} per {unit}."
