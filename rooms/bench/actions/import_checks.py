"""Whether a document's test fits this shop, before anything is written."""

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import date, datetime, time
from decimal import Decimal
from typing import Any

from django.utils import timezone
from django.utils.dateparse import parse_datetime

from cutting.cooler.quality import LEAST_MARBLING, MOST_MARBLING, Damage
from cutting.errors import BadValue, Fault
from cutting.quantities import HUNDRED, UnitPrice, parse_decimal
from cutting.sheet.cutting_test import Output as CoreOutput
from cutting.sheet.trays import MOST_IN_A_TRAY
from formats.reading import Document
from rooms.catalog.models import Cut, Piece, Plan
from rooms.common.words import fold
from rooms.cooler.queries.reading_in import KnownPieces
from rooms.shop.queries.current import house
from rooms.staff.models import Person

FIRST_YEAR = 1970
LONGEST = {
    "name": 60,
    "piece": 100,
    "plan": 220,
    "supplier": 100,
    "lot": 300,
    "cutter": 100,
    "number": 20,
    "by": 100,
    "reason": 500,
    "young_reason": 200,
    "fat_level": 10,
    "claims": 100,
    "thickness": 20,
}


def at_path(path: str, inner: str) -> str:
    return path + inner.removeprefix("$")


@dataclass(frozen=True)
class OwnRows:
    """What the documents refer to: pieces, plans, cuts and people, five queries for all."""

    pieces: dict[str, Piece]
    plans: dict[tuple[int, str], Plan]
    cuts: dict[str, Cut]
    people: dict[str, Person]

    @classmethod
    def now(cls) -> "OwnRows":
        return cls(
            KnownPieces.now().by_name,
            {(plan.piece_id, plan.name): plan for plan in Plan.objects.all()},
            Cut.objects.in_bulk(field_name="key"),
            _by_own_name(Person.objects.all()),
        )


def _by_own_name(people: Iterable[Person]) -> dict[str, Person]:
    """People by their names; a name that two have says nobody."""
    found: dict[str, list[Person]] = {}
    for person in people:
        found.setdefault(str(person), []).append(person)
    return {name: same[0] for name, same in found.items() if len(same) == 1}


def piece_of(document: Document, own: OwnRows) -> Any:
    record, piece = document.record, document.test.piece
    for name in (record.get("piece"), piece.item_number, piece.name):
        if isinstance(name, str) and name and fold(name) in own.pieces:
            return own.pieces[fold(name)]
    return None


class Fit:
    """What the bench cannot keep of one document, though it is sound."""

    def __init__(self, path: str, document: Document) -> None:
        self.path, self.document = path, document
        self.faults: list[Fault] = []

    def wrong(self, where: str, says: str, right: str) -> None:
        self.faults.append(Fault(at_path(self.path, where), says, right))

    def piece(self, own: OwnRows) -> None:
        test, piece = self.document.test, piece_of(self.document, own)
        if piece is None:
            self.wrong(
                "$.piece.name",
                f"“{test.piece.name}” is no piece of the catalog",
                "its item number or name is right; enter it under Pieces first",
            )
        elif piece.species != test.piece.species:
            self.wrong("$.piece.species", test.piece.species, f"{piece.species} is right for it")
        if self.document.currency != house().currency:
            right = f"{house().currency} is right here"
            self.wrong("$.currency", self.document.currency, right)
        if len(test.piece.name) > LONGEST["piece"]:
            self.wrong("$.piece.name", f"{len(test.piece.name)} characters", "at most 100")
        if len(test.piece.item_number) > LONGEST["number"]:
            self.wrong(
                "$.piece.item_number", f"{len(test.piece.item_number)} characters", "at most 20"
            )

    def outputs(self) -> None:
        for i, output in enumerate(self.document.test.outputs):
            where = f"$.outputs[{i}]"
            if len(output.name) > LONGEST["name"]:
                self.wrong(f"{where}.name", f"{len(output.name)} characters", "at most 60")
            if len({price.per for price in prices_of(output).values()}) > 1:
                self.wrong(where, "prices of several units", "one unit for all its prices")
            if output.count is not None and output.count < len(output.weighings):
                self.wrong(
                    f"{where}.count",
                    f"{output.count} in {len(output.weighings)} weighings",
                    "at least one in each weighing is right",
                )

    def record(self) -> None:
        record = self.document.record
        for key in ("plan", "supplier", "lot", "cutter", "young_reason", "fat_level", "claims"):
            text = record.get(key, "")
            if not isinstance(text, str) or len(text) > LONGEST[key]:
                self.wrong(f"$.record.{key}", "no short text", f"at most {LONGEST[key]} characters")
        for key in ("started_at", "finished_at", "cut_on", "packed_on"):
            if record.get(key) and moment_of(record[key]) is None:
                self.wrong(
                    f"$.record.{key}",
                    f"{str(record[key])[:40]!a}",
                    "a day or a moment such as 2026-11-25T08:10:00+00:00, not of a year to come",
                )
        if record.get("percent_off") and percent_of(record["percent_off"]) is None:
            self.wrong("$.record.percent_off", "no percentage", "0 to 100 in quotes is right")
        number = record.get("number", 1)
        if type(number) is not int or not 0 < number < 10**9:
            self.wrong("$.record.number", f"{number!a:.40}", "a whole number above 0 is right")


