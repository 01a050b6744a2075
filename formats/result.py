"""What `compute` prints: a sheet as plain JSON values. See docs/formats/cutting-test.md."""

from __future__ import annotations

from decimal import Context, Decimal
from typing import Any

from cutting.costing.sheet import Sheet
from cutting.quantities import working
from cutting.sheet.cutting_test import OutputFigures

PRINTED = Context(prec=28)


def plain(value: Decimal) -> str:
    """A decimal as plain text: up to 28 significant digits, no exponent, no idle zeros."""
    text = format(PRINTED.plus(value), "f")
    if "." in text:
        text = text.rstrip("0").rstrip(".")
    return "0" if text in ("-0", "") else text


def _maybe(value: Decimal | None) -> str | None:
    return None if value is None else plain(value)


def write_result(sheet: Sheet, currency: str) -> dict[str, Any]:
    """What `compute` prints. A part whose inputs are missing is None, never zero."""
    found, costs = sheet.figures, sheet.costing
    balance, yields = found.balance, found.yields
    return {
        "currency": currency,
        "unit": found.unit.value,
        "cost": plain(found.cost),
        "balance": {
            "unaccounted": plain(balance.unaccounted),
            "purge": _maybe(balance.purge),
            "allowed_gain": plain(balance.allowed_gain),
            "allowed_loss": plain(balance.allowed_loss),
            "in_balance": balance.in_balance,
            "short_weight": _maybe(balance.short_weight),
        },
        "yields": {
            "main": plain(yields.main),
            "saleable": plain(yields.saleable),
            "usable": plain(yields.usable),
            "waste": plain(yields.waste),
        },
        "outputs": [_write_output(line, costs.flat.true_cost) for line in found.outputs],
        "costing": {
            "flat": {"true_cost": _maybe(costs.flat.true_cost)},
            "credit": _write_fields(costs.credit),
            "sales_value": None
            if costs.sales_value is None
            else {
                "gp_percent": plain(costs.sales_value.gp_percent),
                "outputs": [_write_fields(row) for row in costs.sales_value.outputs],
            },
            "replacement": _write_fields(costs.replacement),
        },
        "margin": _write_fields(sheet.margin),
    }


def _write_output(line: OutputFigures, true_cost: Decimal | None) -> dict[str, Any]:
    give_away_cost = None
    if line.give_away is not None and true_cost is not None:
        with working():
            give_away_cost = line.give_away * true_cost
    return {
        "name": line.name,
        "weight": plain(line.weight),
        "yield": plain(line.share),
        "count": line.count,
        "mean": _maybe(line.mean),
        "within_tolerance": _maybe(line.within_tolerance),
        "smallest": _maybe(line.smallest),
        "largest": _maybe(line.largest),
        "standard_deviation": _maybe(line.deviation),
        "give_away": _maybe(line.give_away),
        "give_away_cost": _maybe(give_away_cost),
    }


def _write_fields(row: Any) -> dict[str, Any] | None:
    """The fields of a flat result, in their order, decimals as plain text."""
    if row is None:
        return None
    return {
        name: plain(value) if isinstance(value := getattr(row, name), Decimal) else value
        for name in row.__dataclass_fields__
    }
