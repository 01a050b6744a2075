"""The shipped data files as one catalog document. No database here."""

import tomllib
from functools import lru_cache
from pathlib import Path
from typing import Any

DATA = Path(__file__).parents[1] / "data"
FORMAT, VERSION = "mindful-tally.catalog", 1


def _read(name: str) -> dict[str, Any]:
    return tomllib.loads((DATA / name).read_text(encoding="utf-8"))


@lru_cache(maxsize=1)
def document() -> dict[str, Any]:
    """Everything that ships, in the form of docs/formats/catalog.md. Not checked here."""
    cautions = _read("cautions.toml")
    found = {path.stem: _read(f"pieces/{path.name}") for path in (DATA / "pieces").glob("*.toml")}
    return {
        "format": FORMAT,
        "version": VERSION,
        "muscles": _read("muscles.toml"),
        "primals": _read("primals.toml"),
        "cuts": _read("cuts.toml"),
        "pieces": {key: _piece(found[key], found, cautions) for key in _in_order(found)},
    }


def _in_order(found: dict[str, dict[str, Any]]) -> list[str]:
    """Pieces in the order of their primals, then by key."""
    primals = list(_read("primals.toml"))
    return sorted(found, key=lambda key: (primals.index(found[key]["primal"]), key))


def _piece(
    data: dict[str, Any], found: dict[str, dict[str, Any]], cautions: dict[str, str]
) -> dict[str, Any]:
    """A piece with its cautions in words and the steps it shares with another."""
    steps = data.get("steps", [])
    if "steps_of" in data:
        skipped = data.get("skip_steps", [])
        taken = [step for step in found[data["steps_of"]]["steps"] if step["key"] not in skipped]
        steps = [*steps, *taken]
    piece = {k: v for k, v in data.items() if k not in ("steps_of", "skip_steps")}
    piece["cautions"] = [cautions.get(caution, caution) for caution in data.get("cautions", [])]
    piece["steps"] = [
        {**step, "caution": cautions.get(step["caution"], step["caution"])}
        if "caution" in step
        else step
        for step in steps
    ]
    return piece
