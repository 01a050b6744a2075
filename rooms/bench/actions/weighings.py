"""Weighings: taken, taken back, placed by hand."""

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
from rooms.bench.actions.layout import keep_asked, lay_again
from rooms.bench.actions.revision import touch
from rooms.bench.actions.tubs import Acting, fill, take_out
from rooms.bench.models import (
    UNIT,
    CuttingTest,
    Move,
    Output,
    Placed,
    TakeBack,
    Tub,
    Unplaced,
    Weighing,
)
from rooms.bench.queries.reading import Proof, Proven, believed, earlier, proven
from rooms.bench.queries.rows import (
    ROLE,
    TestRows,
    just_taken,
    load_known,
    must_be_open,
    must_load,
    open_rows,
    to_piece,
)
from rooms.bench.queries.scales import scale_named, scales
from rooms.bench.queries.tub_entries import gross_of
from rooms.common.db.keys import own_key
from rooms.common.db.lengths import must_fit
from rooms.common.db.loading import Adding
from rooms.common.db.writing import Recorded, Sent, write
from rooms.common.errors import BadInput, Refused
from rooms.common.web.forms import tidy
from rooms.shop.queries.dates import said_moment

SHORTEST_REASON, LONGEST_REASON = 3, 200
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
    tub: str | None = None
    """The tub that the page saw its pile go into, empty for none; None from a page that does not say."""


class _NotPlaced(Exception):
    """Why a weighing cannot go where it was sent."""


@dataclass(frozen=True)
class ProvenWeight:
    """What the proof says beyond the weight itself: columns of the row."""

    at: datetime | None = None
    columns: dict[str, object] = field(default_factory=dict)
    is_typed: bool = False


def take_weight(test_id: UUID, capture: Capture, by_id: int | None, at: Any = None) -> TestRows:
    """Record one weighing and return the test as it now stands.

    On disk when this returns. The same key with the same content changes nothing. A weighing heavier than
    what is left is recorded and flagged. Without a scale's signature it is marked as typed. One that cannot
    go where it was sent (test finished or voided, tub closed or weighed by another since) is recorded as
    not placed: it was weighed, and the page that waited could not know.

    Raises BadInput for a wrong value or signature, KeyTaken for a key that came with other content.
    """
    key = own_key(capture.key)
    try:
        rows = _record(test_id, key, capture, by_id, at or timezone.now())
    except IntegrityError:
        raise BadInput(_taken_before(capture)) from None
    if rows.test.is_open:
        lay_again(rows)
    return rows


def _taken_before(capture: Capture) -> str:
    reading = _reading_of(capture.proof or Proof())
    if reading is not None:
        same = Weighing.objects.select_related("output").filter(**reading)
        if one := same.first():
            return f"Reading: it was taken already, {one} for {one.output}; change the load."
    return "Key: it already names a weighing of another test."


def _reading_of(proof: Proof) -> dict[str, str] | None:
    """What names a reading of a scale; None for one that names none."""
    number = proof.sequence
    if not (number.isascii() and number.isdecimal() and len(number) < 19):
        return None
    return {"scale": proof.scale, "run": proof.run, "sequence": number}


def _sent(test_id: UUID, key: UUID, capture: Capture, weight: Weight) -> Sent:
    proof = capture.proof or Proof()
    values = {
        "test": test_id,
        "pile": capture.output,
        "weight": weight,
        "portions": _portions(capture.portions),
        "reading": [proof.scale, proof.run, proof.sequence] if proof.signature else None,
    }
    return Sent(key, "weighing", f"{weight}", values)


def _recorded(rows: TestRows, sent: Sent) -> Recorded | None:
    """A weighing of this key, for one that is older than its digest: its pile and weight as they were first
    recorded. Where its pile was merged since, the pile as sent is not known."""
    taken = next((one for one in rows.weighings if one.key == sent.key), None)
    if taken is None:
        return None
    pile = str(taken.first_output_id)
    merged = {str(one.pk) for one in rows.outputs if one.merged_into_id is not None}
    first = {"weight": taken.reading.weight} | (
        {} if sent.values["pile"] in merged else {"pile": pile}
    )
    return Recorded(taken, {**sent.values, **first})


