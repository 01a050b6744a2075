"""Taking a weight: the one action that must never lose anything."""

from dataclasses import dataclass, field, replace
from datetime import datetime
from decimal import Decimal
from typing import Any
from uuid import UUID

from django.db import IntegrityError
from django.utils import timezone

from cutting.errors import BadValue
from cutting.quantities import Unit, Weight, parse_decimal, parse_unit, storable, working
from cutting.sheet.cutting_test import figures, left_of, was_on_block
from rooms.bench.actions.lay import keep_asked, lay_again
from rooms.bench.actions.ledger import Acting, fill
from rooms.bench.actions.reading import Proof, Proven, believed, earlier, proven
from rooms.bench.models import UNIT, Output, Tub, Weighing
from rooms.bench.rules.revision import touch
from rooms.bench.rules.rows import (
    ROLE,
    TestRows,
    just_taken,
    must_be_open,
    must_load,
    to_piece,
)
from rooms.bench.rules.scales import scale_named, scales
from rooms.bench.rules.tubs import gross_of
from rooms.common.errors import BadInput, Refused
from rooms.common.forms import tidy
from rooms.common.keys import own_key
from rooms.common.lengths import must_fit
from rooms.common.loading import Adding
from rooms.common.writing import in_turn

MOST_PORTIONS = 200
ADD_WEIGHING = Adding(Weighing)


@dataclass(frozen=True)
class Capture:
    """A weighing as the page sent it: text, not yet checked.

    `value` is what the pile gets. With a `proof` it is what the scale showed, or, with `before`
    (the signed reading before) or `tub_before` (what the tub showed last), the difference.
    """

    key: str
    output: str
    value: str
    unit: str
    division: str = ""
    portions: str = ""
    is_typed: bool = False
    proof: Proof | None = None
    before: str = ""
    tub_before: str = ""


@dataclass(frozen=True)
class ProvenWeight:
    """What the proof says beyond the weight itself: columns of the row."""

    at: datetime | None = None
    columns: dict[str, object] = field(default_factory=dict)
    is_typed: bool = False


def take_weight(test_id: UUID, capture: Capture, by_id: int | None, at: Any = None) -> TestRows:
    """Record one weighing and return the test as it now stands.

    On disk when this returns. The same key again changes nothing. A weighing heavier than
    what is left is recorded and flagged. Without a scale's signature it is marked as typed.
    Raises BadInput for a wrong value or signature, Refused when the test is finished or the tub
    has changed.
    """
    key = own_key(capture.key)
    try:
        rows = _record(test_id, key, capture, by_id, at or timezone.now())
    except IntegrityError:
        raise BadInput(_taken_before(capture)) from None
    lay_again(rows)
    return rows


def _taken_before(capture: Capture) -> str:
    proof = capture.proof or Proof()
    if proof.sequence.isascii() and proof.sequence.isdecimal() and len(proof.sequence) < 19:
        same = Weighing.objects.select_related("output").filter(
            scale=proof.scale, run=proof.run, sequence=proof.sequence
        )
        if one := same.first():
            return f"Reading: it was taken already, {one} for {one.output}; change the load."
    return "Key: it already names a weighing of another test."


def _record(test_id: UUID, key: UUID, capture: Capture, by_id: int | None, now: Any) -> TestRows:
    with in_turn():
        rows = must_load(test_id)
        if any(weighing.key == key for weighing in rows.weighings):
            return rows
        weight, division = _checked(capture)
        must_be_open(rows.test, f"{weight} was not recorded")
        output = _pile(rows, capture.output)
        if output is None:
            raise BadInput(f"Pile: {weight} was sent for no pile of this test; choose a pile.")
        portions = _portions(capture.portions) if output.is_counted else None
        found = _found(capture, output, weight)
        weighing = Weighing(
            key=key,
            test=rows.test,
            output=output,
            value=weight.value,
            unit=weight.unit.value,
            division=division,
            portions=portions,
            is_typed=found.is_typed,
            is_over=_is_over(rows, output, weight),
            taken_by_id=by_id,
            taken_at=believed(found.at, rows.test.started_at, now),
            **found.columns,
        )
        must_fit(weighing)
        ADD_WEIGHING(weighing)
        asked = keep_asked(rows, weighing) if rows.test.has_layout else {}
        if output.tub_id is not None:
            shown = None if found.is_typed else weighing.gross
            fill(Acting(rows.test, by_id, now), output.tub, weighing, shown)
        touch(rows.test)
    after = TestRows(rows.test, rows.outputs, [*rows.weighings, just_taken(weighing)])
    if rows.laid is not None:
        after.laid = replace(rows.laid, rows=after, asked=asked)
    return after


def _pile(rows: TestRows, wanted: str) -> Output | None:
    """The pile; when it was merged into another since, that one."""
    by_id = {str(output.pk): output for output in rows.outputs}
    output = by_id.get(wanted)
    while output is not None and output.merged_into_id is not None:
        output = by_id.get(str(output.merged_into_id))
    return output


def _found(capture: Capture, output: Output, weight: Weight) -> ProvenWeight:
    """What is proven. The value must be what the scale showed, or the difference it made."""
    if capture.is_typed or capture.proof is None:
        return ProvenWeight(columns=_typed_into(output.tub, weight), is_typed=True)
    now = proven(capture.proof)
    columns = {"scale": now.scale.name, "run": now.run, "sequence": now.sequence}
    if now.tare:
        columns["tare"] = now.tare
    right, before = now.weight, None
    if output.tub_id is not None:
        before = _tub_before(output.tub, now, capture.tub_before)
        columns["tub_id"] = output.tub_id
    elif capture.before:
        before = earlier(capture.before, now).gross
    if before is not None:
        with working():
            right = now.gross - before
        columns |= {"before": before, "gross": now.gross}
    if weight.value != right or weight.unit.value != now.unit:
        raise BadInput(
            f"Weight: {weight} is not what the scale showed; {right} {now.unit} is right."
        )
    return ProvenWeight(now.at, columns)


def _typed_into(tub: Tub | None, weight: Weight) -> dict[str, object]:
    """A typed weight makes its tub as much heavier."""
    if tub is None:
        return {}
    stands = gross_of(tub)
    with working():
        gross = stands + storable(weight, UNIT[tub.unit]).value
    return {"tub_id": tub.pk, "before": stands, "gross": gross}


def _tub_before(tub: Tub, now: Proven, seen: str) -> Decimal:
    """What the tub showed last; the page must have seen the same."""
    if now.unit != tub.unit:
        raise BadInput(f"Unit: the tub {tub} is weighed in {tub.unit}; change the scale's unit.")
    stands = gross_of(tub)
    if seen != f"{stands:f}":
        raise Refused(
            f"Tub {tub}: this page saw it at {seen[:20] or 'nothing'}, it stands at {stands:f}"
            f" {tub.unit}. Nothing was recorded; weigh the tub again."
        )
    return stands


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
    scale = scale_named(capture.proof.scale if capture.proof else "") or scales()[0]
    capacity = Weight.of(scale.capacity, scale.unit)
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
    return beyond > figures(rows.weighed).balance.allowed_gain
