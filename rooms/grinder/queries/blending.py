"""A blend: what is asked of the solver, and what its answer says."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date
from decimal import Decimal
from typing import Any

from cutting.documents.blend import read_blend
from cutting.drawing.vessels import Curve, Vessel, fat_curve, vessels
from cutting.errors import BadValue
from cutting.grinding.blend import BatchFigures, Blend, Rule, chance_over, quantile_of
from cutting.grinding.names import Made, Named, label_words, may_be_called, smallest_addition
from cutting.quantities import ONE, ZERO, Unit, Weight, round_half_up, working
from cutting.words.grind import chance_words
from cutting.words.pencil import money, percent
from rooms.grinder.models import BlendPlan
from rooms.grinder.queries.tubs import TubView
from rooms.pricebook.models import Product
from rooms.pricebook.queries.book import prices_on

NEAR = Decimal("0.01")
"""A blend is asked within a point of its lean."""
OVER = Decimal("0.02")
"""What a label allows over its stated fat. The shop's own limit; value from memory."""
CHANCES = {"0.05": "1 time in 20", "0.01": "1 in 100", "0.005": "1 in 200"}


@dataclass(frozen=True)
class Asked:
    """One batch as it is asked: what it is called, of what, how much, how lean."""

    product: Product | None
    name: str
    rule: Rule
    species: str
    weight: Weight
    lean: Decimal
    """A share."""
    primal: str = ""
    no_ends: bool = False
    chance: Decimal | None = None
    """So often it may be over what its label allows; None for no bound."""


def blend_document(
    tubs: Sequence[TubView], asked: Sequence[Asked], currency: str, used_up: Sequence[str] = ()
) -> dict[str, Any]:
    """As docs/formats/blend.md has it; a tub's name is its id. Raises BadValue where no tub can be
    used. `used_up`: ids of tubs that go in whole."""
    species = {one.species for one in asked}
    rows = [
        {
            "name": str(one.tub.pk),
            "shown": one.tub.name,
            "species": one.tub.species,
            "kind": one.tub.kind,
            "weight": {"value": f"{one.left:f}", "unit": one.tub.unit},
            "lean": f"{round_half_up(one.lean.share, 6):f}",
            "lean_sd": f"{one.lean.spread:.6f}",
            "cost": {"amount": f"{round_half_up(one.cost, 6):f}", "per": one.tub.unit},
            "must": str(one.tub.pk) in used_up,
            **({"primal": one.tub.primal} if one.tub.primal else {}),
        }
        for one in tubs
        if one.left > 0 and one.lean is not None and one.tub.species in species
    ]
    if not rows:
        some = ", ".join(sorted(species))
        raise BadValue("Tubs", f"none of {some} is judged", "say how lean a tub is first")
    return {
        "format": "mindful-tally.blend",
        "version": 1,
        "currency": currency,
        "tubs": rows,
        "batches": [_batch(one) for one in asked],
    }


def with_names(message: str, document: dict[str, Any]) -> str:
    """What cannot be, with the tubs' names in the place of their ids."""
    for row in document["tubs"]:
        message = message.replace(f"'{row['name']}'", row["shown"])
    return message


def _batch(one: Asked) -> dict[str, Any]:
    with working():
        fat = ONE - one.lean
        least, most = max(fat - NEAR, ZERO), min(fat + NEAR, ONE)
        limit = min(fat + OVER, ONE)
    row: dict[str, Any] = {
        "name": one.name,
        "rule": one.rule.value,
        "species": one.species,
        "weight": {"value": f"{one.weight.value:f}", "unit": one.weight.unit.value},
        "fat": {"least": f"{least:f}", "most": f"{most:f}"},
        "no_ends": one.no_ends,
        "stated": f"{fat:f}",
        "label_limit": f"{limit:f}",
    }
    if one.product is not None:
        row["product"] = one.product.pk
    if one.primal:
        row["primal"] = one.primal
    if one.chance is not None:
        row |= {"limit": f"{limit:f}", "chance": f"{one.chance:f}"}
    return row


@dataclass(frozen=True)
class TubLine:
    """A tub on the picture: what is taken of it for all batches."""

    view: TubView
    vessel: Vessel
    take: str


@dataclass(frozen=True)
class BatchLine:
    """One batch of an answer, in words and as a curve."""

    number: int
    head: str
    cost: str
    margin: str
    price: str
    over: str
    names: list[Named]
    curve: Curve
    takes: list[str]

    @property
    def may(self) -> str:
        """Every name that it may have."""
        return ", ".join(one.name for one in self.names if one.may)

    @property
    def may_not(self) -> list[Named]:
        return [one for one in self.names if not one.may]