def _record(test_id: UUID, key: UUID, capture: Capture, by_id: int | None, now: Any) -> TestRows:
    weight, division = _checked(capture)
    sent = _sent(test_id, key, capture, weight)
    found: list[TestRows] = []

    def recorded() -> Recorded | None:
        found.append(must_load(test_id))
        return _recorded(found[0], sent)

    with write(key=sent, recorded=recorded) as door:
        (rows,) = found
        if door.first is not None:
            return rows
        output = _pile(rows, capture.output)
        if output is None:
            raise BadInput(f"Pile: {weight} was sent for no pile of this test; choose a pile.")
        try:
            proof = _found(capture, output, weight)
            _can_go(rows.test, output, capture)
        except _NotPlaced as why:
            _keep_unplaced(
                rows, output, _Taken(key, capture, weight, division, by_id, now), str(why)
            )
            return rows
        weighing = Weighing(
            key=key,
            test=rows.test,
            output=output,
            value=weight.value,
            unit=weight.unit.value,
            division=division,
            portions=_portions(capture.portions) if output.is_counted else None,
            is_typed=proof.is_typed,
            is_over=_is_over(rows, output, weight),
            taken_by_id=by_id,
            taken_at=believed(proof.at, rows.test.started_at, now),
            **proof.columns,
        )
        return _add(rows, weighing, proof, Acting(rows.test, by_id, now), capture.output)


def _add(
    rows: TestRows, weighing: Weighing, proof: ProvenWeight, acting: Acting, wanted: str
) -> TestRows:
    """The weighing with all that follows from it. `wanted`: the pile that it was sent for, which a merge may
    have taken away since: then it comes back with that pile when the merge is undone."""
    output = weighing.output
    if rows.test.unplaced_waits and weighing.sequence is not None and _is_unplaced(weighing):
        raise IntegrityError
    must_fit(weighing)
    ADD_WEIGHING(weighing)
    if wanted != str(output.pk):
        _follow_merges(rows, weighing, wanted, acting)
    asked = keep_asked(rows, weighing) if rows.test.has_layout else {}
    if output.tub_id is not None:
        shown = None if proof.is_typed else weighing.gross
        fill(acting, output.tub, weighing, shown)
    touch(rows.test)
    after = TestRows(rows.test, rows.outputs, [*rows.weighings, just_taken(weighing)])
    if rows.laid is not None:
        after.laid = replace(rows.laid, rows=after, asked=asked)
    return after


def _follow_merges(rows: TestRows, weighing: Weighing, wanted: str, acting: Acting) -> None:
    by_id = {str(output.pk): output for output in rows.outputs}
    at = by_id[wanted]
    while at.merged_into_id is not None:
        into = by_id[str(at.merged_into_id)]
        Move.objects.create(
            weighing=weighing, to=into, merged_from=at, at=acting.at, by_id=acting.by_id
        )
        at = into


def _is_unplaced(weighing: Weighing) -> bool:
    """Whether the same reading lies among those that nobody has placed: it is placed there."""
    names = ("scale", "run", "sequence")
    return Unplaced.objects.waiting().filter(**{n: getattr(weighing, n) for n in names}).exists()


def _can_go(test: CuttingTest, output: Output, capture: Capture) -> None:
    """Raises _NotPlaced where the page that sent it could not know what became of its test or tub."""
    if test.voided_at is not None:
        raise _NotPlaced(f"test {test.number} was voided")
    if not test.is_open:
        raise _NotPlaced(f"test {test.number} was finished on {said_moment(test.finished_at)}")
    now = str(output.tub_id or "")
    if capture.tub is not None and capture.tub != now:
        into = f"the tub {output.tub}" if output.tub_id else "no shared tub"
        raise _NotPlaced(f"{output} goes into {into} by now")
    if output.tub_id is not None and output.tub.closed_at is not None:
        raise _NotPlaced(f"the tub {output.tub} was closed")


@dataclass(frozen=True)
class _Taken:
    key: UUID
    capture: Capture
    weight: Weight
    division: Decimal | None
    by_id: int | None
    now: Any


