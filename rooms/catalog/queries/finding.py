"""Finding pieces, cuts and muscles by any of their names, as one types."""

from dataclasses import dataclass

from django.db.models import Q

from rooms.catalog.models import Cut, Muscle, Piece
from rooms.common.words import fold

MOST = 8
SHORTEST = 2


@dataclass(frozen=True)
class FoundName:
    words: str
    pieces: list[Piece]
    cuts: list[Cut]
    muscles: list[Muscle]
    more: int
    """How many further hits there are beyond those shown."""

    @property
    def is_empty(self) -> bool:
        return not (self.pieces or self.cuts or self.muscles)


def find(typed: str) -> FoundName | None:
    """Everything that has all the typed words in its names: three queries. None for too little."""
    words = fold(typed).split()
    if len("".join(words)) < SHORTEST:
        return None
    wanted = Q()
    latin = Q()
    for word in words[:6]:
        wanted &= Q(search__contains=word)
        latin &= Q(latin__icontains=word) | Q(name__icontains=word) | Q(synonyms__icontains=word)
    pieces = list(Piece.objects.filter(wanted))
    cuts = list(Cut.objects.filter(wanted).select_related("muscle"))
    muscles = list(Muscle.objects.filter(latin))
    first = words[0]
    for rows in (pieces, cuts):
        rows.sort(key=lambda row: (not fold(row.shown_name).startswith(first), row.shown_name))
    shown = sum(min(len(rows), MOST) for rows in (pieces, cuts, muscles))
    more = len(pieces) + len(cuts) + len(muscles) - shown
    return FoundName(typed.strip(), pieces[:MOST], cuts[:MOST], muscles[:MOST], more)
