"""Which window holds for a piece: the shop's own, else what ships for the piece or its species."""

import tomllib
from collections.abc import Iterable
from functools import lru_cache
from pathlib import Path
from typing import Any

from cutting.cooler.ageing import Window
from rooms.catalog.models import Piece
from rooms.cooler.models import AgeWindow

OWN = AgeWindow._meta.get_field("piece").remote_field
"""What a piece that was read with its own window has."""
DATA = Path(__file__).parents[1] / "data" / "windows.toml"


@lru_cache(maxsize=1)
def shipped() -> dict[str, Any]:
    return tomllib.loads(DATA.read_text(encoding="utf-8"))


def usual(piece: Piece) -> Window:
    """What ships: the piece's own window, else its species', no younger than the piece may be."""
    found = shipped()["pieces"].get(piece.key) or shipped()[piece.species]
    return Window(**found).no_younger_than(piece.least_age_days or 0)


def repacked(piece: Piece, *, is_unsealed: bool = False) -> Window:
    """The shorter clock of what was opened: by species, shorter still where it lies open."""
    return Window(**shipped()["unsealed" if is_unsealed else "repacked"][piece.species])


def windows(pieces: Iterable[Piece]) -> dict[int, Window]:
    """The window of each piece by its id: one query, none where every piece came with its own."""
    pieces = list(pieces)
    if all(OWN.is_cached(piece) for piece in pieces):
        rows = [getattr(piece, OWN.name, None) for piece in pieces]
    else:
        rows = list(AgeWindow.objects.all())
    own = {row.piece_id: row.window for row in rows if row is not None}
    return {piece.pk: own.get(piece.pk) or usual(piece) for piece in pieces}
