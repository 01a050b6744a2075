"""What a scale's signed reading proves."""

import json
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from decimal import Decimal

from cutting.errors import BadValue
from cutting.quantities import parse_decimal, working
from devices.signing import is_signed
from rooms.bench.queries.scales import ScaleAt, scale_named
from rooms.common.errors import BadInput

AHEAD = timedelta(minutes=5)
"""A clock this much ahead of ours is believed; one further ahead is wrong."""
LARGEST = 2**62


@dataclass(frozen=True)
class Proof:
    """A reading as the bridge sent it, all text. Without a signature it proves nothing."""

    scale: str = ""
    run: str = ""
    sequence: str = ""
    at: str = ""
    weight: str = ""
    unit: str = ""
    division: str = ""
    state: str = ""
    tare: str = ""
    signature: str = ""


@dataclass(frozen=True)
class Proven:
    """A reading whose signature holds. `gross`: what lies on the scale, tare put back on."""

    scale: ScaleAt
    run: str
    sequence: int
    at: datetime | None
    weight: Decimal
    tare: Decimal
    unit: str

    @property
    def gross(self) -> Decimal:
        with working():
            return self.weight + self.tare


def proven(proof: Proof) -> Proven:
    """Raises BadInput for a scale, signature or state that is not right."""
    what = f"{proof.weight[:20]} {proof.unit[:4]}"
    scale = scale_named(proof.scale)
    if scale is None:
        raise BadInput(f"Reading: {what} came from no scale of this shop; type the weight instead.")
    if not is_signed(scale.key, vars(proof)):
        raise BadInput(
            f"Reading: {what} does not carry the signature of the {scale.label}, so it was not"
            " recorded. Weigh again, or type it."
        )
    if proof.state != "steady":
        raise BadInput(f"Reading: {what} was {proof.state}; a steady one is right.")
    try:
        weight, tare = parse_decimal(proof.weight, "Weight"), parse_decimal(proof.tare, "Tare")
        sequence = int(proof.sequence)
    except (BadValue, ValueError):
        raise BadInput(f"Reading: {what} cannot be read; weigh again.") from None
    if not 0 <= sequence < LARGEST:
        raise BadInput(f"Reading: {proof.sequence[:20]} is no sequence number; weigh again.")
    return Proven(scale, proof.run[:12], sequence, _moment(proof.at), weight, tare, proof.unit)


def read_proof(text: str) -> Proof:
    """A reading as the page kept it, in JSON. Raises BadInput."""
    try:
        kept = json.loads(text)
        names = Proof.__dataclass_fields__
        return Proof(**{name: str(kept[name]) for name in names if kept.get(name) is not None})
    except (ValueError, TypeError, AttributeError):
        raise BadInput("Reading: it cannot be read; weigh again.") from None


def earlier(text: str, now: Proven) -> Proven:
    """The reading a difference starts from: of the same scale, in the same unit."""
    before = proven(read_proof(text))
    if (before.scale.name, before.unit) != (now.scale.name, now.unit):
        raise BadInput("Before: the scale or its unit changed between; start the difference again.")
    return before


def believed(at: datetime | None, opened: datetime, now: datetime) -> datetime:
    """When it was weighed by the scale's clock, unless that clock cannot be right."""
    return at if at is not None and opened - AHEAD <= at <= now + AHEAD else now


def _moment(text: str) -> datetime | None:
    try:
        return datetime.fromtimestamp(float(text), UTC)
    except (ValueError, OverflowError, OSError):
        return None
