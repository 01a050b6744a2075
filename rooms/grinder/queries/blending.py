"""A blend: what is asked of the solver, and what its answer says."""

from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date
from decimal import ROUND_CEILING, Decimal
from typing import Any

from cutting.errors import BadValue
from cutting.grinding.blend import Batch as CoreBatch
from cutting.grinding.blend import (
    BatchFigures,
    Blend,
    Kind,
    Reach,
    Rule,
    chance_over,
    quantile_of,
    reach,
)
from cutting.grinding.judging import Lean
from cutting.grinding.names import (
    Named,
    grade_claim,
    label_words,
    may_be_called,
    refused_name,
    smallest_addition,
)
from cutting.grinding.using_up import smallest_batch, whole
from cutting.grinding.worth import LEANEST_OTHER, OtherUse, better_use
from cutting.quantities import HUNDRED, ONE, ZERO, Unit, Weight, round_half_up, working
from drawings.square import SquarePicture, square_picture
from drawings.vessels import Curve, Vessel, fat_curve, vessels
from formats.blend import read_blend
from rooms.catalog.models import Primal
from rooms.grinder.models import BlendPlan, GrinderRules, Seasoning
from rooms.grinder.queries.house import house_rules, most_fat, tightened
from rooms.grinder.queries.naming import figures_of, made_of
from rooms.grinder.queries.seasoning import cost_of, season
from rooms.grinder.queries.tubs import TubView
from rooms.pricebook.models import Product
from rooms.pricebook.queries.book import prices_on
from rooms.shop.queries.current import house
from wording.grind import chance_words
from wording.pencil import money, percent

CHANCES = {"0.05": "1 time in 20", "0.01": "1 in 100", "0.005": "1 in 200"}


@dataclass(frozen=True)
class Asked:
    """One batch as it is asked: what it is called, of what, how much, how lean. Without a weight it is
    as small as the tubs that are used up allow; without a lean it is what they give."""

    product: Product | None
    name: str
    rule: Rule
    species: str
    weight: Weight | None
    lean: Decimal | None
    """A share."""
    primal: str = ""
    no_ends: bool = False
    chance: Decimal | None = None
    """So often it may be over what its label allows; None for no bound."""
    seasoning: Seasoning | None = None


def blend_document(
    tubs: Sequence[TubView], asked: Sequence[Asked], currency: str, used_up: Sequence[str] = ()
) -> dict[str, Any]:
    """As docs/formats/blend.md has it; a tub's name is its id. Raises BadValue where no tub can be
    used, or what is asked cannot be; one with a held lot is left out. `used_up`: ids of tubs that go in whole. One query."""
    species, rules = {one.species for one in asked}, house_rules()
    rows = [
        _tub(one, str(one.tub.pk) in used_up)
        for one in tubs
        if one.left > 0
        and one.lean is not None
        and not one.held
        and not one.past
        and one.tub.species in species
    ]
    if not rows:
        some = ", ".join(sorted(species))
        past = next((one for one in tubs if one.past and one.tub.species in species), None)
        if past is not None:
            raise BadValue(
                "Tubs", f"{past.tub.name}: {past.past}", f"fresh trim of {some} is right"
            )
        held = next((one.held for one in tubs if one.held and one.tub.species in species), "")
        if held:
            raise BadValue("Tubs", f"lot {held} is held", f"a free tub of {some} is right")
        raise BadValue("Tubs", f"none of {some} is judged", "say how lean a tub is first")
    if sum(one.weight is None for one in asked) > 1:
        raise BadValue("How much", "two batches without a weight", "a weight for all but one")
    return {
        "format": "mindful-tally.blend",
        "version": 1,
        "currency": currency,
        "tubs": rows,
        "batches": [_batch(one, rows, rules) for one in asked],
    }


def _tub(one: TubView, must: bool) -> dict[str, Any]:
    lean = one.lean or Lean(ZERO, ZERO)
    return {
        "name": str(one.tub.pk),
        "shown": one.tub.name,
        "species": one.tub.species,
        "kind": one.tub.kind,
        "weight": {"value": f"{one.left:f}", "unit": one.tub.unit},
        "lean": f"{round_half_up(lean.share, 6):f}",
        "lean_sd": f"{lean.spread:.6f}",
        "cost": {"amount": f"{round_half_up(one.cost, 6):f}", "per": one.tub.unit},
        "must": must,
        "grades": list(one.grades),
        "state": one.state,
        **({"primal": one.tub.primal} if one.tub.primal else {}),
    }


