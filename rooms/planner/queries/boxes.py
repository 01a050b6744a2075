"""A piece against boxes of the pieces that one of its plans gives, at today's prices."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from decimal import Decimal

from cutting.plans.boxed import AgainstBoxes, BoxedPiece, Side, against_boxes
from cutting.quantities import ZERO, Unit, UnitPrice, working
from cutting.sheet.cutting_test import Piece as CorePiece
from cutting.sheet.cutting_test import Role
from cutting.words.pencil import money
from rooms.bench.queries.invoice import invoice_now
from rooms.catalog.models import Piece, Plan, PlanOutput
from rooms.planner.queries.asking import pace_of
from rooms.planner.queries.chains import goes_on_into
from rooms.planner.queries.ways import Priced, WaysView, shares_of

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
    view: WaysView,
    boxes: Iterable[Box],
    typed: Mapping[str, Decimal],
    freight: Decimal,
    rate: Decimal | None,
) -> BoxesView | None:
    """Return a plan's whole pieces against boxes of them; None where it gives none: no query. `typed`: prices
    of boxes a unit of `bought`, by the key of the piece; `freight`: of boxes, a unit."""
    outputs = view.every.outputs.get(plan.address, [])
    tests = view.tests.get(plan.pk)
    shares = shares_of(outputs, tests)
    by_key = {one.key: one for one in boxes}
    unit = bought.weight.unit
    pieces, lines, beside = [], [], []
    for row in outputs:
        box = by_key.get(row.goes_on.partition("/")[0])
        if not shares[row.name]:
            continue
        if box is None:
            beside.append(row)
            continue
        price = UnitPrice(typed[box.key], unit) if box.key in typed else box.price
        pieces.append(BoxedPiece(row.name, shares[row.name], price))
        with working():
            weight = bought.weight.value * shares[row.name]
            shown = (money(price.to(unit)), money(weight * price.to(unit))) if price else ("", "")
        lines.append(BoxLine(box.key, row.name, f"{weight:.2f} {unit}", *shown))
    if not pieces:
        return None
    missing = [one.name for one in pieces if one.price is None]
    if missing:
        return BoxesView(plan, lines, [], "", missing)
    pace, is_measured = pace_of(plan, tests)
    with working():
        minutes = pace * bought.weight.to(Unit.LB)
    worth, unpriced = _beside(beside, shares, bought, view.priced)
    found = against_boxes(bought, pieces, worth, minutes, rate, freight)
    words = _words(found, bought, unit)
    if unpriced:
        words += f" No price yet for {', '.join(unpriced)}: counted as nothing."
    if not is_measured:
        words += f" Breaking it is taken as {minutes:.0f} minutes, an assumption."
    return BoxesView(plan, lines, _rows(found.carcass, found.boxes), words, [])


def _beside(
    rows: list[PlanOutput], shares: Mapping[str, Decimal], bought: CorePiece, priced: Priced
) -> tuple[Decimal, list[str]]:
    """What all else of the piece brings at today's prices, and what has none."""
    unit = bought.weight.unit
    total, unpriced = ZERO, []
    with working():
        for row in rows:
            is_sold = row.role in (Role.MAIN, Role.SECONDARY) or row.in_case
            if row.cut_id is None or (not is_sold and row.role != Role.CREDIT):
                continue
            price = (priced.retail if is_sold else priced.credit).get(row.cut_id)
            if price is None:
                unpriced.append(row.name)
                continue
            total += bought.weight.value * shares[row.name] * price.to(unit)
    return total, unpriced


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
