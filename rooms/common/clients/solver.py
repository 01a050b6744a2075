"""Asking the solver's process. It may be away, or answer what nobody can read: then that is said, and the
last plan stands."""

import json
from collections.abc import Iterable, Iterator
from functools import lru_cache
from pathlib import Path
from typing import Any

from django.conf import settings
from jsonschema import Draft202012Validator

from rooms.common.clients.processes import Declined, NoAnswer, Unreadable, ask_json
from rooms.common.errors import BadInput, Refused

SECONDS, LONG_SECONDS = 25, 90
"""For a plan, and for what things are worth, which the page does not wait for."""
SCHEMA = Path(__file__).parent / "data" / "solver.schema.json"
LARGEST = 8 * 1024 * 1024
"""Bytes of an answer."""


class Away(Refused):
    """The solver does not answer, or not with an answer."""


def ask(path: str, asked: dict[str, Any], seconds: float = SECONDS) -> dict[str, Any]:
    """What the solver answers, read by its schema. Raises BadInput with what cannot be met, Away where
    nobody answers in time or the answer is none."""
    try:
        found = ask_json(settings.SOLVER_URL + path, asked, seconds=seconds, largest=LARGEST)
    except Declined as no:
        if no.status == 422:
            raise BadInput(said(_faults(no.words))) from None
        raise Away(f"The solver failed ({no.status}); the last plan stands. Try again.") from None
    except Unreadable:
        raise _unreadable() from None
    except NoAnswer:
        raise Away(
            "The solver does not answer; the last plan stands. It is started with the shop; see"
            " docs/running.md."
        ) from None
    return checked(path, asked, found)


def checked(path: str, asked: dict[str, Any], found: Any) -> dict[str, Any]:
    """An answer that keeps to its schema and tells of nothing that was not asked. Raises Away."""
    if not _schema(path).is_valid(found) or not _is_of(path, asked, found):
        raise _unreadable()
    return dict(found)


def _unreadable() -> Away:
    return Away(
        "The solver answered with something else than an answer; the last plan stands. Is it of the same"
        " version? Start it again."
    )


def _faults(words: str) -> list[str]:
    """Raises Away where the refusal itself cannot be read."""
    try:
        faults = json.loads(words)["faults"]
    except (ValueError, KeyError, TypeError):
        raise _unreadable() from None
    if not isinstance(faults, list) or not all(isinstance(one, str) for one in faults):
        raise _unreadable()
    return faults


@lru_cache(maxsize=8)
def _schema(path: str) -> Draft202012Validator:
    whole = json.loads(SCHEMA.read_text(encoding="utf-8"))
    return Draft202012Validator({"$ref": f"#/$defs/{path.strip('/')}", "$defs": whole["$defs"]})


def _is_of(path: str, asked: dict[str, Any], found: dict[str, Any]) -> bool:
    """Whether every bag, way, product, cutter, offer and tub of an answer was asked about."""
    return all(set(own) <= set(known) for known, own in _NAMES[path](asked, found))


Pairs = Iterator[tuple[Iterable[str], Iterable[str]]]
"""Names that were asked about, and names of the answer."""


def _of(rows: Iterable[dict[str, Any]], name: str) -> list[str]:
    return [row[name] for row in rows]


def _of_day(asked: dict[str, Any], found: dict[str, Any]) -> Pairs:
    made = found.get("made_of", [])
    ways = _of(asked["ways"], "id")
    cutters = asked.get("block", {}).get("cutters", [])
    ground = ["grinder"] if cutters else []
    yield _of(asked["bags"], "id"), _of(found["cut"] + found["not_cut"], "bag")
    yield ways, [part["way"] for row in made for part in row["parts"]]
    yield [*ways, *_of(made, "id")], _of(found["cut"], "way")
    yield [*ways, *_of(made, "id"), *ground], _of(found.get("hands", []), "way")
    yield _of(cutters, "name"), _of(found.get("hands", []), "cutter")
    yield _of(asked["products"], "name"), _of(found["products"], "name")


def _of_worth(asked: dict[str, Any], found: dict[str, Any]) -> Pairs:
    day = asked["day"]
    products = _of(day["products"], "name")
    yield [asked["of"]], found
    yield products, found.get("products", ())
    yield products, found.get("sure", {}).get("met", ())
    yield _of(day["bags"], "id"), found.get("musts", ())


def _of_order(asked: dict[str, Any], found: dict[str, Any]) -> Pairs:
    offers, ways = _of(asked["offers"], "id"), _of(asked["day"]["ways"], "id")
    costs = [row for one in found["costs"] for row in one["from"]]
    cut = [row for one in found["buys"] for row in one["cut"]]
    yield offers, _of([*found["buys"], *costs], "offer")
    yield ways, _of([*cut, *costs], "way")
    products = _of(asked["day"]["products"], "name")
    yield products, [*_of(found["products"], "name"), *_of(found["costs"], "product")]


def _of_blend(asked: dict[str, Any], found: dict[str, Any]) -> Pairs:
    tubs, batches = _of(asked["tubs"], "name"), _of(asked["batches"], "name")
    takes = [row for one in found["batches"] for row in one["take"]]
    yield tubs, _of([*takes, *found["worth"], *found["left"]], "tub")
    yield batches, _of(found["batches"], "name")
    yield _of(found["batches"], "name"), batches


_NAMES = {"/choose": _of_day, "/worth": _of_worth, "/order": _of_order, "/blend": _of_blend}


def said(faults: list[str]) -> str:
    """What cannot be met, without the paths of the document."""
    return " ".join(fault.split(": ", 1)[-1].strip().rstrip(".") + "." for fault in faults[:4])
