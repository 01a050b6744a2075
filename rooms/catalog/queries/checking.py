"""Whether a catalog document is whole: its shape by the schema, its sense by the rules here."""

import json
import re
from dataclasses import dataclass
from decimal import Decimal
from functools import lru_cache
from typing import Any

from jsonschema import Draft202012Validator, ValidationError

from cutting.errors import BadValue, Fault
from cutting.sheet.cutting_test import same_name
from rooms.catalog.queries.drawings import drawing_of
from rooms.catalog.queries.shipped import DATA

SCHEMA = DATA / "catalog.schema.json"
ITEM_NUMBER = re.compile(r"[0-9]{3,4}[A-Z]?")
"""USDA IMPS: three digits and perhaps a letter, four for portion cuts."""


MOST_SHOWN = 60
RESERVED = frozenset({"new", "find", "cuts", "muscles", "files", "changes", "same-map", "bought"})
"""Keys that pages have in their addresses."""


@lru_cache(maxsize=1)
def schema() -> Draft202012Validator:
    return Draft202012Validator(json.loads(SCHEMA.read_text(encoding="utf-8")))


@dataclass(frozen=True)
class KnownKeys:
    """Keys a document may refer to beyond its own."""

    muscles: frozenset[str] = frozenset()
    primals: frozenset[str] = frozenset()
    cuts: frozenset[str] = frozenset()

    def with_own(self, document: dict[str, Any]) -> "KnownKeys":
        return KnownKeys(*(getattr(self, part) | set(document[part]) for part in PARTS))


PARTS = ("muscles", "primals", "cuts")


def faults(document: object, known: KnownKeys | None = None) -> list[Fault]:
    """Everything wrong with a catalog document, in reading order; empty when it is whole."""
    found = [
        Fault(_path(wrong.absolute_path), *_plainly(wrong))
        for wrong in sorted(schema().iter_errors(document), key=lambda wrong: wrong.json_path)
    ]
    if found or not isinstance(document, dict):
        return found
    known = (known or KnownKeys()).with_own(document)
    for part in ("cuts", "pieces"):
        found += [
            Fault(f"{part}.{key}", "this key is a page's own", "another key is right")
            for key in sorted(RESERVED.intersection(document[part]))
        ]
    for key, cut in document["cuts"].items():
        found += _of_cut(f"cuts.{key}", cut, known)
    for key, piece in document["pieces"].items():
        found += _of_piece(f"pieces.{key}", key, piece, known)
    return found


def _plainly(wrong: ValidationError) -> tuple[str, str]:
    """What is wrong and what would be right, without printing the value whole."""
    asked, value = wrong.validator_value, wrong.instance
    short = json.dumps(value, ensure_ascii=False, default=str)
    short = short if len(short) <= MOST_SHOWN else f"{short[: MOST_SHOWN - 1]}…"
    if wrong.validator == "required":
        missing = [name for name in asked if name not in value]
        return f"{', '.join(missing)} is missing", f"{', '.join(asked)} are needed"
    if wrong.validator == "additionalProperties":
        more = sorted(set(value) - set(wrong.schema.get("properties", {})))
        return f"{', '.join(more)[:MOST_SHOWN]} is not known here", "see docs/formats/catalog.md"
    words = {
        "maxItems": (f"{_count(value)} entries", f"at most {asked} are right"),
        "minItems": (f"{_count(value)} entries", f"at least {asked} is right"),
        "maxLength": (f"{_count(value)} characters", f"at most {asked} are right"),
        "minLength": ("it is empty", "a text is right"),
        "type": (short, f"{asked} is right"),
        "enum": (short, f"{', '.join(map(str, asked)) if isinstance(asked, list) else asked}"),
        "uniqueItems": ("an entry stands twice", "each once is right"),
    }
    return words.get(str(wrong.validator), (short, "see docs/formats/catalog.md"))


def _count(value: object) -> int:
    return len(value) if isinstance(value, str | list | dict) else 0


def _path(parts: Any) -> str:
    text = "".join(f"[{part}]" if isinstance(part, int) else f".{part}" for part in parts)
    return text.lstrip(".") or "the document"


def _of_cut(path: str, cut: dict[str, Any], known: KnownKeys) -> list[Fault]:
    found = []
    if cut["muscle"] not in known.muscles:
        found.append(Fault(f"{path}.muscle", f"{cut['muscle']!r} is no muscle", "a known key"))
    return found + _item_number(path, cut)


def _item_number(path: str, data: dict[str, Any]) -> list[Fault]:
    number = data.get("item_number", "")
    if number and not ITEM_NUMBER.fullmatch(number):
        return [Fault(f"{path}.item_number", f"{number!r}", "like 184, 116A or 1112A")]
    return []