def why_not(message: str, document: dict[str, Any]) -> str:
    """What cannot be, in the shop's words: a weight or a lean that its tubs cannot give, with the nearest
    that they can; else what the solver says, with names of tubs in the place of their ids."""
    blend = read_blend(document)
    found = [
        words
        for asked, batch in zip(document["batches"], blend.batches, strict=True)
        if (words := _out_of_reach(asked, batch, reach(blend, batch)))
    ]
    if found:
        return " ".join(found)
    if BESIDE_THE_REST in message:
        musts = [row["shown"] for row in document["tubs"] if row["must"]]
        with_all = f" with all of {', '.join(musts)}" if musts else ""
        return (
            f"Blend: it cannot be had of these tubs{with_all}. Fewer tubs used up whole, another weight"
            " or another lean is right."
        )
    for row in document["tubs"]:
        message = message.replace(f"'{row['name']}'", row["shown"])
    return message


BESIDE_THE_REST = "beside the rest"
"""What the solver says of a batch that could be had alone."""


def _out_of_reach(asked: dict[str, Any], batch: CoreBatch, can: Reach) -> str:
    """Empty where it can be had alone."""
    unit = _weight(asked["weight"]).unit
    if can.least is None or can.most is None:
        there, wanted = (_short(_in(one, unit)) for one in (can.pounds, batch.pounds))
        return (
            f"How much: {wanted} of {asked['name']} are asked, {there} may go into it; at most that"
            " is right."
        )
    if batch.least <= can.most and can.least <= batch.top:
        return ""
    with working():
        stated, low, high = (
            round_half_up((ONE - fat) * HUNDRED, 1)
            for fat in (Decimal(asked["stated"]), can.most, can.least)
        )
    return (
        f"Lean: {stated:f} % cannot be had for {asked['name']} of that weight; {low:f} to {high:f} %"
        " can."
    )


def _in(pounds: Decimal, unit: Unit) -> Weight:
    return Weight(Weight(pounds, Unit.LB).to(unit), unit)


def _batch(one: Asked, rows: list[dict[str, Any]], rules: GrinderRules) -> dict[str, Any]:
    weight, fat = _settled(one, rows, rules)
    least, most = _range(fat, rules)
    with working():
        limit = min(fat + rules.allowance, ONE)
    cap = _cap(one, rules)
    if cap is not None and least > cap:
        lean = percent(ONE - cap)
        raise BadValue("Lean", f"{percent(ONE - fat)}", f"at least {lean} for {one.name} is right")
    row: dict[str, Any] = {
        "name": one.name,
        "rule": one.rule.value,
        "species": one.species,
        "weight": {"value": f"{weight.value:f}", "unit": weight.unit.value},
        "fat": {"least": f"{least:f}", "most": f"{most if cap is None else min(most, cap):f}"},
        "no_ends": one.no_ends,
        "stated": f"{fat:f}",
        "label_limit": f"{limit if cap is None else min(limit, cap):f}",
    }
    if one.product is not None:
        row["product"] = one.product.pk
    if one.primal:
        row["primal"] = one.primal
    if one.chance is not None:
        row |= {"limit": row["label_limit"], "chance": f"{one.chance:f}"}
    if one.seasoning is not None:
        own = one.seasoning
        row["seasoning"] = {"id": own.pk, "name": own.name, "share": f"{own.share:f}"}
    return row


A_HAIR = Decimal("0.0005")
"""What the decimals of a lean that was typed hide."""


def _range(fat: Decimal, rules: GrinderRules) -> tuple[Decimal, Decimal]:
    """A blend is never fatter in the mean than its label says, and little leaner."""
    with working():
        return max(fat - rules.near, ZERO), min(fat + A_HAIR, ONE)


def _cap(one: Asked, rules: GrinderRules) -> Decimal | None:
    """The most fat that its name allows, as the shop tightened it."""
    return most_fat(one.species, one.name, rules)


