"""Where two cutting test documents of one id part, by JSON path; numbers count as numbers."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from decimal import Decimal, InvalidOperation
from typing import Any

from cutting.quantities import Unit, Weight, storable

MISSING = object()
TOP: dict[str, Any] = {
    "currency": MISSING,
    "piece": MISSING,
    "scale_division": MISSING,
    "sawn": False,
    "labour_rate_per_hour": None,
    "outputs": [],
}
PIECE: dict[str, Any] = {
    "name": MISSING,
    "species": MISSING,
    "item_number": "",
    "weight": MISSING,
    "opened_weight": None,
    "price": MISSING,
    "freight": "0",
    "discount": "0",
}
OUTPUT: dict[str, Any] = {
    "name": MISSING,
    "role": MISSING,
    "weighings": [],
    "count": None,
    "target": None,
    "credit": None,
    "replacement": None,
    "in_case": False,
    "minutes": None,
}
"""Without the retail price: it is the price book's, and moves while the test stays the same."""
WEIGHING: dict[str, Any] = {
    "value": MISSING,
    "unit": MISSING,
    "division": None,
    "readings": 1,
    "typed": False,
}
ONLY_IF_SAID = ("key", "at", "tare", "portions")
"""Of a weighing: compared only where the newcomer has it."""


@dataclass(frozen=True, slots=True)
class Difference:
    """One value that differs: where, as it is here, as the newcomer has it."""

    path: str
    here: str
    there: str

    def __str__(self) -> str:
        return f"{self.path}: {self.here} here, {self.there} in the file"


def differences(
    here: Mapping[str, Any], there: Mapping[str, Any], record: Sequence[str]
) -> list[Difference]:
    """What `there` says otherwise than `here`; fields that only `here` has do not count.

    `record`: the record's fields that are kept and so compared. Outputs without a weighing and
    repeats of a weighing's key change nothing, so they are left out first.
    """
    found: list[Difference] = []
    for key, usual in TOP.items():
        if key not in ("piece", "outputs"):
            _same(found, f"$.{key}", here.get(key, usual), there.get(key, usual))
    for key, usual in PIECE.items():
        mine, theirs = here["piece"].get(key, usual), there["piece"].get(key, usual)
        _same(found, f"$.piece.{key}", mine, theirs)
    _outputs(found, _weighed(here), _weighed(there))
    mine, theirs = here.get("record", {}), there.get("record", {})
    moments = str(mine.get("started_at", "")), str(theirs.get("started_at", ""))
    derived = (
        {"cut_on"} if _is_same_moment(*moments) else set()
    )  # the day of that moment, in each zone
    for key in record:
        if key in theirs and key not in derived:
            _same(found, f"$.record.{key}", mine.get(key), theirs[key])
    return found


def _weighed(document: Mapping[str, Any]) -> list[dict[str, Any]]:
    kept, seen = [], set()
    for output in document.get("outputs", []):
        weighings = []
        for one in output.get("weighings", []):
            if one.get("key") is None or one["key"] not in seen:
                weighings.append(one)
            seen.add(one.get("key"))
        if weighings:
            kept.append({**output, "weighings": weighings})
    return kept


def _outputs(
    found: list[Difference], here: list[dict[str, Any]], there: list[dict[str, Any]]
) -> None:
    names = [one["name"] for one in here], [one["name"] for one in there]
    if names[0] != names[1]:
        found.append(Difference("$.outputs", ", ".join(names[0]), ", ".join(names[1])))
        return
    for i, (mine, theirs) in enumerate(zip(here, there, strict=True)):
        for key, usual in OUTPUT.items():
            if key != "weighings":
                path = f"$.outputs[{i}].{key}"
                _same(found, path, mine.get(key, usual), theirs.get(key, usual))
        path = f"$.outputs[{i}].weighings"
        if len(mine["weighings"]) != len(theirs["weighings"]):
            counts = (f"{len(one['weighings'])} weighings" for one in (mine, theirs))
            found.append(Difference(path, *counts))
            continue
        for j, (a, b) in enumerate(zip(mine["weighings"], theirs["weighings"], strict=True)):
            b = _as_kept(b)  # noqa: PLW2901
            for key, usual in WEIGHING.items():
                _same(found, f"{path}[{j}].{key}", a.get(key, usual), b.get(key, usual))
            for key in ONLY_IF_SAID:
                if key in b:
                    _same(found, f"{path}[{j}].{key}", a.get(key), b[key])


def _as_kept(weighing: Mapping[str, Any]) -> Mapping[str, Any]:
    """A division in another unit than its weighing, as it was converted when it was taken in."""
    division = weighing.get("division")
    if not isinstance(division, Mapping) or division.get("unit") == weighing.get("unit"):
        return weighing
    kept = storable(Weight.of(division["value"], division["unit"]), Unit(weighing["unit"]))
    return {**weighing, "division": {"value": f"{kept.value:f}", "unit": kept.unit.value}}


def _same(found: list[Difference], path: str, here: Any, there: Any) -> None:
    if not _equal(here, there):
        found.append(Difference(path, _shown(here), _shown(there)))


def _equal(here: Any, there: Any) -> bool:
    if isinstance(here, Mapping) and isinstance(there, Mapping):
        keys = {*here, *there} if here and there else {*here}
        return all(_equal(here.get(key), there.get(key)) for key in keys)
    if isinstance(here, list) and isinstance(there, list):
        return len(here) == len(there) and all(
            _equal(a, b) for a, b in zip(here, there, strict=True)
        )
    if isinstance(here, str) and isinstance(there, str):
        try:
            return here == there or Decimal(here) == Decimal(there)
        except InvalidOperation:
            return _is_same_moment(here, there)
    return type(here) is type(there) and bool(here == there)


def _is_same_moment(here: str, there: str) -> bool:
    """Whether both are moments with their zones, and the same: a shop that moved its zone writes it
    otherwise."""
    try:
        one, other = datetime.fromisoformat(here), datetime.fromisoformat(there)
    except ValueError:
        return False
    return one.tzinfo is not None and other.tzinfo is not None and one == other


def _shown(value: Any) -> str:
    if value is None or value is MISSING:
        return "nothing"
    if isinstance(value, Mapping):
        return " ".join(str(part) for part in value.values())[:60]
    if isinstance(value, list):
        return f"{len(value)} entries"
    text = str(value)
    return (text if text.isprintable() else ascii(text))[:60]
