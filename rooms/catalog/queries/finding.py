"""Finding pieces, cuts, muscles and parts by any of their names, as one types."""

from dataclasses import dataclass
from typing import Any

from django.db.models import Subquery

from rooms.catalog.models import Cut, Muscle, Piece, Step
from rooms.catalog.queries.naming import SHOWN, said, split_names
from rooms.catalog.queries.search import Index, words_of

MOST = 8
SHORTEST = 2
PIECE, CUT, MUSCLE = "piece", "cut", "muscle"
NEWEST = ("history_id", "history_date")
MODELS: dict[str, Any] = {PIECE: Piece, CUT: Cut, MUSCLE: Muscle}
_KEPT: dict[tuple[Any, ...], Index] = {}
"""The index of the catalog as it is; made again when anything of it changed."""


@dataclass(frozen=True)
class FoundName:
    words: str
    pieces: list[Piece]
    cuts: list[Cut]
    muscles: list[Muscle]
    parts: list[Muscle]
    more: int
    """How many further hits there are beyond those shown."""

    @property
    def is_empty(self) -> bool:
        return not (self.pieces or self.cuts or self.muscles or self.parts)


def find(typed: str) -> FoundName | None:
    """What the typed words find, the best first: at most five queries, four more when the catalog
    changed since the last search. None for too little."""
    if len("".join(words_of(typed))) < SHORTEST:
        return None
    found: dict[str, list[int]] = {kind: [] for kind in MODELS}
    for kind, pk in catalog_index().find(typed):
        found[kind].append(pk)
    pieces = _rows(Piece.objects, found[PIECE][:MOST])
    cuts = _rows(Cut.objects.select_related("muscle"), found[CUT][:MOST])
    muscles = _rows(Muscle.objects, found[MUSCLE][: 2 * MOST])
    parts = [row for row in muscles if row.kind == Muscle.Kind.PART]
    muscles = [row for row in muscles if row.kind != Muscle.Kind.PART][:MOST]
    shown = len(pieces) + len(cuts) + len(muscles) + len(parts)
    more = sum(len(ids) for ids in found.values()) - shown
    return FoundName(typed.strip(), pieces, cuts, muscles, parts, more)


def find_cuts(typed: str, species: str, most: int) -> list[Cut] | None:
    """Cuts of one animal, the best first; None for too little typed."""
    if len("".join(words_of(typed))) < SHORTEST:
        return None
    ids = [pk for kind, pk in catalog_index().find(typed) if kind == CUT]
    rows = Cut.objects.filter(species=species).in_bulk(ids)
    return [rows[pk] for pk in ids if pk in rows][:most]


@dataclass(frozen=True)
class AlsoCalled:
    """A name of a cut that another muscle of its animal is called by too."""

    name: str
    cut: Cut


def also_called(cut: Cut) -> list[AlsoCalled]:
    """Return the other muscles that one of a cut's names is said of: one query."""
    own = {said(name): name for name in names_of(cut)}
    others = Cut.objects.filter(species=cut.species).exclude(muscle=cut.muscle_id)
    return [
        AlsoCalled(own[name], other)
        for other in others.select_related("muscle")
        for name in dict.fromkeys(said(one) for one in names_of(other))
        if name in own
    ]


def names_of(cut: Cut) -> list[str]:
    """Every name of a cut as it is said, the ones it is shown by first."""
    fields = (*(getattr(cut, field) for field in SHOWN), *cut.synonyms)
    return [name for field in fields for name in split_names(field)]


def pieces_that_say(words: list[str]) -> list[Piece]:
    """Pieces whose guides name one of these: two queries."""
    guides = catalog_index().guides
    wanted = [words_of(word) for word in words]
    ids = [
        pk
        for (_, pk), text in guides.items()
        if any(all(f" {word}" in text for word in some) for some in wanted)
    ]
    return list(Piece.objects.filter(pk__in=ids))


def _rows(rows: Any, ids: list[int]) -> list[Any]:
    """These rows in this order, those in use: one query, none for none."""
    found = rows.in_bulk(ids) if ids else {}
    return [found[pk] for pk in ids if pk in found]


def catalog_index() -> Index:
    """The names of everything in use: two queries when nothing changed."""
    stamp = _stamp()
    if stamp not in _KEPT:
        _KEPT.clear()
        _KEPT[stamp] = _made()
    return _KEPT[stamp]


def _stamp() -> tuple[Any, ...]:
    """What changes when the catalog does, in one query: its history only grows."""
    newest = {
        f"{model.__name__}_{name}": Subquery(model.history.order_by("-history_id").values(name)[:1])
        for model in (Cut, Muscle, Step)
        for name in NEWEST
    }
    rows = Piece.history.order_by("-history_id").annotate(**newest)
    return tuple(rows.values_list(*NEWEST, *newest)[:1])


def _made() -> Index:
    index = Index()
    for kind, model in ((PIECE, Piece), (CUT, Cut)):
        for row in model.objects.select_related(*(["muscle"] if kind == CUT else [])):
            shown, *others = row.found_by()
            names = [shown, row.house_name, *split_names(row.other_name)]
            index.add((kind, row.pk), names, others, row.species)
    for muscle in Muscle.objects.all():
        index.add((MUSCLE, muscle.pk), [muscle.name, muscle.latin], muscle.synonyms)
    for step in Step.objects.filter(piece__is_dropped=False):
        text = " ".join((step.title, step.find, step.do, step.right, step.mistake))
        index.add_guide((PIECE, step.piece_id), text)
    return index