def _settled(one: Asked, rows: list[dict[str, Any]], rules: GrinderRules) -> tuple[Weight, Decimal]:
    """Its weight and fat: as asked, or by the tubs that are used up. A fat that nobody asked is told
    up to the next whole percent."""
    if one.weight is not None:
        if one.lean is None:
            raise BadValue("Lean", "empty", "a share, or tubs used up and no weight, is right")
        with working():
            return one.weight, ONE - one.lean
    tubs = [
        tub for tub in read_blend(ANY_BLEND | {"tubs": rows}).tubs if tub.species == one.species
    ]
    bounds = CoreBatch(one.name, one.rule, ANY_WEIGHT, ZERO, ONE, one.primal, one.no_ends)
    musts = [tub for tub in tubs if tub.must]
    others = [tub for tub in tubs if not tub.must and bounds.may(tub)]
    with working():
        if one.lean is None:
            own = whole(musts)
            fat, pounds = (own.fat * HUNDRED).to_integral_value(ROUND_CEILING) / HUNDRED, own.pounds
        else:
            fat = ONE - one.lean
            least, most = _range(fat, rules)
            cap = _cap(one, rules)
            pounds = smallest_batch(musts, others, least, most if cap is None else min(most, cap))
    unit = house().unit
    own_unit = Weight(pounds, Unit.LB).to(unit)
    return Weight(round_half_up(own_unit, FINE), unit), fat


FINE = 9
"""Decimals of a weight that follows from tubs used up whole: no more and no less goes in."""
ANY_WEIGHT = Weight(ONE, Unit.LB)
ANY_BLEND: dict[str, Any] = {
    "format": "mindful-tally.blend",
    "version": 1,
    "currency": "USD",
    "batches": [
        {
            "name": "any",
            "rule": "none",
            "weight": {"value": "1", "unit": "lb"},
            "fat": {"least": "0", "most": "1"},
        }
    ],
}
"""To read tubs alone."""


@dataclass(frozen=True)
class TubLine:
    """A tub on the picture: what is taken of it for all batches."""

    view: TubView
    vessel: Vessel
    take: str

    @property
    def key(self) -> str:
        """As a form sends it."""
        return str(self.view.tub.pk)


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
    grade: Named
    refused: Named | None
    """What stands against the name that it was asked with."""
    curve: Curve
    square: SquarePicture | None
    """Of two tubs, as one would draw it."""
    takes: list[str]
    seasoned: str

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


@dataclass(frozen=True)
class Beside:
    """What a view needs beside the plan itself: prices by product, other uses by animal, names of
    primals, the rules."""

    prices: Mapping[int, Any]
    uses: Mapping[str, list[Product]]
    primals: list[str]
    rules: GrinderRules


def _weight(row: dict[str, str]) -> Weight:
    return Weight(Decimal(row["value"]), Unit(row["unit"]))


def blend_view(plan: BlendPlan, day: date, rules: GrinderRules) -> BlendView:
    """Three queries, one more where something is seasoned."""
    document, answer = plan.document, plan.answer
    blend = read_blend(document)
    beside = _beside(document, day, rules)
    shown = {row["name"]: row["shown"] for row in document["tubs"]}
    left = {row["tub"]: _weight(row["weight"]) for row in answer["left"]}
    lines, worth = [], []
    for number, (asked, got) in enumerate(zip(document["batches"], answer["batches"], strict=True)):
        line = One(number, blend, document, asked, got, figures_of(blend, got))
        lines.append(_line(line, beside, left, shown))
        worth += _better_uses(line, beside, shown)
    bound = [
        f"{shown[row['tub']]} is used up: one more pound of it is worth"
        f" {money(Decimal(row['amount']))}."
        for row in answer["worth"]
    ]
    musts = [
        f"{tub['shown']} must go: all {_short(_weight(tub['weight']))} in."
        for tub in document["tubs"]
        if tub["must"]
    ]
    rest = [f"{shown[name]} {_short(weight)}" for name, weight in left.items()]
    return BlendView(plan, lines, [*bound, *musts, *worth], rest)


def _short(weight: Weight) -> str:
    return f"{weight.value:.1f} {weight.unit.value}"


def _beside(document: dict[str, Any], day: date, rules: GrinderRules) -> Beside:
    ids = [row["product"] for row in document["batches"] if row.get("product")]
    species = {row["species"] for row in document["batches"]}
    keys = [f"{animal}-{use}" for animal in species for use in ("stew", "kebab")]
    uses: dict[str, list[Product]] = defaultdict(list)
    others = Product.objects.filter(cut__key__in=keys, is_sold=True).select_related("cut")
    for product in others:
        uses[product.cut.species].append(product)
    prices = prices_on(day, [*ids, *(one.pk for one in others)])
    primals = [name.lower() for name in Primal.objects.values_list("name", flat=True)]
    return Beside(prices, uses, primals, rules)


