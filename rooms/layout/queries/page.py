"""One piece's layout as its page shows it."""

from collections.abc import Sequence
from dataclasses import dataclass
from decimal import Decimal
from fractions import Fraction
from typing import Any

from cutting.errors import BadValue
from cutting.layout.aims import Aim, lay_out_for
from cutting.layout.bones import compositions
from cutting.layout.profile import is_lean
from cutting.layout.solver import Grid, NoLayout, plain_rule
from cutting.layout.task import Layout, PlainRule, Slice, Task
from cutting.layout.ways import elsewhere, is_right, sold, with_marks
from cutting.quantities import Unit, Weight
from drawings.side_view import SideView, side_view
from rooms.common.errors import BadInput
from rooms.layout.queries.asking import AIMS, Asked, is_metric, portion_unit
from rooms.layout.queries.first import length_words
from wording.layout import counts_words, kinds_words, way_words
from wording.pencil import money

AIM_WORDS = dict(AIMS)


@dataclass(frozen=True)
class Other:
    """Another way, in a line: what it gives and what it brings. `key` asks for it beside."""

    key: str
    words: str
    money: str
    out: int


@dataclass(frozen=True)
class Total:
    """How many of a name, and in which ways its slices are cut where there is more than one."""

    name: str
    many: int
    note: str


@dataclass(frozen=True)
class RuleBar:
    """One slice of the plain rule: x, height and weight, whether it keeps the limits."""

    x: float
    high: float
    text: str
    is_right: bool

    @property
    def top(self) -> float:
        return round(RULE_HIGH - self.high, 2)


RULE_HIGH, RULE_STEP = 56.0, 46.0


@dataclass(frozen=True)
class Beside:
    """The layout that is shown beside the chosen one."""

    title: str
    view: SideView
    words: str
    money: str
    difference: str


@dataclass(frozen=True)
class LayoutView:
    layout: Layout
    view: SideView
    density: Decimal
    is_likely: bool
    totals: list[Total]
    left: str
    elsewhere: str
    """What lies in no product's stretch; empty where all of it is laid out."""
    money: str
    give_away: str
    others: list[Other]
    beside: Beside | None
    against: str
    rule: list[RuleBar]
    script_data: dict[str, Any]

    @property
    def cut(self) -> list[Total]:
        return [one for one in self.totals if one.many]

    @property
    def uncut(self) -> list[str]:
        """What was asked for and is not worth its place."""
        return [one.name for one in self.totals if not one.many]

    @property
    def last(self) -> int:
        return self.layout.task.last

    @property
    def marks(self) -> str:
        words = [cut.mm if is_metric() else cut.inches for cut in self.view.cuts]
        return " · ".join(words)


