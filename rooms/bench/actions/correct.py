"""A manager's correction of a finished sheet: added, never written over."""

from dataclasses import dataclass, field
from decimal import Decimal
from typing import Any
from uuid import UUID, uuid5

from django.utils import timezone

from cutting.errors import BadValue
from cutting.quantities import (
    ZERO,
    Unit,
    Weight,
    parse_decimal,
    round_half_up,
    storable_money,
    working,
)
from cutting.sheet.cutting_test import Role
from rooms.bench.actions.layout import keep_shape
from rooms.bench.actions.pieces import check_left_out, follow_sheet, weighs_now
from rooms.bench.actions.revision import touch
from rooms.bench.actions.tubs import Acting, add_missed, put_right
from rooms.bench.models import Correction, CuttingTest, Output, TakeBack, Weighing
from rooms.bench.queries.facts import FACTS, VALUE
from rooms.bench.queries.rows import TestRows, load_known, must_load, to_piece
from rooms.common.db.keys import own_key
from rooms.common.db.writing import Sent, kept_by, write
from rooms.common.errors import BadInput, Refused
from rooms.common.web.forms import tidy
from rooms.cooler.models import Bag

LONGEST_REASON = 500
MOST_VALUE = Decimal(1000)


@dataclass(frozen=True)
class Correcting:
    """What the page sent, all text. `weighings`: id to the weight that is right, empty to leave it
    out. `added`: pile id to a weight that was missed. `seen`: the revision of the sheet that it showed.
    """

    key: str
    reason: str
    weighings: dict[int, str]
    added: dict[int, str]
    facts: dict[str, str]
    seen: str | None = None
    values: dict[int, str] = field(default_factory=dict)
    """Output id to what a lb or kg of a by-product is worth, empty for nothing."""


def correct(test_id: UUID, wanted: Correcting, by_id: int | None, at: Any = None) -> TestRows:
    """Add a correction and return the sheet as it now stands.

    A weight that differs takes the old weighing back and adds the right one, typed; both point to
    the correction. The same key again changes nothing. Raises BadInput for a wrong value or no
    reason, Refused on an open test or when somebody corrected since.
    """
    reason = " ".join(wanted.reason.split())
    key = own_key(wanted.key, "Correction")
    with write(key=_sent(test_id, key, reason, wanted), recorded=kept_by(Correction, key)) as door:
        rows = must_load(test_id)
        known = list(rows.test.corrections.all())
        if door.first is not None:
            return rows
        if rows.test.is_open:
            raise Refused("Correction: the test is still open; take back and weigh again.")
        if wanted.seen is not None and wanted.seen != str(rows.revision):
            raise Refused(_both_versions(known))
        if not 3 <= len(reason) <= LONGEST_REASON:
            raise BadInput(f"Reason: 3 to {LONGEST_REASON} characters; write why it is corrected.")
        facts = _facts(rows, wanted.facts)
        values = _values(rows, wanted.values)
        changed = [(w, _weight(w, wanted.weighings)) for w in rows.standing]
        changed = [(w, now) for w, now in changed if now is None or now.value != w.value]
        added = _added(rows, wanted.added)
        if not (facts or values or changed or added):
            raise BadInput("Correction: nothing differs from the sheet; change what is wrong.")
        correction = Correction(
            key=key,
            test=rows.test,
            number=len(known) + 1,
            reason=reason,
            by_id=by_id,
            before={name: _text(getattr(rows.test, name)) for name in facts}
            | {f"{VALUE}{output.pk}": _text(output.credit) for output, _ in values},
            at=at or timezone.now(),
        )
        correction.save(force_insert=True)
        _write(rows, correction, changed, added)
        _keep(rows, facts)
        for output, value in values:
            output.credit = value
            output.save(update_fields=["credit"])
        touch(rows.test)
        found = load_known(test_id)
        follow_sheet(found, by_id)
        keep_shape(found)
    return found


def _sent(test_id: UUID, key: UUID, reason: str, wanted: Correcting) -> Sent:
    values = {
        "test": test_id,
        "reason": reason,
        "weighings": {pk: tidy(text) for pk, text in wanted.weighings.items()},
        "added": {pk: tidy(text) for pk, text in wanted.added.items()},
        "facts": {name: tidy(text) for name, text in wanted.facts.items()},
        "values": {pk: tidy(text) for pk, text in wanted.values.items()},
    }
    return Sent(key, "correction", f"correction: {reason}"[:200], values)


def _both_versions(known: list[Correction]) -> str:
    last = known[-1] if known else None
    now = f"; its last correction is “{last.reason}”" if last else ""
    return (
        f"Correction: the sheet was changed since this page was shown{now}. Nothing was saved. What you"
        " typed is below, beside the sheet as it is now; look at it, then send it again."
    )


def _facts(rows: TestRows, typed: dict[str, str]) -> dict[str, Decimal | None]:
    """The facts that differ."""
    found: dict[str, Decimal | None] = {}
    for name in [each for each in FACTS if each in typed]:
        text = tidy(typed[name])
        if not text and name != "opened_value":
            raise BadInput(f"{FACTS[name]}: it is empty; a number is right.")
        try:
            value = parse_decimal(text, FACTS[name]) if text else None
        except BadValue as bad:
            raise BadInput(str(bad)) from bad
        if value != getattr(rows.test, name):
            found[name] = value
    return found