def _keep_unplaced(rows: TestRows, output: Output, taken: _Taken, why: str) -> None:
    """Recorded all the same, with its reading and who took it; counts on no sheet."""
    capture = taken.capture
    is_typed = capture.is_typed or capture.proof is None
    columns: dict[str, Any] = {}
    moment = None
    if not is_typed and capture.proof is not None:
        now = proven(capture.proof)
        columns = {"scale": now.scale.name, "run": now.run, "sequence": now.sequence}
        columns["tare"] = now.tare or None
        moment = now.at
        if Weighing.objects.filter(
            scale=now.scale.name, run=now.run, sequence=now.sequence
        ).exists():
            raise IntegrityError
    row = Unplaced(
        key=taken.key,
        test=rows.test,
        output=output,
        value=taken.weight.value,
        unit=taken.weight.unit.value,
        division=taken.division,
        portions=_portions(capture.portions) if output.is_counted else None,
        is_typed=is_typed,
        why=why[:300],
        taken_at=believed(moment, rows.test.started_at, taken.now),
        taken_by_id=taken.by_id,
        came_at=taken.now,
        **columns,
    )
    row.save(force_insert=True)
    rows.test.unplaced_waits = True
    touch(rows.test)


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
        raise _NotPlaced(
            f"the tub {tub} was weighed by another since: this page saw it at"
            f" {seen[:20] or 'nothing'}, it stands at {stands:f} {tub.unit}"
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


def take_back(test_id: UUID, weighing_id: str, by_id: int | None) -> TestRows:
    """Take back one weighing of the test. A repeat changes nothing."""
    with write():
        rows = must_load(test_id)
        weighing = next((w for w in rows.weighings if str(w.pk) == weighing_id), None)
        if weighing is None:
            raise BadInput("Take back: there is no such weighing in this test.")
        if weighing.back_id is not None:
            return rows
        must_be_open(rows.test, f"{weighing} stays")
        now = timezone.now()
        back = TakeBack.objects.create(weighing=weighing, at=now, by_id=by_id)
        weighing.back_id = back.pk
        take_out(Acting(rows.test, by_id, now), weighing)
        touch(rows.test)
    rows = TestRows(rows.test, rows.outputs, rows.weighings)
    lay_again(rows)
    return rows


def place_weighing(key: UUID, unplaced_id: int, pile: str, by_id: int | None) -> Placed:
    """Put it onto a pile of its test, and into the tub of that pile, as it was weighed. The same key again
    changes nothing.

    Raises BadInput for a pile that is not there; Refused where somebody placed it already, and for a test
    that is not open: take it back to the block first, or discard this and correct the sheet.
    """
    with write(
        key=_sent_placing(key, unplaced_id, pile, ""), recorded=lambda: _recorded_placing(key)
    ) as door:
        if door.first is not None:
            return door.first
        row = _waiting(unplaced_id)
        rows = open_rows(row.test_id, f"{row} stays not placed")
        output = next((one for one in rows.piles if str(one.pk) == pile), None)
        if output is None:
            raise BadInput("Pile: choose one of the piles shown.")
        now = timezone.now()
        weighing = Weighing(
            key=row.key,
            test=rows.test,
            output=output,
            value=row.value,
            unit=row.unit,
            division=row.division,
            portions=(row.portions or 1) if output.is_counted else None,
            is_typed=row.is_typed,
            taken_at=row.taken_at,
            taken_by_id=row.taken_by_id,
            scale=row.scale,
            run=row.run,
            sequence=row.sequence,
            tare=row.tare,
        )
        tub = output.tub if output.tub_id is not None else None
        if tub is not None:
            if tub.closed_at is not None:
                raise Refused(f"Tub {tub}: it was closed; choose another pile or another tub.")
            weighing.tub, weighing.before = tub, gross_of(tub)
        weighing.save(force_insert=True)
        if tub is not None:
            fill(Acting(rows.test, by_id, now), tub, weighing)
        touch(rows.test)
        placed = Placed.objects.create(
            key=key, unplaced=row, weighing=weighing, at=now, by_id=by_id
        )
    lay_again(load_known(row.test_id))
    return placed


def discard_weighing(key: UUID, unplaced_id: int, reason: str, by_id: int | None) -> Placed:
    """It counts nowhere, with a reason; the weighing stays readable. The same key again changes nothing."""
    words = " ".join(reason.split())
    if not SHORTEST_REASON <= len(words) <= LONGEST_REASON:
        raise BadInput(f"Reason: {SHORTEST_REASON} to {LONGEST_REASON} characters; write why.")
    with write(
        key=_sent_placing(key, unplaced_id, "", words), recorded=lambda: _recorded_placing(key)
    ) as door:
        if door.first is not None:
            return door.first
        row = _waiting(unplaced_id)
        rows = must_load(row.test_id)
        touch(rows.test)
        return Placed.objects.create(
            key=key, unplaced=row, reason=words, at=timezone.now(), by_id=by_id
        )


def _sent_placing(key: UUID, unplaced_id: int, pile: str, reason: str) -> Sent:
    values = {"unplaced": unplaced_id, "pile": pile, "reason": reason}
    return Sent(key, "place weighing", reason or "a weighing onto a pile", values)


def _recorded_placing(key: UUID) -> Recorded | None:
    row = Placed.objects.filter(key=key).first()
    return row and Recorded(row)


def _waiting(unplaced_id: int) -> Unplaced:
    row = Unplaced.objects.select_for_update().filter(pk=unplaced_id).first()
    if row is None:
        raise BadInput("Weighing: there is no such weighing.")
    if hasattr(row, "placed"):
        raise Refused(f"{row}: somebody placed it already; look at the page again.")
    return row
