"""Tests of another shop or system are taken in from a document."""

import uuid
from collections.abc import Mapping
from dataclasses import dataclass, field
from datetime import datetime
from decimal import Decimal
from typing import Any

from django.utils import timezone

from cutting.cooler.quality import Damage
from cutting.errors import BadDocument, BadValue, Fault
from cutting.quantities import parse_decimal, storable
from cutting.sheet.cutting_test import Output as CoreOutput
from formats.difference import differences
from formats.reading import Document, read_document
from rooms.bench.actions.import_checks import (
    OwnRows,
    at_path,
    fit,
    marbling_of,
    moment_of,
    percent_of,
    piece_of,
    prices_of,
    thickness_of,
    tray_of,
)
from rooms.bench.models import CuttingTest, Note, Output, StepCheck, Weighing
from rooms.bench.queries.document import documents
from rooms.catalog.models import ROLE_OF_PILE
from rooms.common.db.numbers import next_numbers
from rooms.common.db.writing import write
from rooms.shop.queries.current import house

SET = "mindful-tally.cutting-tests"
MOST_TESTS = 5000
KEPT = (
    "number",
    "cut_on",
    "started_at",
    "finished_at",
    "cutter",
    "plan",
    "supplier",
    "lot",
    "packed_on",
    "previously_frozen",
    "too_young",
    "young_reason",
    "damage",
    "marbling",
    "claims",
    "fat_level",
    "percent_off",
    "approved",
    "notes",
    "checks",
)
"""Fields of the record that are kept, and so compared."""
PILE_OF_ROLE = {role.value: pile for pile, role in reversed(ROLE_OF_PILE.items())}


@dataclass(frozen=True)
class TakenIn:
    """How many tests are new, and how many were here already just so."""

    added: int
    same: int


def bring_in(data: Any, by_id: int | None, at: Any = None) -> TakenIn:
    """One document or a set of them. Raises BadDocument with every fault found.

    A test that is here already with the same content changes nothing; with other content it
    is a fault that names the difference. Weights count as the document says, unsigned.
    """
    read, faults = [], []
    for path, one in _each(data):
        try:
            document = read_document(one)
        except BadDocument as bad:
            faults += [Fault(at_path(path, f.path), f.wrong, f.right) for f in bad.faults]
            continue
        read.append((path, one, document))
    own = OwnRows.now()
    with write():
        found = CuttingTest.objects.in_bulk([document.id for *_, document in read])
        here = documents(list(found.values()))
        fresh, seen = [], {}
        for path, one, document in read:
            faults += fit(path, document, own)
            if document.id in seen:
                faults.append(
                    Fault(
                        at_path(path, "$.id"),
                        f"{document.id} is there twice",
                        "each test once is right",
                    )
                )
            seen[document.id] = path
            if document.id in here:
                faults += _parts(path, here[document.id], one)
            else:
                fresh.append((one, document))
        if faults:
            raise BadDocument(tuple(faults))
        numbers = _numbers(fresh)
        batch = _Batch(own, by_id, at or timezone.now())
        for (one, document), number in zip(fresh, numbers, strict=True):
            batch.add(one, document, number)
        batch.write()
    return TakenIn(len(fresh), len(read) - len(fresh))


def _each(data: Any) -> list[tuple[str, Any]]:
    if not (isinstance(data, dict) and data.get("format") == SET):
        return [("$", data)]
    tests = data.get("tests")
    if not isinstance(tests, list) or data.get("version") != 1:
        raise BadDocument((Fault("$.tests", "is no list", "version 1 with a list is right"),))
    if len(tests) > MOST_TESTS:
        raise BadDocument((Fault("$.tests", f"{len(tests)} tests", f"at most {MOST_TESTS}"),))
    return [(f"$.tests[{i}]", test) for i, test in enumerate(tests)]


def _parts(path: str, here: dict[str, Any], there: dict[str, Any]) -> list[Fault]:
    """A test of the same id that says otherwise."""
    mine, theirs = (len(one.get("record", {}).get("corrections", ())) for one in (here, there))
    older = f"{theirs} in the file, {mine} here: the sheet was corrected since the file was written"
    corrected = Fault(f"{path}.record.corrections", older, "its file of now is right")
    return ([corrected] if theirs < mine else []) + [
        Fault(
            at_path(path, one.path),
            f"{one.here} here, {one.there} in the file",
            "the same test says the same; another test has an id of its own",
        )
        for one in differences(here, there, KEPT)
    ]


