"""A catalog document as rows, and rows as a document. One place says how the two correspond.

A row is `(key, fields)`: the key a tuple within its model, references by the key of the other.
"""

from collections.abc import Collection, Iterator
from decimal import Decimal
from typing import Any

from django.utils.text import slugify

from cutting.sheet.cutting_test import same_name
from cutting.sheet.machines import Machine
from rooms.catalog.models import ROLE_OF_PILE, Cut, Muscle, Piece, Plan, PlanOutput, Primal, Step
from rooms.catalog.queries.shipped import FORMAT, VERSION

EMPTY = {
    "format": FORMAT,
    "version": VERSION,
    "muscles": {},
    "primals": {},
    "cuts": {},
    "pieces": {},
}
LONGEST_KEY = 50
Row = tuple[tuple[str, ...], dict[str, Any]]
MODELS = (Muscle, Primal, Cut, Piece, Step, Plan, PlanOutput)
REFERENCES = {"muscle": Muscle, "primal": Primal, "cut": Cut, "piece": Piece, "plan": Plan}

MUSCLE = {"latin": "", "name": "", "kind": "muscle", "synonyms": [], "note": "", "doubt": ""}
PRIMAL = {"species": "", "name": "", "other_name": ""}
CUT: dict[str, Any] = {
    "name": "",
    "other_name": "",
    "house_name": "",
    "synonyms": [],
    "species": "",
    "muscle": None,
    "item_number": "",
    "cooking": "",
    "done": "",
    "why": "",
    "grades": {},
    "serves": None,
    "mistaken_for": "",
    "story": "",
    "counter": "self",
    "tray": "",
    "least_age_days": None,
    "is_cut_across": False,
    "is_cubed": False,
    "is_tenderized": False,
    "is_ground": False,
    "doubt": "",
}
PIECE: dict[str, Any] = {
    "name": "",
    "other_name": "",
    "house_name": "",
    "synonyms": [],
    "species": "",
    "primal": None,
    "item_number": "",
    "item_number_source": "",
    "place": "",
    "landmarks": [],
    "tools": [],
    "looks": "",
    "drawing": None,
    "cautions": [],
    "doubts": [],
    "least_age_days": None,
}
STEP = {
    "title": "",
    "find": "",
    "do": "",
    "right": "",
    "mistake": "",
    "why": "",
    "piles": [],
    "touches": [],
    "plans": [],
    "caution": "",
    "tick": "",
    "school": "",
    "machine": "",
}
PLAN: dict[str, Any] = {
    "name": "",
    "school": "plain",
    "note": "",
    "is_sawn": False,
    "minutes_per_lb": None,
}
OUTPUT = {
    "name": "",
    "pile": "",
    "thickness": "",
    "part": "",
    "zone": "",
    "bones": "",
    "usual_count": "",
    "goes_on": "",
    "made_by": [],
    "is_counted": False,
    "in_case": False,
    "cut": None,
}
IN_THE_FILE = {"tick": "check", "is_counted": "counted", "usual_count": "count"}
"""What a field is called in a document, where it differs."""


def _fields(data: dict[str, Any], defaults: dict[str, Any]) -> dict[str, Any]:
    """Every field, from the document or by default: what is not written is empty."""
    return {name: data.get(IN_THE_FILE.get(name, name), usual) for name, usual in defaults.items()}


def rows_of(document: dict[str, Any]) -> dict[type, list[Row]]:
    """All rows of a checked document, by model."""
    rows: dict[type, list[Row]] = {model: [] for model in MODELS}
    for key, muscle in document["muscles"].items():
        rows[Muscle].append(((key,), _fields(muscle, MUSCLE)))
    for position, (key, primal) in enumerate(document["primals"].items()):
        rows[Primal].append(((key,), {**_fields(primal, PRIMAL), "position": position}))
    for key, cut in document["cuts"].items():
        rows[Cut].append(((key,), cut_fields(cut)))
    for position, (key, piece) in enumerate(document["pieces"].items()):
        for model, row in piece_rows(key, piece, position):
            rows[model].append(row)
    return rows


def cut_fields(cut: dict[str, Any]) -> dict[str, Any]:
    """The fields of a cut."""
    serves = cut.get("serves")
    return {**_fields(cut, CUT), "serves": None if serves is None else Decimal(serves)}


def piece_rows(key: str, piece: dict[str, Any], position: int) -> Iterator[tuple[type, Row]]:
    """A piece with its steps, plans and outputs."""
    usual = piece.get("usual_weight")
    yield (
        Piece,
        (
            (key,),
            {
                **_fields(piece, PIECE),
                "usual_weight": Decimal(usual["value"]) if usual else None,
                "usual_unit": usual["unit"] if usual else "lb",
                "position": position,
            },
        ),
    )
    for place, step in enumerate(piece.get("steps", [])):
        fields = {**_fields(step, STEP), "position": place}
        if step.get("is_sawn") and not fields["machine"]:  # as files before said it
            fields["machine"] = Machine.SAW.value
        yield Step, ((key, step["key"]), fields)
    for place, plan in enumerate(piece["plans"]):
        pace = plan.get("minutes_per_lb")
        fields = {
            **_fields(plan, PLAN),
            "is_sawn": plan.get("sawn", False),
            "minutes_per_lb": None if pace is None else Decimal(pace),
            "position": place,
        }
        yield Plan, ((key, plan["key"]), fields)
        keys = output_keys(plan["outputs"])
        for at, (output, own) in enumerate(zip(plan["outputs"], keys, strict=True)):
            yield PlanOutput, ((key, plan["key"], own), output_fields(output, at))