@dataclass(frozen=True)
class BlendView:
    plan: BlendPlan
    batches: list[BatchLine]
    worth: list[str]
    left: list[str]


def _weight(row: dict[str, str]) -> Weight:
    return Weight(Decimal(row["value"]), Unit(row["unit"]))


def blend_view(plan: BlendPlan, day: date) -> BlendView:
    """Three queries."""
    document, answer = plan.document, plan.answer
    blend = read_blend(document)
    ids = [row["product"] for row in document["batches"] if row.get("product")]
    prices = prices_on(day, ids)
    shown = {row["name"]: row["shown"] for row in document["tubs"]}
    left = {row["tub"]: _weight(row["weight"]) for row in answer["left"]}
    lines = []
    for number, (asked, got) in enumerate(zip(document["batches"], answer["batches"], strict=True)):
        price = prices.get(asked.get("product"))
        lines.append(_line(number, blend, asked, got, price, left, shown))
    worth = [
        f"{shown[row['tub']]} is used up: one more pound of it is worth"
        f" {money(Decimal(row['amount']))}."
        for row in answer["worth"]
    ]
    rest = [f"{shown[name]} {weight.value:.1f}" for name, weight in left.items()]
    return BlendView(plan, lines, worth, rest)


def _line(
    number: int,
    blend: Blend,
    asked: dict[str, Any],
    got: dict[str, Any],
    price: Any,
    left: dict[str, Weight],
    shown: dict[str, str],
) -> BatchLine:
    fat, spread = Decimal(got["fat"]), Decimal(got["fat_sd"])
    numbers = {tub.name: t for t, tub in enumerate(blend.tubs)}
    takes = {numbers[row["tub"]]: _weight(row["weight"]).to(Unit.LB) for row in got["take"]}
    figures = BatchFigures(takes, fat, spread, None, Decimal(got["cost"]))
    weight = _weight(asked["weight"])
    limit = Decimal(asked["label_limit"])
    unit_cost = Decimal(got["cost_per_unit"])
    margin = words = ""
    if price is not None:
        with working():
            own = price.unit_price.to(weight.unit)
            margin = percent((own - unit_cost) / own)
        words = f"at {money(own)}"
    return BatchLine(
        number,
        f"{weight} of {label_words(asked['name'], Decimal(asked['stated']))}",
        money(unit_cost),
        margin,
        words,
        _over(blend, figures, limit, left, shown),
        may_be_called(Made.of(blend, figures)),
        fat_curve(fat, spread, limit),
        [f"{shown[row['tub']]} {_weight(row['weight'])}" for row in _rounded(got["take"])],
    )


def _rounded(rows: list[dict[str, Any]]) -> list[dict[str, Any]]:
    return [
        row | {"weight": row["weight"] | {"value": f"{Decimal(row['weight']['value']):.2f}"}}
        for row in rows
    ]


RARE = Decimal("0.005")
"""1 in 200: what an addition is to bring a batch to."""


def _over(
    blend: Blend,
    figures: BatchFigures,
    limit: Decimal,
    left: dict[str, Weight],
    shown: dict[str, str],
) -> str:
    """“over it 1 time in 29; 1.6 lb of round ends more make it 1 in 200”."""
    chance = chance_over(limit, figures.fat, figures.fat_sd) or ZERO
    words = f"over it {chance_words(chance)}"
    if chance <= RARE:
        return words
    room = [left[tub.name].to(Unit.LB) if tub.name in left else ZERO for tub in blend.tubs]
    more = smallest_addition(blend, figures, limit, quantile_of(RARE), room)
    if more is None or not more.pounds:
        return f"{words}; nothing that is left would make it rare"
    return (
        f"{words}; {more.pounds:.1f} lb of {shown[blend.tubs[more.tub].name]} more make it 1 in 200"
    )


def lines_of(tubs: Sequence[TubView], plan: BlendPlan | None) -> list[TubLine]:
    """The picture: every tub with what the last blend takes of it. No query."""
    taken: dict[str, Decimal] = {}
    if plan is not None:
        with working():
            for batch in plan.answer["batches"]:
                for row in batch["take"]:
                    own = _weight(row["weight"]).to(Unit.LB)
                    taken[row["tub"]] = taken.get(row["tub"], ZERO) + own
    pairs = [(one.pounds, taken.get(str(one.tub.pk))) for one in tubs]
    found = []
    for one, vessel in zip(tubs, vessels(pairs), strict=True):
        part, unit = taken.get(str(one.tub.pk)), Unit(one.tub.unit)
        words = "" if part is None else f"{Weight(part, Unit.LB).to(unit):.1f} {unit.value}"
        found.append(TubLine(one, vessel, words))
    return found
