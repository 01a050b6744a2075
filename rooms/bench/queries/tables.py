"""A cutting test as CSV and as a spreadsheet: outputs, weighings, facts, costings."""

from typing import Any

from django.db.models import prefetch_related_objects
from django.utils import timezone

from cutting.quantities import HUNDRED, round_half_up
from rooms.bench.queries.sheet import SheetView
from rooms.common.tables.files import csv_text, xlsx_bytes

OUTPUTS = (
    "test",
    "cut on",
    "piece",
    "item number",
    "supplier",
    "output",
    "role",
    "weight",
    "unit",
    "yield %",
    "count",
    "mean",
    "cost by",
    "cost each",
    "cost",
    "price",
    "sales",
    "margin %",
)
WEIGHINGS = ("test", "output", "weight", "unit", "division", "tare", "at", "by", "typed", "key")
COSTINGS = ("school", "figure", "of", "more", "missing")


def output_rows(view: SheetView) -> Any:
    test = view.rows.test
    roles = {output.name: output.role for output in view.rows.outputs}
    for row in view.table:
        yield (
            test.number,
            timezone.localtime(test.started_at).date(),
            test.piece_name,
            test.item_number,
            test.supplier,
            row.name,
            roles.get(row.name, ""),
            row.weight,
            view.unit,
            row.share,
            row.figures.count if row.figures else None,
            row.mean,
            view.school_name,
            _cents(row.cost_per_unit),
            row.cost,
            _cents(row.price),
            row.sales,
            None if row.margin is None else round_half_up(row.margin * HUNDRED, 1),
        )


def _cents(value: Any) -> Any:
    return None if value is None else round_half_up(value)


def weighing_rows(view: SheetView) -> Any:
    names = {output.pk: output.name for output in view.rows.outputs}
    prefetch_related_objects(view.rows.standing, "taken_by")  # one query for any number
    for weighing in view.rows.standing:
        yield (
            view.rows.test.number,
            names[weighing.output_id],
            weighing.value,
            weighing.unit,
            weighing.division,
            weighing.tare,
            timezone.localtime(weighing.taken_at).isoformat(timespec="seconds"),
            str(weighing.taken_by or ""),
            "yes" if weighing.is_typed else "",
            str(weighing.key),
        )


def fact_rows(view: SheetView) -> Any:
    test, found = view.rows.test, view.sheet.figures
    yield from (
        ("test", test.number),
        ("piece", test.piece_name),
        ("item number", test.item_number),
        ("plan", test.plan_name),
        ("supplier", test.supplier),
        ("lot", test.lot),
        ("previously frozen", "yes" if test.was_frozen else ""),
        ("cut too young", "; ".join(test.too_young)),
        ("damage", ", ".join(test.damage)),
        ("marbling", test.marbling),
        ("claims", test.claims),
        ("fat left on", test.fat_level),
        ("percent off the list", test.percent_off),
        ("weight paid for", test.weight_value),
        ("unit", test.weight_unit),
        ("price", test.price_amount),
        ("a", test.price_per),
        ("freight", test.freight),
        ("discount", test.discount),
        ("opened weight", test.opened_value),
        ("cost", round_half_up(found.cost)),
        ("cutter", test.who_cut),
        ("cut on", timezone.localtime(test.started_at).date()),
        ("approved by", test.who_approved),
        ("balance", view.words),
    )
    margin = view.sheet.margin
    for name in ("main", "saleable", "usable", "waste", "gain"):
        yield f"{name} yield %", round_half_up(getattr(found.yields, name) * HUNDRED, 1)
    if margin is not None:
        yield "sales", round_half_up(margin.retail)
        yield "gross profit", view.gp_shown
        yield "margin, % of sales", round_half_up(margin.gp_percent, 1)


def costing_rows(view: SheetView) -> Any:
    for one in view.schools:
        yield one.name, one.figure, one.of, one.extra, "" if one.figure else one.pencil.missing


def as_csv(view: SheetView) -> str:
    return csv_text(OUTPUTS, output_rows(view))


def as_xlsx(view: SheetView) -> bytes:
    return xlsx_bytes(
        [
            ("outputs", OUTPUTS, output_rows(view)),
            ("weighings", WEIGHINGS, weighing_rows(view)),
            ("costings", COSTINGS, costing_rows(view)),
            ("test", ("what", "value"), fact_rows(view)),
        ]
    )
