"""How each pile looks on every rail: a pattern as well as a hue."""

from collections.abc import Sequence
from typing import Any

from rooms.catalog.models import Pile

TONES = {Pile.PORTIONS: 5, Pile.SECONDARY: 4}


def looks(outputs: Sequence[Any]) -> dict[int, str]:
    """The look of each output by its id: portions-1, portions-2, lean, fat …"""
    return dict(zip((output.pk for output in outputs), looks_in_order(outputs), strict=True))


def looks_in_order(outputs: Sequence[Any]) -> list[str]:
    """The look of each output, in their order; for outputs that have no id yet."""
    found: list[str] = []
    used: dict[str, int] = {}
    for output in outputs:
        tones = TONES.get(output.pile)
        if tones is None:
            found.append(str(output.pile))
        else:
            used[output.pile] = used.get(output.pile, 0) + 1
            found.append(f"{output.pile}-{min(used[output.pile], tones)}")
    return found
