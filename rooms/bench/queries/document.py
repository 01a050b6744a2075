"""A test as a document that `mindful-tally compute` reads. See docs/formats/cutting-test.md."""

from collections.abc import Iterable, Mapping
from typing import Any
from uuid import UUID

from django.db.models import Prefetch, prefetch_related_objects
from django.utils import timezone

from rooms.bench.models import Correction, CuttingTest, Note, Output, StepCheck, Weighing
from rooms.bench.queries.checks import standing
from rooms.bench.queries.own_prices import with_own_prices
from rooms.bench.queries.rows import TestRows, load_all, portions
from rooms.catalog.models import Cut
from rooms.shop.queries.current import house


def _weight(value: Any, unit: Any) -> dict[str, Any]:
    return {"value": f"{value:f}", "unit": unit}


def document(
    rows: TestRows,
    notes: list[str],
    checks: Iterable[StepCheck],
    cuts: Mapping[int, str],
    corrections: list[dict[str, str]] | None = None,
) -> dict[str, Any]:
    """The document of a test: weighed piles only, weighings as recorded, take-backs left out.

    `cuts`: keys of the catalog's cuts by id, so that another shop's piles find theirs.
    """
    test = rows.test
    piece = {
        "name": test.piece_name,
        "species": test.species,
        "item_number": test.item_number,
        "weight": _weight(test.weight_value, test.weight_unit),
        "price": {"amount": f"{test.price_amount:f}", "per": test.price_per},
        "freight": f"{test.freight:f}",
        "discount": f"{test.discount:f}",
    }
    if test.opened_value is not None:
        piece["opened_weight"] = _weight(test.opened_value, test.opened_unit)
    data = {
        "format": "mindful-tally.cutting-test",
        "version": 1,
        "id": str(test.pk),
        "currency": house().currency,
        "piece": piece,
        "scale_division": _weight(test.division_value, test.division_unit),
        "sawn": test.is_sawn,
        "outputs": [
            _output(output, weighings, cuts)
            for output in rows.outputs
            if (weighings := rows.of(output))
        ],
        "record": _record(test, notes, checks, corrections or []),
    }
    if test.labour_rate is not None:
        data["labour_rate_per_hour"] = f"{test.labour_rate:f}"
    return data


def _output(output: Output, weighings: list[Weighing], cuts: Mapping[int, str]) -> dict[str, Any]:
    data = {
        "name": output.name,
        "role": output.role,
        "pile": output.pile,
        "weighings": [_weighing(weighing) for weighing in weighings],
    }
    count = portions(output, weighings)
    if count is not None:
        data["count"] = count
    if output.target_value is not None:
        data["target"] = _weight(output.target_value, output.target_unit)
    for name in ("retail", "credit", "replacement"):
        amount = getattr(output, name)
        if amount is not None:
            data[name] = {"amount": f"{amount:f}", "per": output.price_per}
    if output.in_case:
        data["in_case"] = True
    if output.minutes is not None:
        data["minutes"] = f"{output.minutes:f}"
    if output.thickness:
        data["thickness"] = output.thickness
    if output.tray_size:
        data["tray"] = output.tray_size
    if output.cut_id in cuts:
        data["cut"] = cuts[output.cut_id]
    return data


def _weighing(weighing: Weighing) -> dict[str, Any]:
    data = _weight(weighing.value, weighing.unit)
    if weighing.division is not None:
        data["division"] = _weight(weighing.division, weighing.unit)
    data["at"] = timezone.localtime(weighing.taken_at).isoformat()
    if weighing.is_typed:
        data["typed"] = True
    if weighing.tare is not None:
        data["tare"] = _weight(weighing.tare, weighing.unit)
    if weighing.before is not None:
        data["readings"] = 2
    if weighing.portions is not None:
        data["portions"] = weighing.portions
    data["key"] = str(weighing.key)
    return data


def _record(
    test: CuttingTest,
    notes: list[str],
    checks: Iterable[StepCheck],
    corrections: list[dict[str, str]],
) -> dict[str, Any]:
    started = timezone.localtime(test.started_at)
    record = {
        "number": test.number,
        "cut_on": started.date().isoformat(),
        "started_at": started.isoformat(),
        "finished_at": _moment(test.finished_at),
        "cutter": test.who_cut,
        "piece": test.piece.key,
        "plan": test.plan_name,
        "split": "" if test.split is None else f"{test.split:f}",
        "supplier": test.supplier,
        "lot": test.lot,
        "packed_on": test.packed_on.isoformat() if test.packed_on else "",
        "previously_frozen": test.was_frozen,
        "too_young": test.too_young,
        "young_reason": test.young_reason,
        "damage": test.damage,
        "marbling": test.marbling,
        "claims": test.claims,
        "fat_level": test.fat_level,
        "percent_off": "" if test.percent_off is None else f"{test.percent_off:f}",
        "approved": _approved(test),
        "corrections": corrections,
        "notes": notes,
        "checks": [_check(check) for check in checks],
    }
    return {name: value for name, value in record.items() if value}


def _moment(at: Any) -> str:
    return "" if at is None else timezone.localtime(at).isoformat()


def _approved(test: CuttingTest) -> dict[str, Any]:
    if test.approved_at is None:
        return {}
    found = {
        "at": _moment(test.approved_at),
        "by": test.who_approved,
        "reason": test.approval_reason,
    }
    return {name: value for name, value in found.items() if value}


def _check(check: StepCheck) -> dict[str, Any]:
    at = timezone.localtime(check.at).isoformat()
    return {"text": check.text, "at": at, "by": str(check.by) if check.by else ""}


def _correction(one: Correction) -> dict[str, str]:
    """That the sheet was corrected: another shop must not read its weights as the first ones."""
    found = {"at": _moment(one.at), "by": str(one.by or ""), "reason": one.reason}
    return {name: value for name, value in found.items() if value}


def told_corrections(test: CuttingTest) -> list[dict[str, str]]:
    """One query, and none where they are loaded."""
    return [_correction(one) for one in test.corrections.all()]


def documents(tests: list[CuttingTest]) -> dict[UUID, dict[str, Any]]:
    """The documents of any number of tests, by id: eight queries."""
    prefetch_related_objects(
        tests,
        Prefetch("notes", Note.objects.order_by("id")),
        Prefetch("corrections", Correction.objects.select_related("by").order_by("number")),
        Prefetch("checks", StepCheck.objects.select_related("by").order_by("id")),
        "cutter",
        "approved_by",
        "piece",
    )
    loaded = with_own_prices(load_all(tests))
    cuts = cut_keys(output for rows in loaded for output in rows.outputs)
    return {
        rows.test.pk: document(
            rows,
            [note.text for note in rows.test.notes.all()],
            standing(rows.test.checks.all()).values(),
            cuts,
            told_corrections(rows.test),
        )
        for rows in loaded
    }


def cut_keys(outputs: Iterable[Output]) -> dict[int, str]:
    """Keys of the cuts that piles are, by the cut's id: one query."""
    wanted = {output.cut_id for output in outputs} - {None}
    return dict(Cut.everything.filter(pk__in=wanted).values_list("pk", "key"))
