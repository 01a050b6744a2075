"""A core test as a cutting test document, to be kept with the prices that rest on it."""

from __future__ import annotations

from collections.abc import Mapping
from decimal import Decimal
from typing import Any
from uuid import UUID

from cutting.quantities import UnitPrice, Weight, round_half_up
from cutting.sheet.cutting_test import CuttingTest, Output
from formats.reading import FORMAT, VERSION

PLACES = 12
"""Worked-out weights of an expected test are kept to a millionth of a millionth."""


def write_document(
    test: CuttingTest, identity: UUID, currency: str, extra: Mapping[str, Mapping[str, Any]]
) -> dict[str, Any]:
    """The document `read_document` reads back; `extra` fields by the output's name."""
    piece = test.piece
    data: dict[str, Any] = {
        "format": FORMAT,
        "version": VERSION,
        "id": str(identity),
        "currency": currency,
        "piece": {
            "name": piece.name or "piece",
            "species": piece.species or "meat",
            "item_number": piece.item_number,
            "weight": _weight(piece.weight),
            "price": _price(piece.price),
            "freight": f"{piece.freight:f}",
            "discount": f"{piece.discount:f}",
        },
        "scale_division": _weight(test.scale_division),
        "sawn": test.sawn,
        "outputs": [_output(output) | dict(extra.get(output.name, {})) for output in test.outputs],
    }
    if test.labour_rate is not None:
        data["labour_rate_per_hour"] = f"{test.labour_rate:f}"
    return data


def _output(output: Output) -> dict[str, Any]:
    data: dict[str, Any] = {
        "name": output.name,
        "role": output.role.value,
        "weighings": [_weight(w.weight) for w in output.weighings],
    }
    for key in ("retail", "credit", "replacement"):
        value: UnitPrice | None = getattr(output, key)
        if value is not None:
            data[key] = _price(value)
    if output.in_case:
        data["in_case"] = True
    if output.minutes is not None:
        data["minutes"] = f"{_kept(output.minutes):f}"
    return data


def _kept(value: Decimal) -> Decimal:
    exponent = value.as_tuple().exponent
    long = isinstance(exponent, int) and exponent < -PLACES
    return round_half_up(value, PLACES) if long else value


def _weight(weight: Weight) -> dict[str, str]:
    return {"value": f"{_kept(weight.value):f}", "unit": weight.unit.value}


def _price(price: UnitPrice) -> dict[str, str]:
    return {"amount": f"{_kept(price.amount):f}", "per": price.per.value}
