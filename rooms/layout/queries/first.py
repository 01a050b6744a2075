"""What a page begins with: the usual weight, its plan's products at today's prices."""

import re
from collections.abc import Mapping
from dataclasses import dataclass
from datetime import date
from decimal import Decimal
from typing import Any

from cutting.layout.marks import inch_words, mm_words
from cutting.layout.profile import MM
from cutting.quantities import Unit, UnitPrice, Weight, working
from cutting.sheet.cutting_test import Role, portion_tolerance
from cutting.sheet.portioning import parse_thickness
from rooms.catalog.models import Cut, Piece, Pile, Plan, PlanOutput
from rooms.layout.rules.asking import is_metric, portion_unit
from rooms.layout.rules.shapes import NOWHERE, Apart, Shape, Within, length_of, shapes
from rooms.pricebook.models import Product
from rooms.pricebook.queries.book import prices_on
from rooms.shop.rules.current import house

FACE = MM["in"] / 4
"""A usual face cut. Common practice, no published source."""
KERF = Decimal(3)
"""mm of bone dust. Common practice, no published source."""
MOST_ROWS = 6
UNITS = ("lb", "kg")
STEAK, ROAST = (Decimal("0.5"), Decimal(3)), (Decimal(3), Decimal(6))
"""Inches that a row begins with where the plan says nothing. Common practice, no published source."""


def front() -> list[Piece]:
    """Pieces whose shape is known: one query."""
    return list(Piece.objects.filter(key__in=shapes()).order_by("-is_bought", "position"))


def usual_weight(piece: Piece) -> Weight | None:
    return Weight(piece.usual_weight, Unit(piece.usual_unit)) if piece.usual_weight else None


def length_words(mm: Decimal) -> str:
    """As one would type it."""
    return mm_words(mm) if is_metric() else inch_words(mm)


def usual_length(piece: Piece, shape: Shape, sent: Mapping[str, str]) -> Decimal:
    """How long a piece of the weight that was sent usually is, in mm; else one of usual weight."""
    usual = usual_weight(piece)
    text, unit = sent.get("weight", ""), sent.get("unit")
    if usual and re.fullmatch(r"[0-9]{1,4}(\.[0-9]{1,4})?", text, re.ASCII) and unit in UNITS:
        weight = Weight(Decimal(text), Unit(unit))
        return length_of(shape, weight, usual) if weight.value > 0 else shape.length
    return shape.length


def first_values(piece: Piece, shape: Shape, plan: Plan | None) -> dict[str, str]:
    """The usual weight and a face cut."""
    unit = house().unit
    usual = usual_weight(piece) or Weight(Decimal(10), Unit.LB)
    with working():
        part = Weight(usual.value * shape.share, usual.unit)
    return {
        "weight": f"{part.to(unit).quantize(Decimal('0.01'))}",
        "unit": unit.value,
        "near": length_words(Decimal(0) if shape.bones else FACE),
        "kerf": length_words(KERF) if shape.is_sawn else "",
        "aim": "money",
        "bones": f"{shape.bones}" if shape.bones else "",
        "plan": plan.key if plan else "",
        "part": shape.key,
        **({"opens": "on"} if shape.opens else {}),
    }


def rest_worth(plan: Plan | None) -> str:
    """What the plan's lean trim is worth today, a lb or kg; empty where nobody said: one query."""
    if plan is None:
        return ""
    lean = plan.outputs.filter(pile=Pile.LEAN, cut__product__transfer__isnull=False)
    found = lean.values_list("cut__product__transfer", "cut__product__per").first()
    if found is None:
        return ""
    return f"{UnitPrice(found[0], Unit(found[1])).to(house().unit):.2f}"


@dataclass(frozen=True)
class Prices:
    """What cuts bring today, by their key."""

    by_cut: dict[str, UnitPrice]

    def shown(self, cut: str) -> str:
        price = self.by_cut.get(cut)
        return "" if price is None else f"{price.to(house().unit):.2f}"


