"""The daily check of a scale with test weights."""

from decimal import Decimal
from uuid import UUID

from django.utils import timezone

from cutting.errors import BadValue
from cutting.quantities import Weight
from cutting.sheet.scale_check import Tried, judge
from rooms.bench.actions.reading import Proof, proven
from rooms.bench.models import ScaleCheck
from rooms.bench.queries.scales import ScaleAt, scale_named
from rooms.common.db.writing import Sent, kept_by, write
from rooms.common.errors import BadInput
from rooms.common.web.forms import tidy

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
