"""The seam drawings: hand-made ones from files, the others from a family; and one on a page."""

import json
import tomllib
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field, replace
from functools import cached_property, lru_cache
from pathlib import Path
from typing import Any

from cutting.errors import BadValue
from drawings.families import Along, Family, FamilyPart, Spec, draw
from drawings.seam_lettering import NARROW, WIDE, Lettered, lay_out
from drawings.seams import Drawing, Kind, LineKind, Region, SeamLine
from drawings.shapes import Box

DRAWINGS = Path(__file__).parents[1] / "data" / "drawings"


@lru_cache(maxsize=1)
def drawings() -> dict[str, Drawing]:
    """Every hand-made drawing by its key."""
    return {
        path.stem: read_drawing(path.stem, tomllib.loads(path.read_text(encoding="utf-8")))
        for path in sorted(DRAWINGS.glob("*.toml"))
    }


def read_drawing(key: str, data: dict[str, Any]) -> Drawing:
    """A drawing from its file's data. Raises BadValue that names the drawing."""
    try:
        return Drawing(
            key=key,
            view=data["view"],
            width=float(data["width"]),
            height=float(data["height"]),
            regions=tuple(_region(region) for region in data["regions"]),
            lines=tuple(
                SeamLine(
                    line["key"],
                    LineKind(line["kind"]),
                    line["points"],
                    line.get("label", ""),
                    tuple(line.get("of", ())),
                )
                for line in data.get("lines", ())
            ),
            ends=data.get("ends", {}),
            views=tuple(_box(one) for one in data.get("views", ())),
        )
    except (KeyError, ValueError) as wrong:
        raise BadValue(f"drawing {key}", str(wrong), "see data/README.md") from wrong


def _box(text: str) -> Box:
    left, right, top, bottom = (float(word) for word in text.split())
    return left, right, top, bottom


def _region(data: dict[str, Any]) -> Region:
    return Region(
        key=data["key"],
        kind=Kind(data["kind"]),
        outlines=tuple(data["outlines"]),
        label=data.get("label", ""),
        muscle=data.get("muscle", ""),
        grain=data.get("grain", ""),
        tone=data.get("tone", 1),
    )


def drawing_of(piece_key: str, data: str | dict[str, Any]) -> Drawing:
    """A piece's drawing: the name of a hand-made one, that one `without` some of its parts, or
    a family with its parts.

    Raises BadValue for a name or a part that is not known.
    """
    if isinstance(data, str):
        if data not in drawings():
            known = ", ".join(drawings())
            raise BadValue(f"drawing of {piece_key}", f"no drawing {data!r}", f"one of {known}")
        return drawings()[data]
    return _drawn(piece_key, json.dumps(data, sort_keys=True))


def _without(piece_key: str, data: dict[str, Any]) -> Drawing:
    whole, left_out = drawing_of(piece_key, data["of"]), set(data.get("without", ()))
    if left_out - whole.keys:
        right = ", ".join(sorted(whole.keys))
        raise BadValue(f"drawing of {piece_key}", f"without {sorted(left_out - whole.keys)}", right)
    return replace(
        whole,
        key=piece_key,
        regions=tuple(one for one in whole.regions if one.key not in left_out),
        lines=tuple(one for one in whole.lines if one.key not in left_out),
    )


@lru_cache(maxsize=256)
def _drawn(piece_key: str, text: str) -> Drawing:
    data = json.loads(text)
    if isinstance(data.get("of"), str):
        return _without(piece_key, data)
    try:
        return draw(
            piece_key,
            Spec(
                family=Family(data["family"]),
                view=data.get("view", ""),
                parts=[_part(part) for part in data["parts"]],
                lines=[_seam(seam) for seam in data.get("seams", ())]
                + [_cut(cut) for cut in data.get("cuts", ())],
                ends=data.get("ends", {}),
                thick=data.get("thick", "left"),
                taper=data.get("taper"),
                bones=data.get("bones", 0),
            ),
        )
    except (KeyError, TypeError, AttributeError) as wrong:
        raise BadValue(
            f"drawing of {piece_key}", f"{wrong} is missing or wrong", "family and parts are right"
        ) from wrong
    except BadValue:
        raise
    except ValueError as wrong:
        raise BadValue(f"drawing of {piece_key}", str(wrong), "see data/README.md") from wrong


def drawn_for(drawing: Drawing, touched: Iterable[str], by_others: Iterable[str]) -> Drawing:
    """A drawing without the lines that only the steps of other plans touch: one plan's cuts at a time.

    `touched`, `by_others`: keys of parts.
    """
    hidden = (frozenset(by_others) - frozenset(touched)) & {one.key for one in drawing.lines}
    return _without_lines(drawing, hidden) if hidden else drawing


@lru_cache(maxsize=256)
def _without_lines(drawing: Drawing, hidden: frozenset[str]) -> Drawing:
    return replace(drawing, lines=tuple(one for one in drawing.lines if one.key not in hidden))


def _part(data: dict[str, Any]) -> FamilyPart:
    return FamilyPart(**{**data, "kind": Kind(data["kind"]) if "kind" in data else None})


def _seam(data: dict[str, Any]) -> Along:
    along = data["along"]
    return Along(
        data["key"],
        data.get("from", 0),
        data.get("to", 1),
        along,
        along,
        LineKind.SEAM,
        data.get("label", ""),
        tuple(data.get("of", ())),
    )


def _cut(data: dict[str, Any]) -> Along:
    """Across at `at` (from `from` to `to`, aslant with `to_x`), or lengthwise at `along`."""
    at = data["at"]
    low, high = data.get("from", -0.08), data.get("to", 1.08)
    if "along" in data:
        low = high = data["along"]
    return Along(
        data["key"],
        at,
        data.get("to_x", at),
        low,
        high,
        LineKind(data.get("kind", "cut")),
        data.get("label", ""),
        tuple(data.get("of", ())),
    )


@dataclass(frozen=True)
class SeamView:
    """A drawing on a page: what a step lights, the step numbers of its lines."""

    drawing: Drawing
    lit: frozenset[str] = frozenset()
    numbers: Mapping[str, int] = field(default_factory=dict)
    words: str = ""
    id: str = "seam"
    only: str = ""
    """One width alone, as beside the scale; then only what is lit is named outside."""

    @cached_property
    def widths(self) -> list[tuple[str, Lettered]]:
        return [
            (name, lay_out(self.drawing, glass, self.lit, self.numbers, only_lit=bool(self.only)))
            for name, glass in (("wide", WIDE), ("narrow", NARROW))
            if self.only in ("", name)
        ]
