"""Parts of a catalog document as CSV tables, and back. Lists stand with " | " between."""

import csv
import io

from rooms.catalog.rows import CUT, PIECE, document_of
from rooms.common.errors import BadInput

OUTPUT_COLUMNS = ("piece", "plan", "name", "pile", "role", "share", "cut", "target", "unit",
                  "thickness", "counted", "in_case")  # fmt: skip
STEP_COLUMNS = ("piece", "key", "title", "find", "do", "right", "mistake", "piles", "touches",
                "plans", "caution", "check", "is_sawn")  # fmt: skip
LISTS = {"synonyms", "landmarks", "tools", "cautions", "doubts", "piles", "touches", "plans"}
FLAGS = {"is_cut_across", "is_cubed", "is_tenderized", "is_ground", "counted", "in_case", "is_sawn"}
TABLES = {
    "cuts": ("key", *CUT),
    "pieces": ("key", *(name for name in PIECE if name != "drawing"), "usual_weight", "unit"),
    "outputs": OUTPUT_COLUMNS,
    "steps": STEP_COLUMNS,
}


def write(table: str, document: dict) -> str:
    """One table of a document as CSV text with a header row."""
    out = io.StringIO()
    writer = csv.DictWriter(out, TABLES[table], lineterminator="\n")
    writer.writeheader()
    for row in _rows(table, document):
        writer.writerow({name: _text(row.get(name)) for name in TABLES[table]})
    return out.getvalue()


def _rows(table: str, document: dict):
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
                    yield {"piece": key, "plan": plan["key"], **output,
                           "target": target.get("value"), "unit": target.get("unit")}  # fmt: skip


def _text(value) -> str:
    if isinstance(value, list):
        return " | ".join(value)
    if isinstance(value, bool):
        return "yes" if value else ""
    return "" if value is None else str(value)


def read(text: str) -> dict:
    """A document from one table's CSV text. BadInput names the line and column that is wrong.

    Rows change what they name: a cut or piece keeps what has no column; steps and outputs
    replace those of the pieces and plans that the table names.
    """
    reader = csv.DictReader(io.StringIO(text), strict=True)
    columns = tuple(reader.fieldnames or ())
    table = next((name for name, known in TABLES.items() if set(columns) == set(known)), None)
    if table is None:
        raise BadInput(
            f"File: the columns {', '.join(columns) or '(none)'} are of no table; the first line of"
            f" an exported table is right, such as {', '.join(TABLES['cuts'][:4])} …"
        )
    rows = []
    try:
        for line, row in enumerate(reader, start=2):
            if None in row or None in row.values():
                raise BadInput(
                    f"File: line {line} has not {len(columns)} columns as the first has."
                )
            rows.append(
                {name: _value(name, text, line) for name, text in row.items() if text.strip()}
            )
    except csv.Error as wrong:
        raise BadInput(f"File: line {reader.line_num}: {wrong}.") from wrong
    return _document(table, rows)


def _value(name: str, text: str, line: int):
    text = text.strip()
    if name in LISTS:
        return [word.strip() for word in text.split("|") if word.strip()]
    if name in FLAGS:
        if text.lower() not in ("yes", "no"):
            raise BadInput(f"File: line {line}, {name}: “{text}”; yes or no is right.")
        return text.lower() == "yes"
    if name == "least_age_days":
        if not text.isdecimal():
            raise BadInput(f"File: line {line}, {name}: “{text}”; a number of days is right.")
        return int(text)
    return text


def _weight(row: dict, name: str) -> None:
    value, unit = row.pop(name, None), row.pop("unit", None)
    if value is not None:
        row[name] = {"value": value, "unit": unit or "lb"}


def _document(table: str, rows: list[dict]) -> dict:
    now = document_of()
    if table == "cuts":
        return {"cuts": {row.pop("key", ""): row for row in rows}}
    if table == "pieces":
        found = {}
        for row in rows:
            _weight(row, "usual_weight")
            key = row.pop("key", "")
            kept = {name: value for name, value in now["pieces"].get(key, {}).items()
                    if name in ("drawing", "steps", "plans")}  # fmt: skip
            found[key] = {**kept, **row}
        return {"pieces": found}
    pieces: dict[str, dict] = {}
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


def _add(piece: dict, name: str, row: dict, pieces: dict) -> None:
    """The first row of a piece replaces what was there, the others follow it."""
    fresh = piece.setdefault("fresh", set())
    piece[name] = [*piece[name], row] if name in fresh else [row]
    fresh.add(name)


def _to_plan(piece: dict, row: dict) -> None:
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
