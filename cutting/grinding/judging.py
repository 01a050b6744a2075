"""How well the lean of a tub is known: by eye, by a tester, as stated; and what tests of ground batches say
of whoever judged.

Common practice, no published source, but for the arithmetic: a normal mean with a known spread.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from decimal import Decimal
from enum import StrEnum

from cutting.errors import BadValue
from cutting.quantities import ONE, ZERO, working


class How(StrEnum):
    """Who or what says how lean a tub is."""

    EYE = "eye"
    TESTER = "tester"
    STATED = "stated"


USUAL_SPREAD = {How.EYE: Decimal("0.04"), How.TESTER: Decimal("0.012"), How.STATED: Decimal("0.02")}
"""One standard deviation, as a share of the weight."""
BIAS_BEFORE = Decimal("0.03")
"""How far an eye may be off before anything is known of it: one standard deviation."""


@dataclass(frozen=True, slots=True)
class Bias:
    """How far somebody's judgements lie off, judged less tested, with how sure that is; `tests`: how
    many it rests on."""

    off: Decimal
    spread: Decimal
    tests: int


@dataclass(frozen=True, slots=True)
class Compared:
    """One batch that was tested: how far the judged lean lay off, and the spread of that difference
    by all that is random in it (eye and tester)."""

    off: Decimal
    spread: Decimal


def bias_of(compared: Sequence[Compared]) -> Bias:
    """By what was known before (nobody is off, give or take) and each batch since. Raises BadValue
    for a spread of 0."""
    with working():
        weight = ONE / BIAS_BEFORE**2
        total = ZERO
        for one in compared:
            if one.spread <= 0:
                raise BadValue("spread", f"{one.spread:f}", "more than 0 is right")
            own = ONE / one.spread**2
            weight += own
            total += own * one.off
        return Bias(total / weight, (ONE / weight).sqrt(), len(compared))


@dataclass(frozen=True, slots=True)
class Lean:
    """What a tub's lean is taken for, with its standard deviation."""

    share: Decimal
    spread: Decimal


def corrected(
    judged: Decimal, how: How, bias: Bias | None = None, usual: Lean | None = None
) -> Lean:
    """The judged lean less what its judge is usually off; a tester and a stated lean have no bias of
    a person. `usual`: what trim of this source has been so far; without it every lean is as likely,
    and a batch is told to be over its limit more often than it is. Never outside 0 to 1."""
    if not 0 <= judged <= 1:
        raise BadValue("lean", f"{judged:f}", "0 to 1 is right")
    share, spread = judged, USUAL_SPREAD[how]
    with working():
        if how is How.EYE:
            known = bias or bias_of([])
            share, spread = judged - known.off, (spread**2 + known.spread**2).sqrt()
        if usual is not None and usual.spread > 0:
            own, before = ONE / spread**2, ONE / usual.spread**2
            share = (own * share + before * usual.share) / (own + before)
            spread = (ONE / (own + before)).sqrt()
        return Lean(min(max(share, ZERO), ONE), spread)


FEWEST_USUAL = 4
"""Tubs of a source that a tester has told, before anything is taken for usual."""
LEAST_VARIED = Decimal("0.015")
"""Trim of one source differs at least so much from tub to tub, as a standard deviation. Common practice."""


def usual_of(known: Sequence[Lean]) -> Lean | None:
    """What trim of one source usually is, from leans that a tester told: their mean, and how far a
    further tub may lie from it (what tubs differ by, less what the tester scatters, and how little
    the mean is known). None for fewer than four."""
    if len(known) < FEWEST_USUAL:
        return None
    with working():
        many = len(known)
        mean = sum((one.share for one in known), ZERO) / many
        seen = sum(((one.share - mean) ** 2 for one in known), ZERO) / (many - 1)
        tester = sum((one.spread**2 for one in known), ZERO) / many
        between = max(seen - tester, LEAST_VARIED**2)
        return Lean(mean, (between + seen / many).sqrt())


def together(parts: Sequence[tuple[Decimal, Lean]]) -> Lean:
    """Of several lots in one tub, each with its pounds. Raises BadValue for an empty tub."""
    with working():
        total = sum((pounds for pounds, _ in parts), ZERO)
        if total <= 0:
            raise BadValue("tub", "nothing in it", "some weight is right")
        share = sum((pounds * lean.share for pounds, lean in parts), ZERO) / total
        spread = sum(((pounds * lean.spread) ** 2 for pounds, lean in parts), ZERO).sqrt() / total
        return Lean(share, spread)


FEWEST_TO_SAY = 3
"""Tested batches, before anything is said of an eye."""
