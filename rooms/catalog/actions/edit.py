"""The shop's own changes: pieces, steps, plans and cuts, each as a changed document.

Every change is checked like a file, written only where it differs, and kept in the history.
"""

import hashlib
import json
from dataclasses import dataclass
from typing import Any

from cutting.errors import Fault
from rooms.catalog.actions.merging import Change, Loaded, Merge
from rooms.catalog.models import Cut, Muscle, Piece, Primal
from rooms.catalog.rules.checking import KnownKeys, faults, pairing
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

    `now`: the one piece of the document as it is, whose pairing may not break.
    """
    found = faults(document, known())
    if now is not None and not found:
        (piece,) = document["pieces"].values()
        found = newly_unpaired(now, piece)
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


def newly_unpaired(now: dict[str, Any], piece: dict[str, Any]) -> list[Fault]:
    """What an edit breaks between products and steps; what was so before it may stay."""
    before = pairing(now)
    return [fault for fault in pairing(piece) if fault not in before]


@write()
def save_cut(key: str, cut: dict[str, Any], editor: Editor) -> Loaded:
    """Write a cut as the form has it. Overtaken when somebody else changed it meanwhile."""
    row = Cut.objects.select_related("muscle").filter(key=key).first()
    now = cut_document(row) if row else None
    if now is not None and digest(now) != editor.seen and cut != now:
        raise Overtaken(now, [Difference(now["name"], "as before", "changed")], digest(now))
    return apply({**EMPTY, "cuts": {key: cut}}, editor.by_id)


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
