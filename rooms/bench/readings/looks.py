"""How each pile looks on every rail: a pattern as well as a hue."""

from collections.abc import Sequence

from rooms.bench.models import Output
from rooms.catalog.models import Pile

TONES = {Pile.PORTIONS: 5, Pile.SECONDARY: 4}


def looks(outputs: Sequence[Output]) -> dict[int, str]:
    """The look of each output by its id: portions-1, portions-2, lean, fat …"""
    found, used = {}, {}
    for output in outputs:
        tones = TONES.get(output.pile)
        if tones is None:
            found[output.pk] = output.pile
        else:
            used[output.pile] = used.get(output.pile, 0) + 1
            found[output.pk] = f"{output.pile}-{min(used[output.pile], tones)}"
    return found
