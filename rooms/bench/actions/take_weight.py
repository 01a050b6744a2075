"""Taking a weight: the one action that must never lose anything."""

from dataclasses import dataclass
from decimal import Decimal
from uuid import UUID

from django.conf import settings
from django.db import IntegrityError, transaction
from django.utils import timezone

from cutting.cutting_test import figures, left_of, was_on_block
from cutting.errors import BadValue
from cutting.quantities import Unit, Weight, parse_decimal, parse_unit
from rooms.bench.models import CuttingTest, Output, Weighing
from rooms.bench.rows import ROLE, TestRows, load, to_core, to_piece
from rooms.common.errors import BadInput, Refused
from rooms.common.forms import tidy

MOST_PORTIONS = 200


@dataclass(frozen=True)
class Capture:
    """A weighing as the page sent it: text, not yet checked. Typed weights are marked."""

    key: str
    output: str
    value: str
    unit: str
    division: str = ""
    portions: str = ""
    is_typed: bool = False


def take_weight(test_id: UUID, capture: Capture, by_id: int | None, at=None) -> TestRows:
    """Record one weighing and return the test as it now stands.

    On disk when this returns. The same key again changes nothing. A weighing heavier than
    what is left is recorded and flagged. Raises BadInput for a wrong value, Refused when the
    test is finished.
    """
    key = _key(capture.key)
    try:
        return _record(test_id, key, capture, by_id, at or timezone.now())
    except IntegrityError:
        raise BadInput("Key: it already names a weighing of another test.") from None


def _record(test_id: UUID, key: UUID, capture: Capture, by_id: int | None, at) -> TestRows:
    with transaction.atomic():
        rows = load(test_id)
        if rows is None:
            raise BadInput("Test: there is no such test.")
        if any(weighing.key == key for weighing in rows.weighings):
            return rows
        weight, division = _checked(capture)
        must_be_open(rows.test, f"{weight} was not recorded")
        output = next((o for o in rows.outputs if str(o.pk) == capture.output), None)
        if output is None:
            raise BadInput(f"Pile: {weight} was sent for no pile of this test; choose a pile.")
        portions = _portions(capture.portions) if output.is_counted else None
        weighing = Weighing(
            key=key, test=rows.test, output=output, value=weight.value, unit=weight.unit.value,
            division=division, portions=portions, is_typed=capture.is_typed,
            is_over=_is_over(rows, output, weight), taken_at=at, taken_by_id=by_id,
        )  # fmt: skip
        weighing.save(force_insert=True)
        weighing.back_id = None
    return TestRows(rows.test, rows.outputs, [*rows.weighings, weighing])


def must_be_open(test: CuttingTest, consequence: str) -> None:
    """Refuse a change to a finished test, saying what was not done."""
    if not test.is_open:
        when = timezone.localtime(test.finished_at)
        raise Refused(f"This test was finished on {when:%d %B at %H:%M}; {consequence}.")


def _key(text: str) -> UUID:
    try:
        return UUID(text)
    except ValueError:
        raise BadInput("Key: the weighing came without its own key; load the page again.") from None


def _checked(capture: Capture) -> tuple[Weight, Decimal | None]:
    """The weight and its division. Raises BadInput naming field, value and what is right."""
    try:
        unit = parse_unit(capture.unit, "Unit")
        weight = Weight(parse_decimal(tidy(capture.value), "Weight"), unit)
        division = parse_decimal(capture.division, "Division") if capture.division else None
    except BadValue as bad:
        raise BadInput(str(bad)) from bad
    if weight.value <= 0:
        raise BadInput(f"Weight: {weight} cannot be recorded; more than 0 is right.")
    if division is not None and not 0 < division <= 1000:
        raise BadInput(f"Division: {division} is not a scale division; 0.01 is usual.")
    capacity = Weight.of(settings.SCALE["capacity"], settings.SCALE["unit"])
    if weight.to(Unit.G) > capacity.to(Unit.G):
        raise BadInput(
            f"Weight: {weight} is over the scale's {capacity}; weigh it in parts of at most that."
        )
    return weight, division


def _portions(text: str) -> int:
    if not text:
        return 1
    if not (text.isascii() and text.isdecimal() and 1 <= int(text[:9]) <= MOST_PORTIONS):
        raise BadInput(
            f"Portions: {text[:20]} is not a number of portions; 1 to {MOST_PORTIONS} is right."
        )
    return int(text)


def _is_over(rows: TestRows, output: Output, weight: Weight) -> bool:
    """Heavier than what is left, beyond what rounding and two scales explain."""
    piece = to_piece(rows.test)
    on_block = {o.pk for o in rows.outputs if was_on_block(ROLE[o.role], piece)}
    if output.pk not in on_block:
        return False
    taken = [w.reading.weight for w in rows.standing if w.output_id in on_block]
    beyond = weight.to(piece.weight.unit) - left_of(piece, taken)
    if beyond <= 0:
        return False
    return beyond > figures(to_core(rows, weighed_only=True)).balance.allowed_gain
