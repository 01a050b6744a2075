"""Distances as a cutter reads them off a tape."""

from __future__ import annotations

from decimal import Decimal
from fractions import Fraction

from cutting.layout.profile import MM

FINEST = 16
"""Sixteenths: the finest line of a kitchen tape."""


def inch_words(mm: Decimal, finest: int = FINEST) -> str:
    """The nearest sixteenth of an inch: 11/16, 1 3/8, 2; nothing is 0."""
    parts = round(Fraction(mm) * finest / Fraction(MM["in"]))
    whole, rest = divmod(parts, finest)
    share = Fraction(rest, finest)
    words = f"{share.numerator}/{share.denominator}" if rest else ""
    return f"{whole} {words}".strip() if whole else words or "0"


def mm_words(mm: Decimal) -> str:
    """Whole millimetres, half up."""
    return str(int(mm + Decimal("0.5")))
