"""A lot is one lot however it is written down."""

from __future__ import annotations

import unicodedata

LONGEST = 60
"""Letters and digits: a lot has no more, but one sign may stand for many."""


def lot_key(text: str) -> str:
    """What two ways to write one lot have in common: letters and digits alone, in one case and one width.

    “L-9427”, “l 9427” and “Ｌ9427” are one lot; O and 0 are not. A text without letters and digits is its own
    key. At most LONGEST; empty for nothing. Common practice, no published source.
    """
    folded = unicodedata.normalize("NFKC", unicodedata.normalize("NFKC", text).casefold())
    return ("".join(one for one in folded if one.isalnum()) or folded.strip())[:LONGEST]
