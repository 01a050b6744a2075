"""The animal map: each animal's side with its primals, and the four muscles round the bone."""

import tomllib
from collections.abc import Sequence
from dataclasses import dataclass, field
from functools import lru_cache

from drawings.seam_lettering import Frame, Lettered, lay_out
from drawings.seams import Drawing
from rooms.catalog.models import Cut, Muscle, Piece, Primal, Species
from rooms.catalog.queries.drawings import SeamView, drawings, read_drawing
from rooms.catalog.queries.shipped import DATA

SECTIONS = ("section-leg", "section-shoulder")
SECTION_SIZES = {"beef": Frame(400.0, 14.0), "pork": Frame(350.0, 14.0), "lamb": Frame(310.0, 13.0)}
MAP = {"wide": Frame(760.0, 16.0), "narrow": Frame(358.0, 13.0)}


@lru_cache(maxsize=1)
def sides() -> dict[str, Drawing]:
    """The side of each animal; the keys of its areas are primals."""
    folder = DATA / "animals"
    return {
        path.stem: read_drawing(path.stem, tomllib.loads(path.read_text(encoding="utf-8")))
        for path in sorted(folder.glob("*.toml"))
    }


@dataclass(frozen=True)
class PrimalView:
    primal: Primal
    pieces: list[Piece] = field(default_factory=list)

    @property
    def name(self) -> str:
        return self.primal.name


@dataclass(frozen=True)
class AnimalMap:
    species: str
    drawing: Drawing
    widths: list[tuple[str, Lettered]]
    primals: list[PrimalView]
    chosen: PrimalView | None

    @property
    def shown(self) -> list[PrimalView]:
        return [self.chosen] if self.chosen else self.primals


def animal_map(species: str, primal: str) -> AnimalMap:
    """One animal: two queries. An unknown animal is beef, an unknown primal none."""
    species = species if species in Species.values else str(Species.BEEF)
    views = {row.pk: PrimalView(row) for row in Primal.objects.filter(species=species)}
    for piece in Piece.objects.filter(species=species):
        if piece.primal_id in views:
            views[piece.primal_id].pieces.append(piece)
    drawing = sides()[species]
    chosen = next((v for v in views.values() if v.primal.key == primal), None)
    lit = {primal} if chosen else set()
    widths = [(name, lay_out(drawing, glass, lit)) for name, glass in MAP.items()]
    return AnimalMap(species, drawing, widths, list(views.values()), chosen)


@dataclass(frozen=True)
class Section:
    """One cross-section of one animal."""

    species: str
    seam: SeamView
    drawn: Lettered


@dataclass(frozen=True)
class SameMap:
    """A cross-section shown three times, and what each muscle gives on each animal."""

    key: str
    title: str
    sections: list[Section]
    table: list[tuple[Muscle, list[list[Cut]]]]


def same_maps() -> list[SameMap]:
    """Leg and shoulder on beef, pork and lamb: two queries."""
    wanted = {key for section in SECTIONS for key in drawings()[section].muscles}
    muscles = {m.key: m for m in Muscle.objects.filter(key__in=wanted)}
    cuts: dict[tuple[str, str], list[Cut]] = {}
    for cut in Cut.objects.filter(muscle__key__in=wanted).select_related("muscle"):
        cuts.setdefault((cut.muscle.key, cut.species), []).append(cut)
    return [_same_map(key, muscles, cuts) for key in SECTIONS]


def _same_map(
    key: str, muscles: dict[str, Muscle], cuts: dict[tuple[str, str], list[Cut]]
) -> SameMap:
    drawing = drawings()[key]
    sections = [
        Section(
            species,
            SeamView(drawing, words=f"{drawing.view}, {species}", id=f"{key}-{species}"),
            lay_out(drawing, glass),
        )
        for species, glass in SECTION_SIZES.items()
    ]
    order: Sequence[str] = list(dict.fromkeys(r.muscle for r in drawing.regions if r.muscle))
    table = [
        (muscles[m], [cuts.get((m, str(species)), []) for species in SECTION_SIZES])
        for m in order
        if m in muscles
    ]
    return SameMap(key, drawing.view, sections, table)