def output_keys(outputs: list[dict[str, Any]], known: dict[str, str] | None = None) -> list[str]:
    """The identity of each output of a plan: as the document says, else that of the output of the
    same name (`known`: key by folded name), else a new one.

    A new key is made from the name where its script allows, and is no other's.
    """
    said = {output["key"] for output in outputs if "key" in output}
    known = {name: key for name, key in (known or {}).items() if key not in said}
    found = [output.get("key") or known.get(same_name(output["name"]), "") for output in outputs]
    taken = said | set(known.values())
    for i, output in enumerate(outputs):
        if not found[i]:
            found[i] = free_key(
                slugify(output["name"])[:LONGEST_KEY].strip("-_") or "output", taken
            )
            taken.add(found[i])
    return found


def free_key(key: str, taken: Collection[str]) -> str:
    """The key, or the key with the first number that is free."""
    free, tried = key, 1
    while free in taken:
        tried += 1
        free = f"{key}-{tried}"
    return free


def with_output_keys(document: dict[str, Any]) -> dict[str, Any]:
    """The document with the identity of every output written out, where the shop has it already."""
    rows = PlanOutput.everything.filter(plan__piece__key__in=document["pieces"])
    known: dict[tuple[str, str], dict[str, str]] = {}
    for piece, plan, name, key in rows.order_by("-is_dropped").values_list(
        "plan__piece__key", "plan__key", "name", "key"
    ):
        known.setdefault((piece, plan), {})[same_name(name)] = key

    def keyed(piece: str, plan: dict[str, Any]) -> dict[str, Any]:
        own = output_keys(plan["outputs"], known.get((piece, plan["key"])))
        pairs = zip(plan["outputs"], own, strict=True)
        return {**plan, "outputs": [{**output, "key": key} for output, key in pairs]}

    pieces = {
        key: {**piece, "plans": [keyed(key, plan) for plan in piece["plans"]]}
        for key, piece in document["pieces"].items()
    }
    return {**document, "pieces": pieces}


def output_fields(output: dict[str, Any], position: int) -> dict[str, Any]:
    """The fields of one pile of a plan."""
    target = output.get("target")
    role = output.get("role") or ROLE_OF_PILE[output["pile"]].value
    return {
        **_fields(output, OUTPUT),
        "role": role,
        "share": Decimal(output["share"]) if "share" in output else None,
        "target_value": Decimal(target["value"]) if target else None,
        "target_unit": target["unit"] if target else "",
        "position": position,
    }


# --- and back -------------------------------------------------------------------------------


def document_of(only: str | None = None) -> dict[str, Any]:
    """The shop's catalog as a document, what is dropped left out: six queries.

    `only`: the key of one piece; then just that piece, in four queries.
    """
    pieces = Piece.objects.select_related("primal")
    if only is not None:
        pieces = pieces.filter(key=only)
    steps, plans = _by(Step, "piece", only), _by(Plan, "piece", only)
    outputs = _by(PlanOutput.objects.select_related("cut"), "plan", only)
    return {
        **EMPTY,
        "pieces": {
            p.key: {
                **_written(p, PIECE),
                **(
                    {"usual_weight": {"value": f"{p.usual_weight:f}", "unit": p.usual_unit}}
                    if p.usual_weight is not None
                    else {}
                ),
                "steps": [
                    {"key": s.key, **_written(s, STEP, keep=("piles", "touches"))}
                    for s in steps.get(p.pk, [])
                ],
                "plans": [
                    {
                        "key": plan.key,
                        **_written(plan, PLAN),
                        "outputs": [_output(o) for o in outputs.get(plan.pk, [])],
                    }
                    for plan in plans.get(p.pk, [])
                ],
            }
            for p in pieces
        },
        **(
            {}
            if only is not None
            else {
                "muscles": {m.key: _written(m, MUSCLE) for m in Muscle.objects.order_by("key")},
                "primals": {p.key: _written(p, PRIMAL) for p in Primal.objects.all()},
                "cuts": {
                    c.key: cut_document(c)
                    for c in Cut.objects.select_related("muscle").order_by("key")
                },
            }
        ),
    }


def cut_document(cut: Cut) -> dict[str, Any]:
    return _written(cut, CUT)


def _by(rows: Any, parent: str, only: str | None) -> dict[int, list[Any]]:
    """Rows in use by the id of their parent."""
    found: dict[int, list[Any]] = {}
    rows = getattr(rows, "objects", rows)
    if only is not None:
        piece = "piece__key" if parent == "piece" else "plan__piece__key"
        rows = rows.filter(**{piece: only})
    for row in rows.order_by("position", "id"):
        found.setdefault(getattr(row, f"{parent}_id"), []).append(row)
    return found


def _written(row: Any, defaults: dict[str, Any], keep: tuple[str, ...] = ()) -> dict[str, Any]:
    """Only what differs from the default is written, so that files stay readable."""
    found = {}
    for name, usual in defaults.items():
        value = getattr(row, name)
        if name in REFERENCES:
            value = value.key if value else None
        if isinstance(value, Decimal):
            value = f"{value:f}"
        if value != usual or name in keep:
            found[IN_THE_FILE.get(name, name)] = value
    if "is_sawn" in found and isinstance(row, Plan):
        found["sawn"] = found.pop("is_sawn")
    return found


def _output(output: PlanOutput) -> dict[str, Any]:
    found = {"key": output.key, **_written(output, OUTPUT)}
    if output.role != ROLE_OF_PILE[output.pile].value:
        found["role"] = output.role
    if output.share is not None:
        found["share"] = f"{output.share:f}"
    if output.target_value is not None:
        found["target"] = {"value": f"{output.target_value:f}", "unit": output.target_unit}
    return found
