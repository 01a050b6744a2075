"""Scales: checked with weights, taken for a test, and their tares."""

from decimal import Decimal
from typing import Any
from uuid import UUID

from django.utils import timezone

from cutting.errors import BadValue
from cutting.quantities import Unit, Weight
from cutting.sheet.scale_check import Tried, judge
from rooms.bench.actions.revision import touch
from rooms.bench.models import Hold, ScaleCheck, Tare
from rooms.bench.queries.open_tests import holder_of
from rooms.bench.queries.reading import Proof, proven
from rooms.bench.queries.rows import open_rows
from rooms.bench.queries.scales import ScaleAt, scale_named, scales
from rooms.common.db.seen import check_unchanged, is_so
from rooms.common.db.writing import Sent, kept_by, write
from rooms.common.errors import BadInput
from rooms.common.plain_text import is_plain
from rooms.common.web.forms import tidy

LONGEST_NAME = 40
MOST_LINES = 12


def check_scale(
    key: UUID, scale_name: str, lines: list[tuple[str, str, Proof | None]], by_id: int | None
) -> ScaleCheck:
    """Record a check. Each line: the test weight, what was shown, the reading if there was one.

    Weights are in the scale's unit. Lines without a test weight, or with nothing shown for it, are
    left out; zero must be among the others. The same key again returns the check it already made. Raises BadInput for a wrong line.
    """
    scale = scale_named(scale_name)
    if scale is None:
        raise BadInput("Scale: choose one of the shop's scales.")
    full = [
        (number, line)
        for number, line in enumerate(lines, start=1)
        if line[0].strip() and line[1].strip()
    ]
    tried = [_tried(scale, number, *line) for number, line in full[:MOST_LINES]]
    if len(tried) < 2 or all(one.load.value for one, _ in tried):
        raise BadInput("Test weights: the empty scale (0) and at least one test weight are right.")
    judged = judge([one for one, _ in tried])
    rows = [
        {
            "load": f"{one.tried.load.value:f}",
            "shown": f"{one.tried.shown.value:f}",
            "off": f"{one.off:f}",
            "tolerance": f"{one.tolerance:f}",
            "holds": one.holds,
            "is_typed": is_typed,
        }
        for one, (_, is_typed) in zip(judged, tried, strict=True)
    ]
    check = ScaleCheck(
        key=key,
        scale=scale.name,
        unit=scale.unit,
        division=Weight.of(scale.division, scale.unit).value,
        lines=rows,
        holds=all(one.holds for one in judged),
        at=timezone.now(),
        by_id=by_id,
    )
    words = "the scale holds" if check.holds else "the scale does not hold"
    sent = Sent(key, "scale check", words, {"scale": scale.name, "unit": scale.unit, "lines": rows})
    with write(key=sent, recorded=kept_by(ScaleCheck, key, "scale", "unit", "lines")) as door:
        if door.first is not None:
            return door.first
        check.save(force_insert=True)
    return check


def _tried(
    scale: ScaleAt, number: int, load: str, shown: str, proof: Proof | None
) -> tuple[Tried, bool]:
    """One line and whether what was shown was typed."""
    try:
        tried = Tried(
            Weight.of(tidy(load), scale.unit),
            Weight.of(tidy(shown), scale.unit),
            Weight.of(scale.division, scale.unit),
        )
    except BadValue as bad:
        raise BadInput(f"Test weight {number}: {bad}") from bad
    if proof is None or not proof.signature:
        return tried, True
    reading = proven(proof)
    if (reading.scale.name, reading.unit, reading.weight, reading.tare) != (
        scale.name,
        scale.unit,
        tried.shown.value,
        Decimal(0),
    ):
        raise BadInput(
            f"Test weight {number}: the reading is not of this scale in {scale.unit} without a"
            " tare; take it again."
        )
    return tried, False


def take_scale(test_id: UUID, scale: str, by_id: int | None) -> None:
    """From now on the scale's readings are for this test. Taking it twice changes nothing."""
    if scale_named(scale) is None:
        raise BadInput("Scale: choose one of the shop's scales.")
    with write():
        rows = open_rows(test_id, "the scale was not taken over")
        holder = holder_of(scale)
        if holder is None or holder.test_id != rows.test.pk:
            Hold.objects.create(scale=scale, test=rows.test, at=timezone.now(), by_id=by_id)
            touch(rows.test)


def save_tare(name: str, value: str, unit: str, by: Any, seen: int | None = None) -> Tare:
    """A new known tub, or the new weight of one with that name. The old weight stays in its history; the same
    again changes nothing.

    Raises Overtaken where somebody changed it since the page knew the list's history as far as `seen`.
    """
    name = plain_name(name, "Name")
    try:
        weight = Weight.of(tidy(value), unit)
    except BadValue as bad:
        raise BadInput(f"Weight: {bad}") from bad
    capacity = Weight.of(scales()[0].capacity, scales()[0].unit)
    if not 0 < weight.to(Unit.G) <= capacity.to(Unit.G) / 2:
        raise BadInput(f"Weight: {weight} is no tub; more than 0 and at most half of {capacity}.")
    with write():
        tare = Tare.objects.filter(name=name).first() or Tare(name=name)
        columns = {"value": weight.value, "unit": weight.unit.value, "is_dropped": False}
        if is_so(tare, columns):
            return tare
        check_unchanged(Tare, seen, columns, name=name)
        tare.value, tare.unit, tare.is_dropped = weight.value, weight.unit.value, False
        tare.made_at, tare._history_user = timezone.now(), by
        tare.save()
    return tare


@write()
def drop_tare(pk: str, by: Any) -> None:
    """Out of use; its history stays. Twice: no change."""
    tare = Tare.objects.filter(pk=pk, is_dropped=False).first() if pk.isdecimal() else None
    if tare is not None:
        tare.is_dropped, tare._history_user = True, by
        tare.save()


def plain_name(text: str, field: str) -> str:
    name = " ".join(text.split())
    if not name or len(name) > LONGEST_NAME or not is_plain(name):
        raise BadInput(f"{field}: 1 to {LONGEST_NAME} plain characters are right.")
    return name