def _prices(keys: list[str], day: date) -> Prices:
    """Two queries."""
    products = {row.pk: row for row in Product.objects.filter(cut__key__in=keys)}
    by_pk = dict(Cut.objects.filter(key__in=keys).values_list("pk", "key"))
    found = prices_on(day, list(products))
    return Prices({by_pk[products[pk].cut_id]: one.unit_price for pk, one in found.items()})


def first_rows(plan: Plan | None, shape: Shape, length: Decimal, day: date) -> list[dict[str, Any]]:
    """The products of a plan that come from this part, with their prices: four queries. `length`
    of the piece in mm."""
    if plan is None:
        return []
    outputs = plan.outputs.filter(cut__isnull=False, role__in=(Role.MAIN, Role.SECONDARY))
    if shape.cuts:
        outputs = outputs.filter(cut__key__in=shape.cuts)
    apart = [key for one in shape.apart for key, _ in one.cuts]
    outputs = list(outputs.select_related("cut").order_by("position", "id"))[:MOST_ROWS]
    keys = [output.cut.key for output in outputs]
    prices = _prices([*keys, *apart], day)
    found = [_row(output, shape, prices, length) for output in outputs]
    found += [_apart_row(one, shape, prices, length) for one in shape.apart]
    if not any(row["use"] for row in found):
        for row in [row for row in found if row["price"]][:1]:
            row["use"] = True
    return found


def _row(output: PlanOutput, shape: Shape, prices: Prices, length: Decimal) -> dict[str, Any]:
    key = output.cut.key if output.cut else ""
    within = shape.of_cut(key)
    row: dict[str, Any] = {"name": output.name, "price": prices.shown(key)}
    if shape.across != (1,) and output.is_counted:
        row["across"] = ",".join(map(str, shape.across))
    row |= _stretch_row(within, shape, length)
    is_between = shape.bones is not None and (within is not NOWHERE or shape.ribs == 1)
    if is_between and (within.bones is not None or shape.ribs == 1):
        row["bones"] = within.bones or _bones(output.name, shape.bones or 1)
        return {**row, "use": bool(row["price"])}
    unit = portion_unit()
    if output.target_value is not None:
        target = Weight(output.target_value, Unit(output.target_unit)).to(unit)
        band = portion_tolerance(target, unit)
        places = 0 if unit is Unit.G else 1
        row["light"], row["heavy"] = f"{target - band:.{places}f}", f"{target + band:.{places}f}"
    inches = parse_thickness(output.thickness) if output.thickness else None
    if inches is not None:
        mm = Decimal(inches.numerator) / Decimal(inches.denominator) * MM["in"]
        slack = MM["in"] / (2 if output.target_value is not None else 8)
        row["thin"] = length_words(max(mm - slack, MM["in"] / 4))
        row["thick"] = length_words(mm + slack)
    else:
        usual = ROAST if "roast" in output.name.casefold() else STEAK
        row["thin"], row["thick"] = (length_words(MM["in"] * inches) for inches in usual)
    is_said = output.target_value is not None or inches is not None
    return {**row, "use": bool(row["price"]) and is_said}


def _stretch_row(within: Within, shape: Shape, length: Decimal) -> dict[str, str]:
    start, end = shape.stretch(within, length, shape.bones)
    return {
        "start": "" if start is None else length_words(start),
        "end": "" if end is None else length_words(end),
    }


def _apart_row(apart: Apart, shape: Shape, prices: Prices, length: Decimal) -> dict[str, Any]:
    """What a pound of the stretch brings by its cuts; no price where one of them has none."""
    within = apart.within
    bones = within.bones or (shape.bones or 1) - (within.from_bone or 0)
    price = ""
    if all(key in prices.by_cut for key, _ in apart.cuts):
        with working():
            parts = [prices.by_cut[key].to(house().unit) * share for key, share in apart.cuts]
            price = f"{sum(parts, Decimal(0)):.2f}"
    row = {"name": apart.name, "price": price, "bones": bones}
    return {**row, **_stretch_row(within, shape, length), "use": bool(price)}


def _bones(name: str, many: int) -> int:
    """How many bones a product of that name usually has. Common practice, no published source."""
    words = name.casefold()
    if "rack" in words:
        return many
    return 3 if "roast" in words else 2 if "double" in words else 1
