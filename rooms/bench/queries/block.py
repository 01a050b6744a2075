"""The bench as it stands: rail, piles, portions, economy, last weighings."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import datetime, timedelta
from decimal import Decimal
from functools import cached_property
from typing import Any

from django.utils import timezone

from cutting.costing.sheet import at_cost
from cutting.quantities import HUNDRED, ZERO, Unit, Weight, round_half_up
from cutting.sheet.cutting_test import CuttingTest as CoreTest
from cutting.sheet.cutting_test import (
    Figures,
    OutputFigures,
    figures,
    still_on_block,
)
from cutting.sheet.forecast import forecast
from cutting.sheet.portioning import off_band
from drawings import rails
from drawings.bar import BarPart, Frame
from rooms.bench.models import Output, Weighing
from rooms.bench.queries.portions import OnBlock, PortionView, portion_view
from rooms.bench.queries.rows import TestRows, target
from rooms.bench.queries.tub_entries import gross_of
from rooms.catalog.queries.looks import looks
from rooms.shop.queries.dates import said_moment, said_time
from wording.pencil import block_words, money, percent, pounds

KEYS = "1234567890"
LAST_SHOWN = 3
CLOCK_MAY_DIFFER = timedelta(minutes=2)
"""A scale's own clock may be ahead of the machine's by less."""
BAND_WORDS = {1: ["over the band"], -1: ["under the band"], 0: []}
GLASSES = {
    "wide": replace(rails.BENCH, rows=2),
    "narrow": Frame(width=350.0, size=14.0, bar=48.0, rows=2),
}


@dataclass(frozen=True)
class PileView:
    """One pile button."""

    output: Output
    key: str
    look: str
    figures: OutputFigures
    unit: str
    is_chosen: bool
    weighings: list[Weighing]
    on_block: OnBlock

    @property
    def weight(self) -> str:
        return pounds(self.figures.weight, self.unit) if self.weighings else "–"

    @property
    def note(self) -> str:
        """Count and share, or that there is none yet."""
        tub = f" · tub {self.output.tub}" if self.output.tub_id else ""
        if not self.weighings:
            return f"none yet{tub}"
        count = f"{self.figures.count} · " if self.figures.count else ""
        return f"{count}{percent(self.figures.share)}{tub}"

    @property
    def id(self) -> int:
        return self.output.pk

    @property
    def name(self) -> str:
        return self.output.name

    @property
    def tub(self) -> Any:
        return self.output.tub if self.output.tub_id else None

    @cached_property
    def tub_gross(self) -> Decimal:
        """What the scale showed last with the tub on it: one query, only for a pile in a tub."""
        return gross_of(self.output.tub)

    @property
    def is_counted(self) -> bool:
        return self.output.is_counted

    @property
    def next_portion(self) -> int:
        return (self.figures.count or 0) + 1

    @cached_property
    def portions(self) -> PortionView | None:
        """Single portions against the target; made only when it is drawn."""
        return portion_view(self.output, self.weighings, self.figures, self.on_block)


@dataclass(frozen=True)
class LastView:
    """One of the last weighings."""

    id: int
    pile_id: int
    pile: str
    text: str
    note: str
    """What is remarkable about it, and when it was taken."""


@dataclass(frozen=True)
class Glance:
    """One of the three figures of economy: its name, the figure, a note under it."""

    name: str
    figure: str
    note: str


@dataclass(frozen=True)
class Glass:
    """The tablet that asks: its width, the pile chosen on it, the revision it has seen."""

    width: str = ""
    chosen: str = ""
    seen: str = ""
    has_taken: bool = False
    """It asks with a weighing of its own, so when it lags by one, that is all that is new."""


@dataclass(frozen=True)
class Block:
    """Everything at the bench that changes when a weight is taken."""

    rows: TestRows
    unit: str
    rails: list[tuple[str, rails.PoundRail]]
    """The rail for each glass that asked for it."""
    piles: list[PileView]
    changed: list[PileView]
    """Piles that the glass must draw again."""
    chosen: PileView | None
    economy: list[Glance]
    last: list[LastView]
    words: str
    is_over: bool
    clock: str
    """That the machine's clock went back; empty while it goes on."""


def block(rows: TestRows, glass: Glass) -> Block:
    """The bench for one test, for one glass. A glass of no width gets the rails of all widths."""
    test = rows.whole
    found = figures(test)
    left = still_on_block(test, found)
    views = _piles(rows, found, glass.chosen, left)
    glasses = [glass.width] if glass.width in GLASSES else list(GLASSES)
    return Block(
        rows=rows,
        unit=found.unit.value,
        rails=_rails(rows, found, left, glasses),
        piles=views,
        changed=_changed(rows, views, glass),
        chosen=next((view for view in views if view.is_chosen), None),
        economy=_economy(rows, test, found),
        last=[_last(w, rows.outputs) for w in reversed(rows.standing[-LAST_SHOWN:])],
        words=block_words(left, found.balance, found.unit.value),
        is_over=left < -found.balance.allowed_gain,
        clock=clock_went_back(rows.standing, timezone.now()),
    )