def _values(rows: TestRows, typed: dict[int, str]) -> list[tuple[Output, Decimal | None]]:
    """By-products whose value differs."""
    found = []
    for output in rows.piles:
        if output.role != Role.CREDIT or output.pk not in typed:
            continue
        text = tidy(typed[output.pk])
        try:
            value = storable_money(parse_decimal(text, f"Value of {output}")) if text else None
        except BadValue as bad:
            raise BadInput(str(bad)) from bad
        if value is not None and not 0 <= value <= MOST_VALUE:
            raise BadInput(f"Value of {output}: {text[:20]}; 0 to {MOST_VALUE} is right.")
        if value != output.credit:
            found.append((output, value))
    return found


def _weight(weighing: Weighing, typed: dict[int, str]) -> Weight | None:
    """The right weight of a weighing; None when it is left out."""
    unit = weighing.reading.weight.unit
    text = tidy(typed.get(weighing.pk, f"{weighing.value:f}"))
    return _positive(text, unit.value, f"Weighing {weighing}") if text else None


def _added(rows: TestRows, typed: dict[int, str]) -> list[tuple[int, Weight]]:
    unit = rows.test.weight_unit
    return [
        (output.pk, _positive(tidy(text), unit, f"Missed of {output}"))
        for output in rows.piles
        if (text := typed.get(output.pk, "").strip())
    ]


def _positive(text: str, unit: str, field: str) -> Weight:
    try:
        weight = Weight(parse_decimal(text, field), Weight.of("1", unit).unit)
    except BadValue as bad:
        raise BadInput(str(bad)) from bad
    if not 0 < weight.value < 100_000:
        raise BadInput(f"{field}: {weight} is not right; more than 0 is right, or leave it empty.")
    return weight


def _write(rows: TestRows, correction: Correction, changed: Any, added: Any) -> None:
    """Take-backs and new weighings of the correction, and what they do to the tubs' ledgers."""
    acting = Acting(rows.test, correction.by_id, correction.at)
    tubs = {output.pk: output.tub for output in rows.outputs if output.tub_id is not None}
    made = {
        "taken_at": correction.at,
        "taken_by_id": correction.by_id,
        "is_typed": True,
        "test": rows.test,
        "correction": correction,
    }
    counted = {output.pk for output in rows.outputs if output.is_counted}
    for weighing, now in changed:
        if now is None:
            check_left_out(weighing)
        TakeBack.objects.create(
            weighing=weighing, at=correction.at, by_id=correction.by_id, correction=correction
        )
        put_right(acting, weighing, now)
        if now is not None:
            right = Weighing(
                instead_of=weighing,
                key=uuid5(correction.key, f"instead {weighing.pk}"),
                value=now.value,
                output_id=weighing.output_id,
                unit=now.unit.value,
                division=weighing.division,
                portions=weighing.portions,
                **made,
            )
            right.save(force_insert=True)
            weighs_now(weighing, right)
    for pile, weight in added:
        missed = Weighing(
            key=uuid5(correction.key, f"missed {pile}"),
            value=weight.value,
            output_id=pile,
            unit=weight.unit.value,
            portions=1 if pile in counted else None,
            **made,
        )
        missed.save(force_insert=True)
        if pile in tubs:
            add_missed(acting, tubs[pile], missed)


def _keep(rows: TestRows, facts: dict[str, Decimal | None]) -> None:
    """The test's facts as they are right; the core judges whether they can be."""
    if not facts:
        return
    for name, value in facts.items():
        setattr(rows.test, name, value)
    if "weight_value" in facts:
        _held_by_its_bags(rows.test)
    if rows.test.opened_value is not None and not rows.test.opened_unit:
        rows.test.opened_unit = rows.test.weight_unit
    try:
        to_piece(rows.test)
    except BadValue as bad:
        raise BadInput(str(bad)) from bad
    rows.test.save(update_fields=[*facts, "opened_unit"])


def _held_by_its_bags(test: CuttingTest) -> None:
    """Raise BadInput where more is paid for than the bags of a test hold with what was put back of them."""
    bags = [row.bag for row in test.bags.select_related("bag")]
    if not bags:
        return
    unit = Unit(test.weight_unit)
    with working():
        hold = sum((bag.weight.to(unit) for bag in bags), ZERO)
        parts = Bag.objects.filter(part_of__in=bags)
        apart = sum((part.weight.to(unit) for part in parts), ZERO)
    most = round_half_up(hold - apart, 3)
    if test.weight_value > most:
        raise BadInput(
            f"Weight paid: {test.weight_value:f} {unit} is more than its bags hold, {hold:f} {unit}"
            f"{f', {apart:f} of it put back' if apart else ''}; at most {most.normalize():f} is right. Correct"
            " the bag first if its weight is wrong."
        )


def _text(value: Decimal | None) -> str | None:
    return None if value is None else f"{value:f}"
