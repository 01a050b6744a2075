"""A test as a document that `mindful-tally compute` reads. See docs/formats/cutting-test.md."""

from collections.abc import Iterable

from django.conf import settings
from django.utils import timezone

from rooms.bench.models import CuttingTest, Output, StepCheck, Weighing
from rooms.bench.rows import TestRows, portions


def _weight(value, unit) -> dict:
    return {"value": f"{value:f}", "unit": unit}


def document(rows: TestRows, notes: list[str], checks: Iterable[StepCheck]) -> dict:
    """The document of a test: weighed piles only, weighings as recorded, take-backs left out."""
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
        "currency": settings.SHOP["currency"],
        "piece": piece,
        "scale_division": _weight(test.division_value, test.division_unit),
        "sawn": test.is_sawn,
        "outputs": [
            _output(output, weighings) for output in rows.outputs if (weighings := rows.of(output))
        ],
        "record": _record(test, notes, checks),
    }
    if test.labour_rate is not None:
        data["labour_rate_per_hour"] = f"{test.labour_rate:f}"
    return data


def _output(output: Output, weighings: list[Weighing]) -> dict:
    data = {
        "name": output.name,
        "role": output.role,
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
    return data


def _weighing(weighing: Weighing) -> dict:
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
    data["key"] = str(weighing.key)
    return data


def _record(test: CuttingTest, notes: list[str], checks: Iterable[StepCheck]) -> dict:
    started = timezone.localtime(test.started_at)
    record = {
        "cut_on": started.date().isoformat(),
        "cutter": str(test.cutter) if test.cutter else "",
        "plan": test.plan_name,
        "supplier": test.supplier,
        "lot": test.lot,
        "packed_on": test.packed_on.isoformat() if test.packed_on else "",
        "notes": notes,
        "checks": [_check(check) for check in checks],
    }
    return {name: value for name, value in record.items() if value}


def _check(check: StepCheck) -> dict:
    at = timezone.localtime(check.at).isoformat()
    return {"text": check.text, "at": at, "by": str(check.by) if check.by else ""}
