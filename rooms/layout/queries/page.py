"""One piece's layout as its page shows it."""

from dataclasses import dataclass
from decimal import Decimal
from fractions import Fraction
from typing import Any

from cutting.drawing.side_view import SideView, side_view
from cutting.errors import BadValue
from cutting.layout.marks import inch_words, mm_words
from cutting.layout.profile import MM, is_lean
from cutting.layout.solver import Grid, NoLayout, lay_out, plain_rule
from cutting.layout.task import Layout, Slice, Task
from cutting.layout.ways import count_for, equal_thickness, equal_weight, is_right, with_marks
from cutting.quantities import Unit, Weight
from cutting.sheet.cutting_test import Role, portion_tolerance
from cutting.sheet.portioning import parse_thickness
from cutting.words.pencil import money
from rooms.catalog.models import Piece, Plan, PlanOutput
from rooms.common.errors import BadInput
from rooms.layout.rules.asking import Asked, is_metric, portion_unit
from rooms.layout.rules.shapes import Shape, length_of, shapes
from rooms.pricebook.models import Product
from rooms.pricebook.queries.book import prices_on
from rooms.shop.rules.current import house

FACE = MM["in"] / 4
"""A usual face cut. Common practice, no published source."""
KERF = Decimal(3)
"""mm of bone dust. Common practice, no published source."""
MOST_ROWS = 6
STEAK, ROAST = (Decimal("0.5"), Decimal(3)), (Decimal(3), Decimal(6))
"""Inches that a row begins with where the plan says nothing. Common practice, no published source."""


def front() -> list[Piece]:
    """Pieces whose shape is known: one query."""
    return list(Piece.objects.filter(key__in=shapes()).order_by("-is_bought", "position"))


def first_values(piece: Piece, shape: Shape, plan: Plan | None) -> dict[str, Any]:
    """What a page begins with: the usual weight, its usual length, a face cut."""
    unit = house().unit
    usual = usual_weight(piece) or Weight(Decimal(10), Unit.LB)
    weight = usual.to(unit).quantize(Decimal("0.01"))
    return {
        "weight": f"{weight}",
        "unit": unit.value,
        "length": length_words(length_of(shape, usual, usual)),
        "near": length_words(Decimal(0) if shape.bones else FACE),
        "kerf": length_words(KERF) if shape.is_sawn else "",
        "aim": "money",
        "plan": plan.key if plan else "",
    }


def usual_weight(piece: Piece) -> Weight | None:
    return Weight(piece.usual_weight, Unit(piece.usual_unit)) if piece.usual_weight else None


def length_words(mm: Decimal) -> str:
    """As one would type it."""
    return mm_words(mm) if is_metric() else inch_words(mm)


def rows_of(plan: Plan | None, shape: Shape, day: Any) -> list[dict[str, Any]]:
    """The products of a plan with their prices, as the page begins with them: three queries."""
    if plan is None:
        return []
    outputs = plan.outputs.filter(cut__isnull=False, role__in=(Role.MAIN, Role.SECONDARY))
    outputs = list(outputs.select_related("cut").order_by("position", "id"))[:MOST_ROWS]
    products = {row.cut_id: row for row in Product.objects.filter(cut__in=[o.cut for o in outputs])}
    prices = prices_on(day, [row.pk for row in products.values()])
    found = []
    for output in outputs:
        product = products.get(output.cut_id)
        price = prices.get(product.pk) if product else None
        found.append(_row(output, shape, price))
    if not any(row["use"] for row in found):
        for row in [row for row in found if row["price"]][:1]:
            row["use"] = True
    return found


