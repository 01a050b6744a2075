"""Parts of a catalog document as CSV tables, and back. Lists stand with " | " between."""

from typing import Any

from cutting.sheet.cutting_test import same_name
from rooms.catalog.queries.rows import CUT, PIECE, document_of
from rooms.common.errors import BadInput
from rooms.common.tables.files import csv_text, rows_of

OUTPUT_COLUMNS = (
    "piece",
    "plan",
    "key",
    "name",
    "pile",
    "role",
    "share",
    "cut",
    "target",
    "unit",
    "thickness",
    "part",
    "zone",
    "bones",
    "count",
    "goes_on",
    "made_by",
    "counted",
    "in_case",
)
STEP_COLUMNS = (
    "piece",
    "key",
    "title",
    "find",
    "do",
    "right",
    "mistake",
    "why",
    "piles",
    "touches",
    "plans",
    "caution",
    "check",
    "school",
    "machine",
)
LISTS = {
    "synonyms",
    "landmarks",
    "tools",
    "cautions",
    "doubts",
    "piles",
    "touches",
    "plans",
    "made_by",
}
FLAGS = {"is_cut_across", "is_cubed", "is_tenderized", "is_ground", "counted", "in_case", "is_sawn"}
TABLES = {
    "cuts": ("key", *CUT),
    "pieces": ("key", *(name for name in PIECE if name != "drawing"), "usual_weight", "unit"),
    "outputs": OUTPUT_COLUMNS,
    "steps": STEP_COLUMNS,
}


LATER = {
    "cuts": {"grades", "serves", "mistaken_for", "story", "done", "why"},
    "outputs": {"key", "made_by", "part", "zone", "bones", "count", "goes_on"},
    "steps": {"machine", "school", "why"},
}
"""Columns that tables of earlier versions do not have."""
KEPT = {"done", "why", "part", "zone", "bones", "count", "goes_on"}
"""Of those, the ones that a table without them leaves as they are in the shop."""
EARLIER = {"steps": {"is_sawn"}}
"""Columns that only they have."""


def write(table: str, document: dict[str, Any]) -> str:
    """One table of a document as CSV text with a header row."""
    columns = TABLES[table]
    rows = ([_text(row.get(name)) for name in columns] for row in _rows(table, document))
    return csv_text(columns, rows)


def _rows(table: str, document: dict[str, Any]) -> Any:
    if table == "cuts":
        yield from ({"key": key, **cut} for key, cut in document["cuts"].items())
    for key, piece in document["pieces"].items():
        if table == "pieces":
            usual = piece.get("usual_weight", {})
            yield {
                "key": key,
                **piece,
                "usual_weight": usual.get("value"),
                "unit": usual.get("unit"),
            }
        if table == "steps":
            yield from ({"piece": key, **step} for step in piece["steps"])
        if table == "outputs":
            for plan in piece["plans"]:
                for output in plan["outputs"]:
                    target = output.get("target", {})
                    yield {
                        "piece": key,
                        "plan": plan["key"],
                        **output,
                        "target": target.get("value"),
                        "unit": target.get("unit"),
                    }


def _text(value: Any) -> str:
    if isinstance(value, list):
        return " | ".join(value)
    if isinstance(value, dict):
        return " | ".join(f"{name} {word}" for name, word in value.items())
    if isinstance(value, bool):
        return "yes" if value else ""
    return "" if value is None else str(value)


def read(raw: bytes) -> dict[str, Any]:
    """A document from one table, CSV or XLSX. BadInput names the row and column that is wrong.

    Rows change what they name: a cut or piece keeps what has no column; steps and outputs
    replace those of the pieces and plans that the table names.
    """
    found = rows_of(raw)
    columns = [cell.strip() for cell in found[0][1]] if found else []
    table = next((name for name in TABLES if _is_of(columns, name)), None)
    if table is None:
        raise BadInput(
            f"File: the columns {', '.join(columns)[:200] or '(none)'} are of no table; the first"
            f" line of an exported table is right, such as {', '.join(TABLES['cuts'][:4])} …"
        )
    rows = []
    for where, cells in found[1:]:
        if len(cells) != len(columns):
            raise BadInput(f"File: {where} has not {len(columns)} columns as the first has.")
        pairs = zip(columns, cells, strict=False)
        rows.append({name: _value(name, text, where) for name, text in pairs if text.strip()})
    return _document(table, rows, KEPT.intersection(TABLES[table]).difference(columns))