@dataclass(frozen=True)
class One:
    """One batch of a plan: asked, answered, worked out."""

    number: int
    blend: Blend
    document: dict[str, Any]
    asked: dict[str, Any]
    got: dict[str, Any]
    figures: BatchFigures

    @property
    def weight(self) -> Weight:
        return _weight(self.asked["weight"])


def _better_uses(one: One, beside: Beside, shown: dict[str, str]) -> list[str]:
    """“As stew the knuckle would bring 6.40 more, hands paid.”"""
    price = beside.prices.get(one.asked.get("product", 0))
    if price is None:
        return []
    uses = [
        OtherUse(product.name.lower(), beside.prices[product.pk].unit_price.to(Unit.LB))
        for product in beside.uses.get(one.asked["species"], [])
        if product.pk in beside.prices
    ]
    found = []
    for t, pounds in one.figures.take.items():
        tub = one.blend.tubs[t]
        if tub.kind is Kind.HARD_FAT or tub.lean < LEANEST_OTHER:
            continue
        best = better_use(pounds, price.unit_price.to(Unit.LB), uses, house().labour_rate)
        if best is not None:
            use, gain = best
            found.append(
                f"As {use.name} {shown[tub.name]} would bring {money(gain)} more, hands paid."
            )
    return found


def _line(one: One, beside: Beside, left: dict[str, Weight], shown: dict[str, str]) -> BatchLine:
    asked, got, weight = one.asked, one.got, one.weight
    fat, spread = one.figures.fat, one.figures.fat_sd
    limit, made = Decimal(asked["label_limit"]), made_of(one.document, one.blend, one.figures)
    unit_cost, seasoned = _seasoned(one)
    price, margin, words = beside.prices.get(asked.get("product", 0)), "", ""
    if price is not None:
        with working():
            own = price.unit_price.to(weight.unit)
            margin = percent((own - unit_cost) / own)
        words = f"at {money(own)}"
    tightest = tightened(beside.rules)
    return BatchLine(
        one.number,
        f"{_plainly(weight)} of {label_words(asked['name'], Decimal(asked['stated']))}",
        money(unit_cost),
        margin,
        words,
        _over(one.blend, one.figures, limit, left, shown),
        may_be_called(made, tightest),
        grade_claim(made),
        refused_name(asked["name"], made, beside.primals, tightest),
        fat_curve(fat, spread, limit),
        _square(one, shown),
        [f"{shown[row['tub']]} {_weight(row['weight'])}" for row in _rounded(got["take"])],
        seasoned,
    )


def _plainly(weight: Weight) -> str:
    """As asked; one that followed from tubs, to a hundredth."""
    exponent = weight.value.as_tuple().exponent
    is_long = isinstance(exponent, int) and exponent < -3
    return f"{weight.value:.2f} {weight.unit.value}" if is_long else str(weight)


def _seasoned(one: One) -> tuple[Decimal, str]:
    """What a unit of it costs with its seasoning, and what goes in with the meat."""
    meat, own = one.weight, one.asked.get("seasoning")
    row = Seasoning.objects.filter(pk=own["id"]).first() if own else None
    if row is None:
        return Decimal(one.got["cost_per_unit"]), ""
    weight = season(row, meat)
    with working():
        cost = cost_of(one.figures.cost, row, weight, meat) / (meat.value + weight)
    contains = f", contains {', '.join(row.allergens)}" if row.allergens else ""
    return cost, f"{row.name}: {weight:f} {meat.unit.value} ({percent(row.share)}){contains}"


def _square(one: One, shown: dict[str, str]) -> SquarePicture | None:
    """Of exactly two tubs that differ."""
    tubs = sorted((one.blend.tubs[t] for t in one.figures.take), key=lambda tub: tub.fat)
    if len(tubs) != 2 or tubs[0].fat == tubs[1].fat:
        return None
    leaner, fatter = ((shown[tub.name], tub.fat) for tub in tubs)
    aim = min(max(one.figures.fat, leaner[1]), fatter[1])
    return square_picture(leaner, fatter, aim, one.weight.to(Unit.LB))


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
    unit = house().unit
    added = _short(_in(more.pounds, unit))
    return f"{words}; {added} of {shown[blend.tubs[more.tub].name]} more make it 1 in 200"


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