def _row(output: PlanOutput, shape: Shape, price: Any) -> dict[str, Any]:
    row: dict[str, Any] = {"name": output.name, "price": "", "most": ""}
    if price is not None:
        row["price"] = f"{price.unit_price.to(house().unit):.2f}"
    unit = portion_unit()
    if output.target_value is not None:
        target = Weight(output.target_value, Unit(output.target_unit)).to(unit)
        band = portion_tolerance(target, unit)
        places = 0 if unit is Unit.G else 1
        row["light"], row["heavy"] = f"{target - band:.{places}f}", f"{target + band:.{places}f}"
    inches = parse_thickness(output.thickness) if output.thickness else None
    if shape.bones is not None:
        row["bones"] = _bones(output.name, shape.bones)
    elif inches is not None:
        mm = Decimal(inches.numerator) / Decimal(inches.denominator) * MM["in"]
        slack = MM["in"] / (2 if output.target_value is not None else 8)
        row["thin"] = length_words(max(mm - slack, MM["in"] / 4))
        row["thick"] = length_words(mm + slack)
    else:
        usual = ROAST if "roast" in output.name.casefold() else STEAK
        row["thin"], row["thick"] = (length_words(MM["in"] * inches) for inches in usual)
    is_said = "bones" in row or output.target_value is not None or inches is not None
    return {**row, "use": bool(row["price"]) and is_said}


def _bones(name: str, many: int) -> int:
    """How many bones a product of that name usually has. Common practice, no published source."""
    words = name.casefold()
    if "rack" in words:
        return many
    return 3 if "roast" in words else 2 if "double" in words else 1


@dataclass(frozen=True)
class Other:
    """Another way, in a line: what it gives and what it brings."""

    words: str
    money: str
    out: int


@dataclass(frozen=True)
class LayoutView:
    layout: Layout
    view: SideView
    density: Decimal
    is_likely: bool
    counts: list[tuple[str, int]]
    left: str
    money: str
    others: list[Other]
    against: str
    script_data: dict[str, Any]

    @property
    def last(self) -> int:
        return self.layout.task.last

    @property
    def marks(self) -> str:
        words = [cut.mm if is_metric() else cut.inches for cut in self.view.cuts]
        return " · ".join(words)


def work_out(asked: Asked, shape: Shape, piece: Piece, products: tuple[Slice, ...]) -> LayoutView:
    """Raises BadInput for what cannot be laid out, with the reason."""
    if not products:
        raise BadInput("Products: none is ticked; tick what may be cut from it.")
    try:
        task = asked.task(shape, usual_weight(piece), products)
        layout = _by_aim(task, asked.aim)
    except BadValue as bad:
        raise BadInput(f"{bad}.") from bad
    except NoLayout as none:
        reasons = "; ".join(f"{one.wrong}: {one.right}" for one in none.reasons)
        raise BadInput(f"Nothing fits: {reasons}.") from None
    density = task.profile.density(task.weight.to(Unit.G))
    rule = layout.plain or plain_rule(task)
    return LayoutView(
        layout=layout,
        view=side_view(layout, is_metric=is_metric()),
        density=density.quantize(Decimal("0.01")),
        is_likely=is_lean(density),
        counts=[(one.name, many) for one, many in zip(products, layout.counts, strict=True)],
        left=_portion(layout.rest_weight + layout.kerf_weight, task),
        money=money(_decimal(layout.money)),
        others=_others(task, asked.aim),
        against=_against(layout, rule),
        script_data=_for_script(layout),
    )


def moved(layout: Layout, marks: str) -> Layout:
    """The layout with its cuts at the places "12,40,…"; as it is where none are named."""
    if not marks:
        return layout
    places = marks.split(",")
    if not all(one.isascii() and one.isdecimal() and len(one) < 6 for one in places):
        raise BadInput(f"Marks: “{marks[:40]}”; places with commas between are right.")
    try:
        return with_marks(layout, [int(one) for one in places])
    except BadValue as bad:
        raise BadInput(f"{bad}.") from bad


def _by_aim(task: Task, aim: str) -> Layout:
    if aim == "money" or task.bone_cuts is not None:
        return lay_out(task)
    return _equal(task, aim)


