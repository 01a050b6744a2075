"""Whole pieces that came off a test: what they cost, and which of them are in the cooler."""

from collections import defaultdict
from collections.abc import Collection, Sequence
from dataclasses import dataclass
from decimal import Decimal

from cutting.costing.schools import CostingSchool, unit_costs
from cutting.costing.sheet import compute
from cutting.quantities import ZERO, Unit, UnitPrice, Weight, round_half_up, working
from cutting.sheet.cutting_test import Role
from rooms.bench.models import CuttingTest, Output, PieceBag, Weighing
from rooms.bench.queries.its_bags import choices_of
from rooms.bench.queries.pile_left import left_on_piles
from rooms.bench.queries.rows import TestRows
from rooms.bench.queries.sheet import opening_school, weighed
from rooms.catalog.models import Piece
from rooms.cooler.models import Bag
from wording.pencil import money

PLACES = 4
"""Of a price that is worked out."""


@dataclass(frozen=True)
class OnSheet:
    """A weighing that may go into the cooler as a piece, or that went."""

    weighing: Weighing
    output: Output
    row: PieceBag | None = None


@dataclass(frozen=True)
class Pieces:
    """What the sheet shows of whole pieces."""

    kept: list[OnSheet]
    free: list[OnSheet]
    """The plan's whole pieces that lie on the sheet."""
    other: list[OnSheet]
    """What else goes to the case: it may be a whole piece too."""
    choices: list[tuple[str, str]]
    """Pieces of the animal by their keys, with their names."""
    bags: list[tuple[str, str]]
    """The bags it was opened from, where they are of several lots."""

    @property
    def piles(self) -> list[tuple[str, str]]:
        """The others as one is chosen of them."""
        return [(str(one.weighing.pk), f"{one.output}, {one.weighing}") for one in self.other]


def cost_of_pile(rows: TestRows, output: Output) -> UnitPrice | None:
    """Return what a unit of a pile costs by the school that the sheet opens on, else at the true cost; None
    for a pile that carries no cost."""
    sheet = compute(rows.weighed)
    place = [one.pk for one in weighed(rows)].index(output.pk)
    for school in (opening_school(sheet), CostingSchool.FLAT):
        if school is CostingSchool.REPLACEMENT:  # what it would cost elsewhere, not what it cost
            continue
        cost = unit_costs(sheet.test, sheet.figures, sheet.costing, school)[place]
        if cost is not None:
            return UnitPrice(round_half_up(cost, PLACES), sheet.figures.unit)
    return None


def goes_to_case(output: Output) -> bool:
    """Return whether a pile carries a cost: no whole piece is waste or a by-product."""
    return output.role in (Role.MAIN, Role.SECONDARY) or output.in_case


def grams_in_piece_bags(outputs: Collection[int]) -> dict[int, Decimal]:
    """Return what of each of these piles is in the cooler as whole pieces, in grams: one query."""
    found: dict[int, Decimal] = defaultdict(lambda: ZERO)
    rows = PieceBag.objects.standing().filter(output__in=outputs).order_by()
    with working():
        for output, value, unit in rows.values_list("output", "weighing__value", "weighing__unit"):
            found[output] += Weight(value, Unit(unit)).to(Unit.G)
    return found


def pieces_on(rows: TestRows, bags: Sequence[Bag]) -> Pieces | None:
    """Return the whole pieces of a finished sheet; None for a test without a bag of the cooler. `bags`: those
    it was opened from."""
    if rows.test.is_open or rows.test.imported_at is not None or not bags:
        return None
    kept_rows = PieceBag.objects.standing().filter(test=rows.test).select_related("bag__piece")
    by_weighing = {row.weighing_id: row for row in kept_rows}
    outputs = {output.pk: output for output in rows.outputs}
    left = left_on_piles([rows])
    kept: list[OnSheet] = []
    free: list[OnSheet] = []
    other: list[OnSheet] = []
    for weighing in rows.standing:
        output = outputs[weighing.output_id]
        row = by_weighing.get(weighing.pk)
        if row is not None:
            kept.append(OnSheet(weighing, output, row))
        elif goes_to_case(output) and holds(left[output.pk], weighing):
            (free if output.piece_id else other).append(OnSheet(weighing, output))
    pieces = list(Piece.objects.filter(species=rows.test.species))
    by_id = {piece.pk: piece for piece in pieces}
    for one in free:
        one.output.piece = by_id.get(one.output.piece_id)
    several = len({bag.lot_key for bag in bags}) > 1
    return Pieces(
        kept,
        free,
        other,
        [(piece.key, piece.shown_name) for piece in pieces if piece.pk != rows.test.piece_id],
        choices_of(bags) if several else [],
    )


def holds(left: Weight, weighing: Weighing) -> bool:
    """Return whether a whole weighing still lies on its pile."""
    return weighing.reading.weight.to(left.unit) <= left.value


def moved_since(test: CuttingTest, bags: Collection[Bag]) -> list[str]:
    """Return what changed on a piece cut here after this test was opened from it, in words: its sheet was
    corrected since. One query, none for other bags."""
    cut = [bag for bag in bags if bag.cut_of_id is not None]
    if not cut or len(cut) < len(bags):
        return []
    unit, found = Unit(test.weight_unit), []
    with working():
        whole = sum((bag.weight.to(unit) for bag in cut), ZERO)
        back = sum((one.weight.to(unit) for one in Bag.objects.filter(part_of__in=cut)), ZERO)
    held = round_half_up(whole - back, 3)
    if held != round_half_up(test.weight_value, 3):
        found.append(f"weighs {held.normalize():f} {unit}, not {test.weight_value:f}")
    first = cut[0]
    now = UnitPrice(first.price_amount, Unit(first.price_per)).to(Unit(test.price_per))
    if round_half_up(now, PLACES) != round_half_up(test.price_amount, PLACES):
        found.append(f"costs {money(now)} per {test.price_per}, not {money(test.price_amount)}")
    return found
