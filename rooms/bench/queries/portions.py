"""Portions of one pile while they are weighed: the next cut, how many are left, the tray."""

from dataclasses import dataclass
from decimal import Decimal

from cutting.quantities import Unit, UnitPrice, Weight
from cutting.sheet.cutting_test import OutputFigures
from cutting.sheet.portioning import Hint, expected_weight, how_many_left, next_cut
from cutting.sheet.trays import Tray, trays
from drawings import band
from rooms.bench.models import UNIT, Output, Weighing
from rooms.bench.queries.rows import target
from wording.block import hint_words, left_words, tray_words

STRIP = 430.0
"""Pixels: beside it stands how many portions lie on the scale."""


@dataclass(frozen=True)
class OnBlock:
    """What is left of the piece and what was paid for, in the piece's unit."""

    left: Decimal
    paid: Decimal
    unit: Unit


@dataclass(frozen=True)
class PortionView:
    """A counted pile with a target."""

    strip: band.Strip
    hint: Hint | None
    left: int | None
    trays: list[Tray]
    unit: str

    @property
    def left_words(self) -> str:
        return left_words(self.left)

    @property
    def hint_words(self) -> str:
        return hint_words(self.hint) if self.hint else ""

    @property
    def tray_words(self) -> str:
        return tray_words(self.trays, self.unit)


def portion_view(
    output: Output, weighings: list[Weighing], line: OutputFigures, block: OnBlock
) -> PortionView | None:
    """None for a pile that is not counted or has no target."""
    aim = target(output)
    if aim is None or not output.is_counted:
        return None
    single = [w.reading.weight for w in weighings if (w.portions or 1) == 1]
    each = line.mean if line.mean is not None else aim.to(block.unit)
    expected = expected_weight(output.share, block.paid)
    return PortionView(
        strip=band.strip(single, aim, STRIP),
        hint=next_cut(single, aim, output.thickness),
        left=how_many_left(block.left, expected, line.weight, each),
        trays=trays_of(output, weighings, block.unit),
        unit=block.unit.value,
    )


def trays_of(output: Output, weighings: list[Weighing], unit: Unit) -> list[Tray]:
    """The trays of a pile whose portions were weighed one by one; none otherwise."""
    if not output.tray_size or any((w.portions or 1) > 1 for w in weighings):
        return []
    portions: list[Weight] = [weighing.reading.weight for weighing in weighings]
    price = None if output.retail is None else UnitPrice(output.retail, UNIT[output.price_per])
    return trays(portions, output.tray_size, price, unit)