def _equal(task: Task, aim: str) -> Layout:
    """Equal weight or thickness of the first product, in as many as its middle asks for."""
    one = task.products[0]
    if one.lightest is not None and one.heaviest is not None:
        middle = (task.in_unit(one.lightest) + task.in_unit(one.heaviest)) / 2
        count = count_for(task, middle)
    elif one.thinnest is not None and one.thickest is not None:
        length = task.profile.length - task.near - task.far
        count = max(round(length / ((one.thinnest + one.thickest) / 2)), 1)
    else:
        raise BadValue(one.name, "neither weight nor thickness", "one of them is needed")
    return (equal_weight if aim == "weight" else equal_thickness)(task, count)


def _others(task: Task, aim: str) -> list[Other]:
    """The ways that were not chosen, each in a line."""
    if task.bone_cuts is not None:
        return []
    found = []
    for name, words in (
        ("money", "most money"),
        ("weight", "equal weight"),
        ("thickness", "equal thickness"),
    ):
        if name == aim:
            continue
        try:
            layout = _by_aim(task, name)
        except (BadValue, NoLayout):
            continue
        out = sum(not is_right(task, part) for part in layout.slices)
        many = len(layout.slices)
        said = f"{words}: {many} slice{'' if many == 1 else 's'}"
        found.append(
            Other(
                f"{said}, {out} out of the limits" if out else said,
                money(_decimal(_sold(layout))),
                out,
            )
        )
    return found


def _sold(layout: Layout) -> Fraction:
    """What slices within their limits bring; the others go with the rest."""
    rest = layout.task.price_in_unit(layout.task.rest)
    return sum(
        (
            part.value if is_right(layout.task, part) else part.weight * rest
            for part in layout.parts
        ),
        Fraction(0),
    )


def _against(layout: Layout, rule: Any) -> str:
    if rule is None:
        return ""
    less = _decimal(_sold(layout) - rule.money)
    out = f"{rule.out_of_limits} of {rule.count} out of the limits"
    return f"{out}; {money(abs(less))} {'less' if less >= 0 else 'more'} money"


def _decimal(value: Fraction) -> Decimal:
    return Decimal(value.numerator) / Decimal(value.denominator)


def _portion(weight: Fraction, task: Task) -> str:
    unit = portion_unit()
    value = Weight(_decimal(weight), task.unit).to(unit)
    return f"{value:.{0 if unit is Unit.G else 1}f} {unit.value}"


def _for_script(layout: Layout) -> dict[str, Any]:
    """What the page's script subtracts and looks up, for every place of the grid: distance in mm,
    weight in the unit of a portion, money of each product in cents, words of a distance."""
    task, grid, unit = layout.task, Grid(layout.task), portion_unit()
    factor = grid.per * Fraction(task.unit.grams) / Fraction(unit.grams)

    def portions(weight: Weight | None) -> float | None:
        return None if weight is None else float(weight.to(unit))

    def lengths(mm: Decimal | None) -> float | None:
        return None if mm is None else float(mm)

    return {
        "step": float(task.step),
        "kerf": int(task.kerf / task.step),
        "unit": unit.value,
        "decimals": 0 if unit is Unit.G else 1,
        "at": [round(float(task.at(place)), 4) for place in range(grid.last + 1)],
        "weights": [round(float(one * factor), 5) for one in grid.cumulative],
        "cents": [
            [
                round(float(one * grid.per * task.price_in_unit(each.price) * 100), 3)
                for one in grid.cumulative
            ]
            for each in task.products
        ],
        "words": [length_words(task.at(place)) for place in range(grid.last + 1)],
        "products": [part.product for part in layout.parts],
        "limits": [
            {
                "light": portions(each.lightest),
                "heavy": portions(each.heaviest),
                "thin": lengths(each.thinnest),
                "thick": lengths(each.thickest),
            }
            for each in task.products
        ],
    }
