"""The one small interface between the bench and any scale.

A scale gives a `Reading` whenever it is asked and takes four orders. A real scale is added
by writing a class with these methods; nothing else in the application changes.
"""

from __future__ import annotations

from dataclasses import dataclass
from decimal import Decimal
from enum import StrEnum
from typing import Any, Protocol


class State(StrEnum):
    STEADY = "steady"
    MOVING = "moving"
    OVERLOAD = "overload"
    UNDER = "under"
    OFF = "off"
    STALE = "stale"
    """The scale has stopped answering: what it showed last is not shown as a weight."""


@dataclass(frozen=True, slots=True)
class Reading:
    """What the display shows. `weight` is net of tare, a multiple of `division`, in `unit`;
    None when the display shows no weight (off, overload, under)."""

    weight: Decimal | None
    unit: str
    division: Decimal
    state: State
    tare: Decimal
    zero: bool
    """At the centre of zero."""
    capacity: Decimal
    shown_at: float = 0.0
    """When the display showed this, on the clock of `read`."""

    def as_message(self, sequence: int) -> dict[str, Any]:
        """The reading as the bridge sends it: weights as text, never as binary floats."""
        return {
            "sequence": sequence,
            "weight": None if self.weight is None else f"{self.weight:f}",
            "unit": self.unit,
            "division": f"{self.division:f}",
            "state": self.state.value,
            "tare": f"{self.tare:f}",
            "zero": self.zero,
            "capacity": f"{self.capacity:f}",
        }


class Refused(Exception):
    """An order the scale does not take now; the message says why, in plain words."""


class Scale(Protocol):
    """What the bridge needs of a scale. Orders raise Refused with a plain reason."""

    def read(self, now: float) -> Reading:
        """The display at `now`, in seconds of any steady clock."""

    def zero(self) -> None: ...

    def tare(self, value: Decimal | None = None) -> None:
        """Take off what lies there, or a known tub of `value` in the scale's unit."""

    def next_unit(self) -> None: ...
