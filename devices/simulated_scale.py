"""A scale made of arithmetic: settles like a platform on springs and jitters like a real one.

A Class III bench scale of 30 lb by 0.01 lb. The load approaches its true weight with a damped
swing; a little noise stays. Steady means that the display has not changed by more than one
division for half a second. Deterministic for a given seed and sequence of times.
"""

from __future__ import annotations

import math
import random
from dataclasses import replace
from decimal import ROUND_HALF_EVEN, Decimal

from cutting.quantities import Unit, convert
from devices.scale import Reading, Refused, State

CAPACITY = {"lb": "30", "oz": "480", "kg": "13.6", "g": "13600"}
DIVISION = {"lb": "0.01", "oz": "0.1", "kg": "0.005", "g": "5"}
ORDER = ("lb", "oz", "kg", "g")
SWING_SECONDS = 0.16
SWINGS_PER_SECOND = 4.0
NOISE_DIVISIONS = 0.12
SETTLED_SECONDS = 0.5
ZERO_RANGE = 0.04
"""Zeroing works within this share of capacity, as on common bench scales."""
UNDER_DIVISIONS = -500
FAULTS = ("none", "wobble", "drift", "freeze", "jump")
WOBBLE_DIVISIONS, WOBBLES_PER_SECOND = 5.0, 0.9
DRIFT_DIVISIONS = 0.25
"""How far zero wanders in a second."""
JUMP_DIVISIONS, JUMP_SECONDS = 60.0, 0.3


class SimulatedScale:
    """Behaves like a scale; `put` and `take_off` are the hand that loads it."""

    def __init__(self, seed: int = 1) -> None:
        self._random = random.Random(seed)  # noqa: S311 (jitter, not secrets)
        self.unit = "lb"
        self.is_on = True
        self._load = 0.0  # grams on the platform
        self._from = 0.0  # grams shown when the load last changed
        self._changed_at = -math.inf
        self._now = 0.0
        self._zero = 0.0
        self._tare = Decimal(0)
        self._shown: list[tuple[float, Decimal]] = []
        self._fault, self._fault_at = "none", 0.0
        self._frozen: Reading | None = None

    # --- the hand ---

    def as_new(self) -> None:
        """Empty, in pounds, without a fault: as it was first switched on."""
        vars(self).update(vars(SimulatedScale()))

    def put(self, grams: float) -> None:
        """Put so much more on the platform (or, below 0, take so much off)."""
        self._from = self._grams_now()
        self._load = max(self._load + grams, 0.0)
        self._changed_at = self._now

    def take_off(self) -> None:
        self.put(-self._load)

    def switch(self, on: bool) -> None:
        self.is_on = on
        self._shown.clear()
        if on:
            self._zero, self._tare = self._load, Decimal(0)

    def fault(self, what: str) -> None:
        """One of FAULTS: a draught, a zero that wanders, a hung display, a knock."""
        self._fault, self._fault_at = what, self._now
        self._frozen = None

    # --- the interface ---

    def read(self, now: float) -> Reading:
        self._now = now
        if self._frozen is not None:
            return self._frozen
        reading = replace(self._read(now), shown_at=now)
        if self._fault == "freeze":
            self._frozen = reading
        return reading

    def _read(self, now: float) -> Reading:
        division = Decimal(DIVISION[self.unit])
        capacity = Decimal(CAPACITY[self.unit])
        if not self.is_on:
            return Reading(None, self.unit, division, State.OFF, Decimal(0), False, capacity)
        noise = self._random.gauss(0, NOISE_DIVISIONS) + self._trouble(now - self._fault_at)
        gross = self._in_divisions(self._grams_now() - self._zero, noise) * division
        # The last one before the window stays: a display that is read seldom has still stood still.
        since = self._changed_at
        before = [p for p in self._shown if since < p[0] < now - SETTLED_SECONDS][-1:]
        within = [pair for pair in self._shown if now - pair[0] <= SETTLED_SECONDS]
        self._shown = [*before, *within, (now, gross)]
        if gross > capacity + 9 * division:
            state = State.OVERLOAD
        elif gross < UNDER_DIVISIONS * division:
            state = State.UNDER
        else:
            state = State.STEADY if self._settled(now, division) else State.MOVING
        silent = state in (State.OVERLOAD, State.UNDER)
        return Reading(
            None if silent else gross - self._tare,
            self.unit,
            division,
            state,
            self._tare,
            gross == 0 and not silent,
            capacity,
        )

    def zero(self) -> None:
        """Make what lies there the new zero; only near zero and only when it is still."""
        self._must_be_steady("zero")
        limit = float(CAPACITY["g"]) * ZERO_RANGE
        if self._load > limit:
            raise Refused("zero: too much on the scale; take it off, or use tare")
        self._zero, self._tare = self._load, Decimal(0)
        self._shown.clear()

    def tare(self, value: Decimal | None = None) -> None:
        """Take off what lies there, or a known tub; on an empty scale, forget the tare."""
        division = Decimal(DIVISION[self.unit])
        if value is not None:
            if not self.is_on:
                raise Refused("tare: the scale is off")
            if not 0 <= value <= Decimal(CAPACITY[self.unit]) / 2:
                raise Refused(f"tare: {value} {self.unit} is no tub for this scale")
            self._tare = (value / division).to_integral_value(rounding=ROUND_HALF_EVEN) * division
            return
        gross = self._must_be_steady("tare")
        if gross < 0:
            raise Refused("tare: the scale is below zero; press zero first")
        self._tare = gross

    def next_unit(self) -> None:
        """The next of lb, oz, kg, g. Not while a tare is set, so that the tare stays exact."""
        if self._tare:
            raise Refused("unit: a tare is set; clear it first")
        self.unit = ORDER[(ORDER.index(self.unit) + 1) % len(ORDER)]
        self._shown.clear()

    # --- inside ---

    def _trouble(self, since: float) -> float:
        """What the fault adds, in divisions."""
        if self._fault == "wobble":
            return WOBBLE_DIVISIONS * math.sin(2 * math.pi * WOBBLES_PER_SECOND * since)
        if self._fault == "drift":
            return DRIFT_DIVISIONS * since
        if self._fault == "jump" and since < JUMP_SECONDS:
            return JUMP_DIVISIONS
        return 0.0

    def _must_be_steady(self, order: str) -> Decimal:
        division = Decimal(DIVISION[self.unit])
        if not self.is_on:
            raise Refused(f"{order}: the scale is off")
        if not self._settled(self._now, division):
            raise Refused(f"{order}: the scale is moving; wait until it is steady")
        return self._shown[-1][1]

    def _settled(self, now: float, division: Decimal) -> bool:
        if not self._shown or now - self._changed_at < SETTLED_SECONDS:
            return False
        weights = [weight for _, weight in self._shown]
        long_enough = now - self._shown[0][0] >= SETTLED_SECONDS * 0.7
        return long_enough and max(weights) - min(weights) <= division

    def _grams_now(self) -> float:
        since = self._now - self._changed_at
        if since > 20 * SWING_SECONDS:
            return self._load
        swing = math.exp(-since / SWING_SECONDS) * math.cos(2 * math.pi * SWINGS_PER_SECOND * since)
        return self._load + (self._from - self._load) * swing

    def _in_divisions(self, grams: float, noise: float) -> int:
        division = float(convert(Decimal(DIVISION[self.unit]), Unit(self.unit), Unit.G))
        return int(Decimal(grams / division + noise).to_integral_value(rounding=ROUND_HALF_EVEN))
