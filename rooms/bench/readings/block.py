"""The bench as it stands: rail, piles, portions, economy, last weighings."""

from dataclasses import dataclass
from decimal import Decimal

from django.utils import timezone

from cutting import band, rails
from cutting.cutting_test import CuttingTest as CoreTest
from cutting.cutting_test import Figures, OutputFigures, figures, portion_tolerance, still_on_block
from cutting.forecast import Forecast, forecast
from cutting.pencil import block_words, pounds
from cutting.quantities import Unit, UnitPrice, Weight
from rooms.bench.models import Output, Weighing
from rooms.bench.readings.looks import looks
from rooms.bench.rows import TestRows, target, to_core

KEYS = "1234567890"
LAST_SHOWN = 3
BENCH_PHONE = rails.Frame(width=350.0, size=14.0, bar=48.0)


@dataclass(frozen=True)
class PileView:
    """One pile button."""

    id: int
    name: str
    key: str
    look: str
    figures: OutputFigures
    is_chosen: bool
    is_counted: bool
    strip: band.Strip | None

    @property
    def next_portion(self) -> int:
        return (self.figures.count or 0) + 1


@dataclass(frozen=True)
class LastView:
    """One of the last weighings."""

    id: int
    pile: str
    text: str
    at: object
    remark: str


@dataclass(frozen=True)
class Economy:
    """The three figures of a glance."""

    forecast: Forecast
    usual_saleable: Decimal | None
    give_away: Decimal | None
    give_away_cost: Decimal | None


@dataclass(frozen=True)
class Block:
    """Everything at the bench that changes when a weight is taken."""

    rows: TestRows
    unit: str
    rails: tuple[rails.PoundRail, rails.PoundRail]
    piles: list[PileView]
    chosen: PileView | None
    economy: Economy
    last: list[LastView]
    words: str
    is_over: bool
    may_finish: bool


def block(rows: TestRows, chosen: str = "") -> Block:
    """The bench for one test. `chosen`: the id of the pile that was chosen last."""
    test = to_core(rows, weighed_only=False)
    found = figures(test)
    left = still_on_block(test)
    views = _piles(rows, found, chosen)
    return Block(
        rows=rows,
        unit=found.unit.value,
        rails=_rails(rows, found, left),
        piles=views,
        chosen=next((view for view in views if view.is_chosen), None),
        economy=_economy(rows, test, found),
        last=[_last(w, rows.outputs) for w in reversed(rows.standing[-LAST_SHOWN:])],
        words=block_words(left, found.balance, found.unit.value),
        is_over=left < -found.balance.allowed_gain,
        may_finish=bool(rows.standing),
    )


def _piles(rows: TestRows, found: Figures, chosen: str) -> list[PileView]:
    look = looks(rows.outputs)
    ids = {str(output.pk) for output in rows.outputs}
    if chosen not in ids and rows.outputs:
        chosen = str(rows.standing[-1].output_id if rows.standing else rows.outputs[0].pk)
    views = []
    for i, (output, line) in enumerate(zip(rows.outputs, found.outputs, strict=True)):
        aim = target(output)
        portions = [
            Weight(w.value, Unit(w.unit)) for w in rows.of(output) if (w.portions or 1) == 1
        ]
        views.append(
            PileView(
                id=output.pk,
                name=output.name,
                key=KEYS[i] if i < len(KEYS) else "",
                look=look[output.pk],
                figures=line,
                is_chosen=str(output.pk) == chosen,
                is_counted=output.is_counted,
                strip=band.strip(portions, aim) if output.is_counted and aim else None,
            )
        )
    return views


def _rails(rows: TestRows, found: Figures, left: Decimal) -> tuple:
    """The rail filling: piles with weight, purge when it is known, the rest as the open end."""
    look = looks(rows.outputs)
    unit = found.unit.value
    parts = [
        rails.Part(output.name, line.weight, pounds(line.weight, unit), look[output.pk])
        for output, line in zip(rows.outputs, found.outputs, strict=True)
        if line.weight
    ]
    purge = found.balance.purge
    weighed_purge = any(o.pile == "purge" and rows.of(o) for o in rows.outputs)
    if purge is not None and purge > 0 and not weighed_purge:
        parts.append(rails.Part("purge and short weight", purge, pounds(purge, unit), "purge"))
    if left > 0:
        name = "still on the block" if rows.test.is_open else "unaccounted"
        parts.append(rails.Part(name, left, f"{pounds(left, unit)} {unit}", "block"))
    end = f"{pounds(found.paid, unit)} {unit} paid for"
    return tuple(
        rails.pound_rail(parts, found.paid, end, frame) for frame in (rails.BENCH, BENCH_PHONE)
    )


def _economy(rows: TestRows, test: CoreTest, found: Figures) -> Economy:
    ahead = forecast(test, found, [output.share for output in rows.outputs])
    shares = [
        output.share
        for output, core in zip(rows.outputs, test.outputs, strict=True)
        if core.goes_to_case
    ]
    usual = sum(shares, Decimal(0)) if shares and None not in shares else None
    given = [line.give_away for line in found.outputs if line.give_away is not None]
    give_away = sum(given, Decimal(0)) if given else None
    cost = None
    if give_away is not None and ahead.true_cost is not None:
        cost = UnitPrice(ahead.true_cost, found.unit).to(Unit.OZ) * Weight(
            give_away, found.unit
        ).to(Unit.OZ)
    ounces = None if give_away is None else Weight(give_away, found.unit).to(Unit.OZ)
    return Economy(ahead, usual, ounces, cost)


def _last(weighing: Weighing, outputs: list[Output]) -> LastView:
    output = next(o for o in outputs if o.pk == weighing.output_id)
    remarks = []
    if weighing.portions and weighing.portions > 1:
        remarks.append(f"{weighing.portions} together")
    elif output.is_counted and (aim := target(output)) is not None:
        off = Weight(weighing.value, Unit(weighing.unit)).to(aim.unit) - aim.value
        if abs(off) > portion_tolerance(aim.value, aim.unit):
            remarks.append("over the band" if off > 0 else "under the band")
    if weighing.is_typed:
        remarks.append("typed")
    if weighing.is_over:
        remarks.append("heavier than what was left")
    return LastView(
        id=weighing.pk,
        pile=output.name,
        text=f"{weighing.value} {weighing.unit}",
        at=timezone.localtime(weighing.taken_at),
        remark=" · ".join(remarks),
    )