def clock_went_back(weighings: Sequence[Weighing], now: datetime) -> str:
    """What is told where a weighing is of a later moment than now. Their order is that in which they came,
    whatever the clock says."""
    last = max((one.taken_at for one in weighings), default=now)
    if last <= now + CLOCK_MAY_DIFFER:
        return ""
    return (
        f"The clock of the shop's machine went back: a weighing is of {said_moment(last)}, and it says"
        f" {said_moment(now)} now. Weighings keep their order. Have the clock set."
    )


def _piles(rows: TestRows, found: Figures, chosen: str, left: Decimal) -> list[PileView]:
    look = looks(rows.outputs)
    shown = rows.piles
    ids = {str(output.pk) for output in shown}
    if chosen not in ids and shown:
        last = str(rows.standing[-1].output_id) if rows.standing else ""
        chosen = last if last in ids else str(shown[0].pk)
    views = []
    on_block = OnBlock(left, found.paid, found.unit)
    lines = {o.pk: line for o, line in zip(rows.outputs, found.outputs, strict=True)}
    for i, output in enumerate(shown):
        views.append(
            PileView(
                output=output,
                key=KEYS[i] if i < len(KEYS) else "",
                look=look[output.pk],
                figures=lines[output.pk],
                unit=found.unit.value,
                is_chosen=str(output.pk) == chosen,
                weighings=rows.of(output),
                on_block=on_block,
            )
        )
    return views


def _changed(rows: TestRows, views: list[PileView], glass: Glass) -> list[PileView]:
    """Only the pile of the last weighing, when that is all that is new to the glass."""
    if rows.weighings and glass.seen == str(rows.revision - 1):
        last = rows.weighings[-1]
        if last.back_id is None and glass.has_taken:
            return [view for view in views if view.id == last.output_id]
    return views


def _rails(rows: TestRows, found: Figures, left: Decimal, glasses: Sequence[str]) -> list[Any]:
    """The rail filling: piles with weight, purge when it is known, the rest as the open end."""
    look = looks(rows.outputs)
    unit = found.unit.value
    parts = [
        BarPart(output.name, line.weight, pounds(line.weight, unit), look[output.pk])
        for output, line in zip(rows.outputs, found.outputs, strict=True)
        if line.weight
    ]
    purge = found.balance.purge
    weighed_purge = any(o.pile == "purge" and rows.of(o) for o in rows.outputs)
    if purge is not None and purge > 0 and not weighed_purge:
        parts.append(BarPart("purge and short weight", purge, pounds(purge, unit), "purge"))
    if left > 0:
        name = "still on the block" if rows.test.is_open else "unaccounted"
        parts.append(BarPart(name, left, f"{pounds(left, unit)} {unit}", "block"))
    end = f"{pounds(found.paid, unit)} {unit} paid for"
    return [(glass, rails.pound_rail(parts, found.paid, end, GLASSES[glass])) for glass in glasses]


def _economy(rows: TestRows, test: CoreTest, found: Figures) -> list[Glance]:
    """Saleable share, margin and give-away, if the rest goes as usual."""
    ahead = forecast(
        test, found, [o.share if o.merged_into_id is None else ZERO for o in rows.outputs]
    )
    pairs = zip(rows.outputs, test.outputs, strict=True)
    shares = [
        output.share
        for output, core in pairs
        if core.goes_to_case and output.merged_into_id is None
    ]
    plan = f"plan {percent(sum(shares, Decimal(0)))}" if shares and None not in shares else ""
    cost = ahead.true_cost
    if ahead.gp_percent is None:
        margin = Glance("Gross margin", "–", "a price is missing")
    else:
        note = f"true cost {money(cost)} a {found.unit}" if cost is not None else ""
        margin = Glance("Gross margin", percent(ahead.gp_percent / HUNDRED), note)
    given = [line.give_away for line in found.outputs if line.give_away is not None]
    give_away = Glance("Give-away", "–", "")
    if given:
        total = sum(given, Decimal(0))
        ounces = round_half_up(Weight(total, found.unit).to(Unit.OZ), 1)
        lost = at_cost(cost, total)
        note = "" if lost is None else f"{money(lost)} at cost"
        give_away = Glance("Give-away", f"{ounces} oz", note)
    return [Glance("Saleable", percent(ahead.saleable), plan), margin, give_away]


def _last(weighing: Weighing, outputs: list[Output]) -> LastView:
    output = next(o for o in outputs if o.pk == weighing.output_id)
    remarks = []
    if weighing.portions and weighing.portions > 1:
        remarks.append(f"{weighing.portions} together")
    elif output.is_counted and (aim := target(output)) is not None:
        remarks += BAND_WORDS[off_band(weighing.reading.weight, aim)]
    if weighing.is_typed:
        remarks.append("typed")
    if weighing.before is not None and not weighing.is_typed:
        remarks.append("by difference")
    if weighing.moved_id is not None:
        remarks.append("moved here")
    if weighing.is_over:
        remarks.append("heavier than what was left")
    remarks.append(said_time(weighing.taken_at, seconds=True))
    text = str(weighing)
    if weighing.before is not None:  # from a tub of converted weights: the column keeps them all
        text = f"{pounds(weighing.value, weighing.unit)} {weighing.unit}"
    return LastView(weighing.pk, output.pk, output.name, text, " · ".join(remarks))