def corrected_there(record: Mapping[str, Any]) -> list[str]:
    """Notes of a sheet that another shop had corrected before it was written to the file."""
    found = []
    for one in record.get("corrections", []):
        by = f", {one['by']}" if one.get("by") else ""
        found.append(
            f"Corrected before it was taken in ({one.get('at', '')[:10]}{by}): {one['reason']}"[
                :500
            ]
        )
    return found


def _numbers(fresh: list[Any]) -> list[int]:
    """The number each test says where it is free, else the next."""
    asked = [document.record.get("number") for _, document in fresh]
    taken = set(
        CuttingTest.objects.filter(number__in=[n for n in asked if n]).values_list(
            "number", flat=True
        )
    )
    own: dict[int, int] = {}
    for i, number in enumerate(asked):
        if number is not None and number not in taken:
            own[i] = number
            taken.add(number)
    given = iter(
        next_numbers(CuttingTest, len(fresh) - len(own), after=max(own.values(), default=0))
    )
    return [own[i] if i in own else next(given) for i in range(len(fresh))]


@dataclass
class _Batch:
    """Rows of all new tests, written together: five inserts for any number of them."""

    own: OwnRows
    by_id: int | None
    at: datetime
    tests: list[CuttingTest] = field(default_factory=list)
    outputs: list[Output] = field(default_factory=list)
    weighings: list[Weighing] = field(default_factory=list)
    notes: list[Note] = field(default_factory=list)
    checks: list[StepCheck] = field(default_factory=list)

    def add(self, one: dict[str, Any], document: Document, number: int) -> None:
        test = _test(document, number, self)
        self.tests.append(test)
        self._outputs(test, one, document.test.outputs)
        record, people = document.record, self.own.people
        self.notes += [
            Note(
                key=_key(test, f"note {i}"),
                test=test,
                text=text,
                at=test.started_at,
                by_id=self.by_id,
            )
            for i, text in enumerate([*record.get("notes", []), *corrected_there(record)])
        ]
        self.checks += [
            StepCheck(
                test=test,
                step_key=f"from-file-{i}",
                text=check["text"],
                is_done=True,
                at=moment_of(check.get("at")) or test.started_at,
                by=people.get(check.get("by", "")),
            )
            for i, check in enumerate(record.get("checks", []))
        ]

    def _outputs(
        self, test: CuttingTest, one: dict[str, Any], outputs: tuple[CoreOutput, ...]
    ) -> None:
        for position, (raw, core) in enumerate(zip(one["outputs"], outputs, strict=True)):
            output = _output(test, position, raw, core, self.own)
            self.outputs.append(output)
            self.weighings += _weighings(test, output, raw, core)

    def write(self) -> None:
        CuttingTest.objects.bulk_create(self.tests)
        Output.objects.bulk_create(self.outputs)  # gives them their ids
        for weighing in self.weighings:
            weighing.output_id = weighing.output.pk
        Weighing.objects.bulk_create(self.weighings)
        Note.objects.bulk_create(self.notes)
        StepCheck.objects.bulk_create(self.checks)