def _is_of(columns: list[str], table: str) -> bool:
    named, all_of_it = set(columns), set(TABLES[table])
    least = all_of_it - LATER.get(table, set())
    most = all_of_it | EARLIER.get(table, set())
    return len(named) == len(columns) and least <= named <= most


def _value(name: str, text: str, where: str) -> Any:
    text = text.strip()
    if name in LISTS:
        return [word.strip() for word in text.split("|") if word.strip()]
    if name == "grades":
        pairs = (word.split(maxsplit=1) for word in text.split("|") if word.strip())
        return {pair[0]: pair[-1].strip() for pair in pairs}
    if name in FLAGS:
        if text.lower() not in ("yes", "no"):
            raise BadInput(f"File: {where}, {name}: “{text}”; yes or no is right.")
        return text.lower() == "yes"
    if name == "least_age_days":
        if not (text.isascii() and text.isdecimal() and len(text) < 5):
            raise BadInput(f"File: {where}, {name}: “{text}”; a number of days is right.")
        return int(text)
    return text


def _weight(row: dict[str, Any], name: str) -> None:
    value, unit = row.pop(name, None), row.pop("unit", None)
    if value is not None:
        row[name] = {"value": value, "unit": unit or "lb"}


def _document(table: str, rows: list[dict[str, Any]], absent: set[str]) -> dict[str, Any]:
    """`absent`: columns that the table does not have and whose values stay."""
    now = document_of()
    if absent:
        rows = [{**_as_it_is(table, row, now, absent), **row} for row in rows]
    if table == "cuts":
        return {"cuts": {row.pop("key", ""): row for row in rows}}
    if table == "pieces":
        found = {}
        for row in rows:
            _weight(row, "usual_weight")
            key = row.pop("key", "")
            kept = {
                name: value
                for name, value in now["pieces"].get(key, {}).items()
                if name in ("drawing", "steps", "plans")
            }
            found[key] = {**kept, **row}
        return {"pieces": found}
    pieces: dict[str, dict[str, Any]] = {}
    for row in rows:
        key = row.pop("piece", "")
        if key not in now["pieces"]:
            raise BadInput(f"File: piece “{key}” is not in the catalog; import the pieces first.")
        piece = pieces.setdefault(key, {**now["pieces"][key]})
        if table == "steps":
            _add(piece, "steps", {"touches": [], **row}, pieces)
        else:
            _weight(row, "target")
            _to_plan(piece, row)
    for piece in pieces.values():
        piece.pop("fresh", None)
    return {"pieces": pieces}


def _as_it_is(
    table: str, row: dict[str, Any], now: dict[str, Any], names: set[str]
) -> dict[str, Any]:
    """What the shop has of these columns for the same cut, step or output."""
    if table == "cuts":
        known = now["cuts"].get(row.get("key", ""), {})
    else:
        piece = now["pieces"].get(row.get("piece", ""), {"steps": [], "plans": []})
        plans = (one for one in piece["plans"] if one["key"] == row.get("plan"))
        outputs = (output for plan in plans for output in plan["outputs"])
        known = next((one for one in piece["steps"] if one["key"] == row.get("key")), {})
        if table == "outputs":
            known = next((one for one in outputs if _is_same(one, row)), {})
    return {name: known[name] for name in names if name in known}


def _is_same(output: dict[str, Any], row: dict[str, Any]) -> bool:
    if "key" in row:
        return bool(output["key"] == row["key"])
    return same_name(output["name"]) == same_name(row.get("name", ""))


def _add(piece: dict[str, Any], name: str, row: dict[str, Any], pieces: dict[str, Any]) -> None:
    """The first row of a piece replaces what was there, the others follow it."""
    fresh = piece.setdefault("fresh", set())
    piece[name] = [*piece[name], row] if name in fresh else [row]
    fresh.add(name)


def _to_plan(piece: dict[str, Any], row: dict[str, Any]) -> None:
    key = row.pop("plan", "")
    plans = {plan["key"]: plan for plan in piece["plans"]}
    if key not in plans:
        raise BadInput(
            f"File: plan “{key}” is no plan of {piece['name']}; {', '.join(plans)} are right."
        )
    fresh = piece.setdefault("fresh", set())
    outputs = plans[key]["outputs"] if key in fresh else []
    fresh.add(key)
    plans[key] = {**plans[key], "outputs": [*outputs, row]}
    piece["plans"] = list(plans.values())
