"""The shop's own changes: pieces, steps, plans and cuts, each as a changed document.

Every change is checked like a file, written only where it differs, and kept in the history.
"""

import hashlib
import json
from dataclasses import dataclass
from decimal import Decimal
from typing import Any

from cutting.errors import Fault
from cutting.quantities import Unit, Weight
from cutting.sheet.cutting_test import same_name
from rooms.catalog.actions.merging import Change, Loaded, Merge
from rooms.catalog.models import Cut, Muscle, Piece, Primal
from rooms.catalog.rules.checking import KnownKeys, faults, pairing
from rooms.catalog.rules.places import place_faults
from rooms.catalog.rules.rows import EMPTY, cut_document, document_of, rows_of, with_output_keys
from rooms.common.errors import BadInput, Difference, Overtaken
from rooms.common.writing import write


@dataclass(frozen=True)
class Editor:
    """Who changes something, and the state of it he has seen."""

    by_id: int | None
    seen: str = ""


def digest(document: dict[str, Any]) -> str:
    """A short mark of a document's state; the same text for the same state."""
    text = json.dumps(document, sort_keys=True, ensure_ascii=False)
    return hashlib.sha256(text.encode()).hexdigest()[:16]


def known() -> KnownKeys:
    """Keys a document may refer to: three queries."""
    return KnownKeys(
        *(frozenset(m.objects.values_list("key", flat=True)) for m in (Muscle, Primal, Cut))
    )


def apply(
    document: dict[str, Any],
    by_id: int | None,
    reason: str = "edited",
    now: dict[str, Any] | None = None,
) -> Loaded:
    """Check a document and write what differs. BadInput names every fault.

    `now`: the one piece of the document as it is; what was wrong in it before may stay.
    """
    found = faults(document, known())
    if now is not None and not found:
        ((key, piece),) = document["pieces"].items()
        found = newly_wrong(key, now, piece)
    if found:
        raise BadInput(" ".join(f"{fault}." for fault in found[:6]), faults=found)
    change = Change(is_import=True, reason=reason, by_id=by_id)
    return Merge(change).run(rows_of(with_output_keys(document)))


@write()
def save_piece(key: str, piece: dict[str, Any], editor: Editor) -> Loaded:
    """Write a piece as the form has it. Overtaken when somebody else changed it meanwhile."""
    now = document_of(only=key)["pieces"].get(key)
    if now is not None and digest(now) != editor.seen:
        if digest(piece) == digest(now):
            return Loaded()
        raise Overtaken(now, [Difference(now["name"], "as before", "changed")], digest(now))
    return apply({**EMPTY, "pieces": {key: piece}}, editor.by_id, now=now)


def newly_wrong(key: str, now: dict[str, Any], piece: dict[str, Any]) -> list[Fault]:
    """Return what an edit breaks between products, steps and the piece's shape.

    A fault that stood before the edit is only told (`standing_faults`), with other numbers too.
    """
    paired, placed = pairing(now), _placed(key, now)
    found = [fault for fault in pairing(piece) if fault not in paired]
    return found + [
        fault
        for where, faults in _placed(key, piece).items()
        if where not in placed
        for fault in faults
    ]


def standing_faults(key: str, piece: dict[str, Any], plan: str = "") -> list[Fault]:
    """Return what cannot be of where products are cut, in all plans of a piece's document or in one."""
    return [
        fault
        for (of_plan, _), faults in _placed(key, piece).items()
        if not plan or of_plan == plan
        for fault in faults
    ]


def _placed(key: str, piece: dict[str, Any]) -> dict[tuple[str, str], list[Fault]]:
    """Faults of where products are cut, by the keys of plan and output: one query."""
    usual = piece.get("usual_weight")
    weight = Weight(Decimal(usual["value"]), Unit(usual["unit"])) if usual else None
    muscles = dict(Cut.objects.values_list("key", "muscle__key"))
    found: dict[tuple[str, str], list[Fault]] = {}
    for plan in piece["plans"]:
        for output, fault in place_faults(key, weight, plan, muscles):
            found.setdefault((plan["key"], output), []).append(fault)
    return found


@write()
def save_cut(key: str, cut: dict[str, Any], editor: Editor) -> Loaded:
    """Write a cut as the form has it. Overtaken when somebody else changed it meanwhile."""
    row = Cut.objects.select_related("muscle").filter(key=key).first()
    now = cut_document(row) if row else None
    if now is not None and digest(now) != editor.seen and cut != now:
        raise Overtaken(now, [Difference(now["name"], "as before", "changed")], digest(now))
    taken = _taken_names(cut, now or {})
    if taken:
        raise BadInput(" ".join(f"{fault}." for fault in taken), faults=taken)
    return apply({**EMPTY, "cuts": {key: cut}}, editor.by_id)


SHOWN_NAMES = ("name", "house_name", "other_name")


def _taken_names(cut: dict[str, Any], now: dict[str, Any]) -> list[Fault]:
    """Return the names that an edit gives a cut and that another muscle of its animal is shown by: on a
    label they would be the wrong meat. As a synonym a name may be shared; both pages say so. One query."""
    fresh = {
        same_name(part): (field, part.strip())
        for field in SHOWN_NAMES
        if cut.get(field, "") != now.get(field, "")
        for part in cut.get(field, "").split(";")
        if part.strip()
    }
    if not fresh:
        return []
    others = Cut.objects.filter(species=cut["species"]).exclude(muscle__key=cut["muscle"])
    found = []
    for other in others.select_related("muscle"):
        shown = {same_name(one) for one in (other.name, other.house_name, other.other_name)}
        for name in shown & fresh.keys():
            field, words = fresh[name]
            muscle = other.muscle.name if other.muscle else "no single muscle"
            wrong = f"“{words}” is the name of {other.shown_name}, another muscle ({muscle})"
            right = "another name is right, or this one under “Also found by”"
            found.append(Fault(field.replace("_", " ").capitalize(), wrong, right))
    return found


@write()
def import_document(document: dict[str, Any], by_id: int | None) -> Loaded:
    """Write every piece, cut and muscle a file names; the others stay as they are."""
    return apply(
        {**EMPTY, **document} if isinstance(document, dict) else document, by_id, "imported"
    )


@write()
def take_out(key: str, by_id: int | None, *, back: bool = False) -> Piece:
    """Take a piece out of use, or bring it back. Its tests keep it."""
    piece = Piece.everything.filter(key=key).first()
    if piece is None:
        raise BadInput(f"Piece: {key!r} is not in the catalog; choose one of the list.")
    if piece.is_dropped is back:
        piece.is_dropped = not back
        piece._change_reason = "brought back" if back else "taken out"
        piece._history_user_id = by_id
        piece.save()
    return piece