def _test(document: Document, number: int, batch: _Batch) -> CuttingTest:
    core, record, people = document.test, document.record, batch.own.people
    piece = piece_of(document, batch.own)
    started = moment_of(record.get("started_at")) or moment_of(record.get("cut_on")) or batch.at
    approved = record.get("approved", {})
    packed, opened = record.get("packed_on"), core.piece.opened_weight
    cutter, approver = record.get("cutter", ""), approved.get("by", "")
    return CuttingTest(
        pk=document.id,
        number=number,
        piece=piece,
        plan=batch.own.plans.get((piece.pk, record.get("plan", ""))),
        piece_name=core.piece.name,
        item_number=core.piece.item_number,
        species=core.piece.species,
        plan_name=record.get("plan", ""),
        is_sawn=core.sawn,
        weight_value=core.piece.weight.value,
        weight_unit=core.piece.weight.unit.value,
        opened_value=opened.value if opened else None,
        opened_unit=opened.unit.value if opened else "",
        price_amount=core.piece.price.amount,
        price_per=core.piece.price.per.value,
        freight=core.piece.freight,
        discount=core.piece.discount,
        division_value=core.scale_division.value,
        division_unit=core.scale_division.unit.value,
        labour_rate=core.labour_rate,
        supplier=record.get("supplier", ""),
        lot=record.get("lot", ""),
        was_frozen=record.get("previously_frozen") is True,
        too_young=[str(one) for one in record.get("too_young", [])],
        young_reason=record.get("young_reason", ""),
        damage=[kind.value for kind in Damage if kind.value in record.get("damage", [])],
        marbling=marbling_of(record.get("marbling")),
        claims=record.get("claims", ""),
        fat_level=record.get("fat_level", ""),
        percent_off=percent_of(record.get("percent_off")),
        packed_on=day.date() if (day := moment_of(packed)) else None,
        cutter=people.get(cutter),
        cutter_name="" if cutter in people else cutter,
        started_at=started,
        finished_at=moment_of(record.get("finished_at")) or started,
        approved_at=moment_of(approved.get("at")),
        approved_by=people.get(approver),
        approver_name="" if approver in people else approver,
        approval_reason=approved.get("reason", ""),
        imported_at=batch.at,
        imported_by_id=batch.by_id,
    )


def _output(
    test: CuttingTest, position: int, raw: dict[str, Any], core: CoreOutput, own: OwnRows
) -> Output:
    prices, pile = prices_of(core), raw.get("pile")
    return Output(
        test=test,
        position=position,
        name=core.name,
        role=core.role.value,
        pile=pile if pile in ROLE_OF_PILE else PILE_OF_ROLE[core.role.value],
        cut=own.cuts.get(raw.get("cut", "")),
        in_case=core.in_case,
        target_value=core.target.value if core.target else None,
        target_unit=core.target.unit.value if core.target else "",
        is_counted=core.count is not None,
        thickness=thickness_of(raw),
        tray_size=tray_of(raw),
        price_per=next(iter(prices.values())).per.value if prices else house().unit.value,
        minutes=core.minutes,
        **{name: price.amount for name, price in prices.items()},
    )


def _key(test: CuttingTest, words: str) -> uuid.UUID:
    """The same file gives the same keys."""
    return uuid.uuid5(test.pk, words)


def _weighings(
    test: CuttingTest, output: Output, raw: dict[str, Any], core: CoreOutput
) -> list[Weighing]:
    """As the document has them, repeats of a key left out as the core left them out."""
    kept, seen = [], set()
    for entry in raw["weighings"]:
        if entry.get("key") is None or entry["key"] not in seen:
            kept.append(entry)
        seen.add(entry.get("key"))
    spare = (core.count or 0) - len(kept)
    found = []
    for i, (entry, weighing) in enumerate(zip(kept, core.weighings, strict=True)):
        portions = entry.get("portions")
        if core.count is not None and portions is None:
            portions = 1 + (spare if i == 0 else 0)
        found.append(
            Weighing(
                key=_weighing_key(test, entry, f"{output.position} {i}"),
                test=test,
                output=output,
                value=weighing.weight.value,
                unit=weighing.weight.unit.value,
                division=None
                if weighing.division is None
                else storable(weighing.division, weighing.weight.unit).value,
                portions=portions,
                is_typed=entry.get("typed") is True,
                taken_at=moment_of(entry.get("at")) or test.started_at,
                tare=_tare(entry, weighing.weight.unit),
                before=Decimal(0) if weighing.readings == 2 else None,
            )
        )
    return found


def _weighing_key(test: CuttingTest, entry: dict[str, Any], words: str) -> uuid.UUID:
    try:
        return uuid.UUID(entry.get("key", ""))
    except (ValueError, AttributeError, TypeError):
        return _key(test, f"weighing {entry.get('key') or words}")


def _tare(entry: dict[str, Any], unit: Any) -> Decimal | None:
    """The tare a document of ours carries, in the weighing's own unit."""
    tare = entry.get("tare")
    if isinstance(tare, dict) and tare.get("unit") == unit.value:
        try:
            return parse_decimal(tare.get("value"), "tare")
        except BadValue:
            return None
    return None