def fit(path: str, document: Document, own: OwnRows) -> list[Fault]:
    """What keeps the bench from taking it in; empty when it fits."""
    found = Fit(path, document)
    found.piece(own)
    found.outputs()
    found.record()
    return found.faults + _lists(path, document.record)


def percent_of(text: object) -> Decimal | None:
    """A percentage as a document has it; None for none or a wrong one."""
    try:
        value = parse_decimal(text, "percent") if isinstance(text, str) and text else None
    except BadValue:
        return None
    return value if value is not None and 0 <= value <= HUNDRED else None


def marbling_of(score: object) -> int | None:
    """A marbling score as a document has it; None for none or one that cannot be."""
    if type(score) is not int or not LEAST_MARBLING <= score <= MOST_MARBLING:
        return None
    return score


def thickness_of(raw: dict[str, Any]) -> str:
    """A pile's thickness as a document has it, as far as it is one."""
    text = raw.get("thickness")
    return text if isinstance(text, str) and len(text) <= LONGEST["thickness"] else ""


def tray_of(raw: dict[str, Any]) -> int | None:
    """Portions in a tray as a document has them, as far as they can be."""
    size = raw.get("tray")
    return size if type(size) is int and 1 <= size <= MOST_IN_A_TRAY else None


def _are_corrections(found: object) -> bool:
    return isinstance(found, list) and all(
        isinstance(one, dict)
        and isinstance(one.get("reason"), str)
        and len(one["reason"]) <= 500
        and all(isinstance(one.get(name, ""), str) for name in ("at", "by"))
        for one in found
    )


def _are_texts(found: object, longest: int | None = None) -> bool:
    return isinstance(found, list) and all(
        isinstance(one, str) and (longest is None or len(one) <= longest) for one in found
    )


def _are_checks(found: object) -> bool:
    return isinstance(found, list) and all(
        isinstance(one, dict) and isinstance(one.get("text"), str) and len(one["text"]) <= 80
        for one in found
    )


def _lists(path: str, record: Any) -> list[Fault]:
    """The first list of the record that is none, or what is wrong with its approval."""
    sound = (
        ("damage", _are_texts, "no list of texts", ", ".join(Damage)),
        ("too_young", lambda one: _are_texts(one, 200), "no list of short texts", "200 each"),
        ("notes", lambda one: _are_texts(one, 500), "no list of short texts", "up to 500 each"),
        ("corrections", _are_corrections, "no list of corrections", 'each {"reason": "…"}'),
        ("checks", _are_checks, "no list of checks", 'each {"text": "…"}'),
    )
    for name, is_right, wrong, right in sound:
        if not is_right(record.get(name, [])):
            return [Fault(at_path(path, f"$.record.{name}"), wrong, right)]
    approved = record.get("approved", {})
    if not isinstance(approved, dict) or (approved and moment_of(approved.get("at")) is None):
        return [
            Fault(at_path(path, "$.record.approved"), "no moment", '{"at": …, "by": …} is right')
        ]
    return [
        Fault(at_path(path, f"$.record.approved.{key}"), "no short text", f"at most {LONGEST[key]}")
        for key in ("by", "reason")
        if not isinstance(approved.get(key, ""), str) or len(approved.get(key, "")) > LONGEST[key]
    ]


def prices_of(output: CoreOutput) -> dict[str, UnitPrice]:
    return {
        name: price
        for name in ("retail", "credit", "replacement")
        if (price := getattr(output, name)) is not None
    }


def moment_of(text: Any) -> datetime | None:
    """A moment, or noon of a day, with its zone, of these times; None for anything else."""
    if not isinstance(text, str):
        return None
    try:
        found = parse_datetime(text)
        if found is None:
            found = datetime.combine(date.fromisoformat(text), time(12))
    except ValueError:
        return None
    if not FIRST_YEAR <= found.year <= timezone.now().year + 1:
        return None
    return found if timezone.is_aware(found) else timezone.make_aware(found)