def _of_piece(path: str, key: str, piece: dict[str, Any], known: KnownKeys) -> list[Fault]:
    found = _item_number(path, piece)
    if piece["primal"] not in known.primals:
        found.append(Fault(f"{path}.primal", f"{piece['primal']!r} is no primal", "a known key"))
    drawing = None
    if piece.get("drawing"):
        try:
            drawing = drawing_of(key, piece["drawing"])
        except BadValue as bad:
            found.append(Fault(f"{path}.drawing", f"{bad.field}: {bad.wrong}", bad.right))
    if drawing is not None:
        unknown = sorted(drawing.muscles - known.muscles)
        if unknown:
            found.append(Fault(f"{path}.drawing", f"{unknown} are no muscles", "known keys"))
    plans = [plan["key"] for plan in piece["plans"]]
    found += _twice(f"{path}.plans", plans)
    found += _twice(f"{path}.steps", [step["key"] for step in piece.get("steps", [])])
    for i, step in enumerate(piece.get("steps", [])):
        found += _of_step(f"{path}.steps[{i}]", step, drawing, plans)
    for i, plan in enumerate(piece["plans"]):
        found += of_outputs(f"{path}.plans[{i}]", plan["outputs"])
        for j, output in enumerate(plan["outputs"]):
            cut = output.get("cut")
            if cut is not None and cut not in known.cuts:
                where = f"{path}.plans[{i}].outputs[{j}].cut"
                found.append(Fault(where, f"no cut {cut!r}", "a key of the cuts"))
    return found


def _of_step(path: str, step: dict[str, Any], drawing: Any, plans: list[str]) -> list[Fault]:
    found = []
    unlit = [] if drawing is None else [k for k in step["touches"] if k not in drawing.keys]
    if unlit:
        right = ", ".join(sorted(drawing.keys))
        found.append(Fault(f"{path}.touches", f"{unlit} are not in the drawing", right))
    lost = [plan for plan in step.get("plans", []) if plan not in plans]
    if lost:
        found.append(Fault(f"{path}.plans", f"{lost} are no plans of it", ", ".join(plans)))
    return found


PRODUCTS = ("portions", "secondary")


def pairing(piece: dict[str, Any]) -> list[Fault]:
    """Where products and steps do not pair: a product no step makes, a step that makes a product
    no output of its plan stands for, an output named to a step that does not fill its pile.

    A plan in which no output names a step is left alone: a shop's own may do without.
    """
    found = []
    for plan in piece["plans"]:
        if not any(output.get("made_by") for output in plan["outputs"]):
            continue
        steps = [s for s in piece.get("steps", []) if plan["key"] in s.get("plans", [plan["key"]])]
        found += _unmade(plan, {step["key"]: step for step in steps})
        found += _unsold(plan, steps)
    return found


def _unmade(plan: dict[str, Any], steps: dict[str, dict[str, Any]]) -> list[Fault]:
    found = []
    for output in plan["outputs"]:
        path = f"plan {plan['name']}, output {output['name']}"
        made_by = output.get("made_by", [])
        if output["pile"] in PRODUCTS and not made_by:
            found.append(Fault(path, "no step makes it", "choose the step it is made by"))
        for key in made_by:
            step = steps.get(key)
            if step is None:
                found.append(Fault(path, f"{key!r} is no step of this plan", ", ".join(steps)))
            elif output["pile"] not in step["piles"]:
                fills = ", ".join(step["piles"])
                found.append(
                    Fault(path, f"“{step['title']}” fills no {output['pile']}", f"it fills {fills}")
                )
    return found


def _unsold(plan: dict[str, Any], steps: list[dict[str, Any]]) -> list[Fault]:
    sold = {(key, o["pile"]) for o in plan["outputs"] for key in o.get("made_by", [])}
    return [
        Fault(
            f"plan {plan['name']}, step {step['title']}",
            f"it makes {pile} that are no output of the plan",
            "an output made by it is right, or another pile of the step",
        )
        for step in steps
        for pile in step["piles"]
        if pile in PRODUCTS and (step["key"], pile) not in sold
    ]


def of_outputs(path: str, outputs: list[dict[str, Any]]) -> list[Fault]:
    """Shares sum to at most 1 and no name stands twice."""
    total = sum((Decimal(output["share"]) for output in outputs if "share" in output), Decimal(0))
    found = []
    if total > 1:
        found.append(Fault(f"{path}.outputs", f"shares sum to {total}", "at most 1 is right"))
    keys = [output["key"] for output in outputs if "key" in output]
    names = [same_name(output["name"]) for output in outputs]
    return found + _twice(f"{path}.outputs", names) + _twice(f"{path}.outputs", keys)


def _twice(path: str, names: list[str]) -> list[Fault]:
    twice = sorted({name for name in names if names.count(name) > 1})
    return (
        [Fault(path, f"{', '.join(twice)} is there twice", "each once is right")] if twice else []
    )
