"""The shop's own changes: pieces, steps, plans and cuts, each as a changed document.

Every change is checked like a file, written only where it differs, and kept in the history.
"""

import hashlib
import json
from collections import defaultdict
from dataclasses import dataclass
from decimal import Decimal
from typing import Any

from cutting.errors import Fault
from cutting.quantities import Unit, Weight
from cutting.ways.chain import comes_back
from rooms.catalog.actions.merging import Change, Loaded, Merge
from rooms.catalog.models import Cut, Muscle, Piece, Plan, PlanOutput, Primal
from rooms.catalog.queries.checking import KnownKeys, faults, pairing
from rooms.catalog.queries.naming import newly_taken
from rooms.catalog.queries.places import place_faults
from rooms.catalog.queries.rows import EMPTY, cut_document, document_of, rows_of, with_output_keys
from rooms.common.db.writing import write
from rooms.common.errors import BadInput, Difference, Overtaken


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
    found = faults(document, known()) or newly_wrong(document, now)
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


def newly_wrong(document: dict[str, Any], now: dict[str, Any] | None = None) -> list[Fault]:
    """Return what a document breaks between products and steps of the one piece that is edited, between
    products and the shapes of their pieces, between names of cuts; what was so before it may stay.

    `now`: the one piece as it is. A file may leave out which step makes what, as tables of earlier
    versions do.
    """
    found = []
    if now is not None:
        (piece,), before = document["pieces"].values(), pairing(now)
        found = [fault for fault in pairing(piece) if fault not in before]
    return [
        *found,
        *_newly_misplaced(document),
        *_newly_taken(document),
        *_going_nowhere(document),
    ]


def _newly_misplaced(document: dict[str, Any]) -> list[Fault]:
    """A fault of the same kind that an output had before is only told (`standing_faults`), with other
    numbers too. One query, and four for each piece that has a fault."""
    if not document["pieces"]:
        return []
    found: list[Fault] = []
    muscles = _muscles_of(document["cuts"])
    for key, piece in document["pieces"].items():
        placed = _placed(key, piece, muscles)
        before = document_of(only=key)["pieces"].get(key) if placed else None
        stood = _placed(key, before, muscles) if before else {}
        found += [fault for place, fault in placed.items() if place not in stood]
    return found


def _going_nowhere(document: dict[str, Any]) -> list[Fault]:
    """Outputs that newly go on into a plan that is not there, or on a way that comes back to itself: two
    queries where any output of the document goes on, else none. What an output went on into before may
    be gone since; there the way ends."""
    links = goes_on_in(document)
    if not any(links.values()):
        return []
    plans = Plan.objects.filter(piece__is_dropped=False).select_related("piece")
    known = {plan.address for plan in plans if plan.piece.key not in document["pieces"]}
    rows = PlanOutput.objects.filter(plan__in=plans).exclude(goes_on="")
    before = defaultdict(set)
    for row in rows.select_related("plan__piece"):
        before[row.plan.address].add(row.goes_on)
    found = [
        Fault(f"plan {key}", f"no plan “{other}”", "a plan of another piece is right")
        for key, others in links.items()
        for other in sorted(others - known - links.keys() - before[key])
    ]
    circle = comes_back({**before, **links})
    if circle and not comes_back(before):
        wrong = f"{' → '.join(circle)} comes back to itself"
        found.append(Fault(f"plan {circle[0]}", wrong, "a way that ends is right"))
    return found


def goes_on_in(document: dict[str, Any]) -> dict[str, set[str]]:
    """Every plan of a document with the plans it goes on into."""
    return {
        f"{key}/{plan['key']}": {one["goes_on"] for one in plan["outputs"] if one.get("goes_on")}
        for key, piece in document["pieces"].items()
        for plan in piece["plans"]
    }


def standing_faults(key: str, piece: dict[str, Any], plan: str = "") -> list[Fault]:
    """Return what cannot be of where products are cut, in all plans of a piece's document or in one."""
    placed = _placed(key, piece, _muscles_of({}))
    return [fault for (of_plan, *_), fault in placed.items() if not plan or of_plan == plan]


def _muscles_of(cuts: dict[str, Any]) -> dict[str, str]:
    """The muscle of every cut by key, those of a document before what is there: one query."""
    known = dict(Cut.objects.values_list("key", "muscle__key"))
    return known | {key: cut["muscle"] for key, cut in cuts.items()}


def _placed(
    key: str, piece: dict[str, Any], muscles: dict[str, str]
) -> dict[tuple[str, str, str], Fault]:
    """Faults of where products are cut, by the keys of plan and output and by what would be right."""
    usual = piece.get("usual_weight")
    weight = Weight(Decimal(usual["value"]), Unit(usual["unit"])) if usual else None
    return {
        (plan["key"], output, fault.right): fault
        for plan in piece["plans"]
        for output, fault in place_faults(key, weight, plan, muscles)
    }


@write()
def save_cut(key: str, cut: dict[str, Any], editor: Editor) -> Loaded:
    """Write a cut as the form has it. Overtaken when somebody else changed it meanwhile."""
    row = Cut.objects.select_related("muscle").filter(key=key).first()
    now = cut_document(row) if row else None
    if now is not None and digest(now) != editor.seen and cut != now:
        raise Overtaken(now, [Difference(now["name"], "as before", "changed")], digest(now))
    return apply({**EMPTY, "cuts": {key: cut}}, editor.by_id)


def _newly_taken(document: dict[str, Any]) -> list[Fault]:
    """Names that cuts of a document take from another muscle: two queries, none without cuts."""
    cuts = document["cuts"]
    if not cuts:
        return []
    now = {one.key: cut_document(one) for one in Cut.objects.select_related("muscle")}
    muscles = dict(Muscle.objects.values_list("key", "name"))
    return newly_taken(now, cuts, muscles)


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