def work_out(asked: Asked, task: Task, beside: str = "") -> LayoutView:
    """Raises BadInput for what cannot be laid out, with the reason. `beside`: the key of another
    way that is to be drawn too."""
    try:
        layout, *next_best = _chosen(task, asked.aim)
    except BadValue as bad:
        raise BadInput(f"{bad}.") from bad
    except NoLayout as none:
        reasons = "; ".join(f"{one.wrong}: {one.right}" for one in none.reasons)
        raise BadInput(f"Nothing fits: {reasons}.") from None
    density = task.profile.density(task.weight.to(Unit.G))
    rule, other = plain_rule(task), elsewhere(layout)
    others = _other_layouts(task, asked.aim, next_best)
    return LayoutView(
        layout=layout,
        view=side_view(layout, is_metric=is_metric()),
        density=density.quantize(Decimal("0.01")),
        is_likely=is_lean(density),
        totals=_totals(layout),
        left=_portion(layout.rest_weight + layout.kerf_weight - other, task),
        elsewhere=_portion(other, task) if other else "",
        money=money(_decimal(layout.money)),
        give_away=_give_away(layout),
        others=[_other(key, title, one) for key, title, one in others],
        beside=_beside(layout, others, beside),
        against=_against(layout, rule),
        rule=_rule_bars(task, rule),
        script_data=_for_script(layout, other),
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


def _chosen(task: Task, aim: Aim) -> tuple[Layout, ...]:
    """The layout; between bones the next two compositions too."""
    if task.bone_cuts is not None:
        return compositions(task)
    return (lay_out_for(task, aim),)


Named = tuple[str, str, Layout]
"""A key, a title and a layout."""


def _other_layouts(task: Task, aim: Aim, next_best: Sequence[Layout]) -> list[Named]:
    """The ways that were not chosen."""
    if task.bone_cuts is not None:
        titles = ("second best", "third best")
        return [
            (str(number), title, one)
            for number, (title, one) in enumerate(zip(titles, next_best, strict=False), start=2)
        ]
    found: list[Named] = []
    for other in Aim:
        if other is aim:
            continue
        try:
            found.append((other.value, AIM_WORDS[other.value], lay_out_for(task, other)))
        except (BadValue, NoLayout):
            continue
    return found


def _other(key: str, title: str, layout: Layout) -> Other:
    out = _outside(layout)
    words = way_words(title, layout.portions, out)
    return Other(key, words, money(_decimal(sold(layout))), out)


def _outside(layout: Layout) -> int:
    """How many of its slices do not keep the limits."""
    return sum(not is_right(layout.task, part) for part in layout.slices)


def _beside(layout: Layout, others: list[Named], key: str) -> Beside | None:
    for own, title, one in others:
        if own == key:
            more = _decimal(sold(one) - sold(layout))
            return Beside(
                title=title,
                view=side_view(one, is_metric=is_metric()),
                words=counts_words(one.portions, _outside(one)),
                money=money(_decimal(sold(one))),
                difference=f"{money(abs(more))} {'more' if more >= 0 else 'less'}",
            )
    return None


def _totals(layout: Layout) -> list[Total]:
    found = []
    for name, many in layout.portions.items():
        kinds = [
            (one, count)
            for one, count in zip(layout.task.products, layout.counts, strict=True)
            if one.name == name and count
        ]
        found.append(Total(name, many, kinds_words(kinds)))
    return found


def _give_away(layout: Layout) -> str:
    """What is lost over the target of a fixed price, and how far stickers by weight lie apart."""
    lost, words = layout.give_away, []
    if lost:
        words.append(f"{_portion(lost, layout.task)} given away over fixed prices")
    for name in layout.portions:
        stickers = [
            _decimal(part.value / one.across)
            for part in layout.slices
            if (one := layout.task.products[part.product or 0]).name == name and one.each is None
        ]
        if stickers and min(stickers) != max(stickers):
            words.append(f"{name}: stickers {money(min(stickers))} to {money(max(stickers))}")
    return "; ".join(words)


def _against(layout: Layout, rule: PlainRule | None) -> str:
    if rule is None:
        return ""
    less = _decimal(sold(layout) - rule.money)
    right = rule.count - rule.out_of_limits
    within = f"{right} of {rule.count} within the limits"
    if not less:
        return f"{within}, for as much money"
    return f"{within}, for {money(abs(less))} {'less' if less > 0 else 'more'}"


def _rule_bars(task: Task, rule: PlainRule | None) -> list[RuleBar]:
    """Each slice of the plain rule as a bar, as heavy as it would be."""
    if rule is None:
        return []
    heaviest = max(weight for weight, _ in rule.slices)
    return [
        RuleBar(
            round(number * RULE_STEP, 1),
            round(float(weight / heaviest) * RULE_HIGH, 1),
            _portion(weight, task).split()[0],
            is_right,
        )
        for number, (weight, is_right) in enumerate(rule.slices)
    ]


def _decimal(value: Fraction) -> Decimal:
    return Decimal(value.numerator) / Decimal(value.denominator)


def _portion(weight: Fraction, task: Task) -> str:
    unit = portion_unit()
    value = Weight(_decimal(weight), task.unit).to(unit)
    return f"{value:.{0 if unit is Unit.G else 1}f} {unit.value}"


def _for_script(layout: Layout, other: Fraction) -> dict[str, Any]:
    """What the page's script subtracts and looks up, for every place of the grid: distance in mm,
    weight in the unit of a portion, money of each product in cents, words of a distance."""
    task, grid, unit = layout.task, Grid(layout.task), portion_unit()
    factor = grid.per * Fraction(task.unit.grams) / Fraction(unit.grams)
    values = [task.value_of(one) for one in task.products]

    def cents(slope: Fraction) -> list[float]:
        return [round(float(one * grid.per * slope * 100), 3) for one in grid.cumulative]

    outside = [task.outside_of(one) for one in task.products]
    by_slope = {slope: cents(slope) for slope in (*(slope for slope, _ in values), *outside)}
    slopes = list(by_slope)
    return {
        "step": float(task.step),
        "elsewhere": round(float(other * Fraction(task.unit.grams) / Fraction(unit.grams)), 5),
        "kerf": int(task.kerf / task.step),
        "unit": unit.value,
        "decimals": 0 if unit is Unit.G else 1,
        "at": [round(float(task.at(place)), 4) for place in range(grid.last + 1)],
        "weights": [round(float(one * factor), 5) for one in grid.cumulative],
        "cents": list(by_slope.values()),
        "rest": cents(task.price_in_unit(task.rest)) if task.rest else None,
        "words": [length_words(task.at(place)) for place in range(grid.last + 1)],
        "products": [part.product for part in layout.parts],
        "kinds": [
            _kind(one, slopes.index(slope), fixed) | {"outside": slopes.index(own)}
            for one, (slope, fixed), own in zip(task.products, values, outside, strict=True)
        ],
    }


def _kind(one: Slice, slope: int, fixed: Fraction) -> dict[str, Any]:
    def portions(weight: Weight | None) -> float | None:
        return None if weight is None else float(weight.to(portion_unit()))

    def lengths(mm: Decimal | None) -> float | None:
        return None if mm is None else float(mm)

    return {
        "slope": slope,
        "fixed": round(float(fixed * 100), 3),
        "kept": float(one.kept),
        "across": one.across,
        "light": portions(one.lightest),
        "heavy": portions(one.heaviest),
        "thin": lengths(one.thinnest),
        "thick": lengths(one.thickest),
    }
