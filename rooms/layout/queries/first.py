"""What a page begins with: the usual weight, its plan's products at today's prices."""

import re
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from datetime import date
from decimal import Decimal
from fractions import Fraction
from functools import cached_property
from typing import Any

from cutting.layout.marks import inch_words, mm_words
from cutting.layout.placing import Stretch, thickness_limits
from cutting.layout.profile import Profile
from cutting.layout.task import MOST_PRODUCTS
from cutting.quantities import ZERO, Unit, UnitPrice, Weight, working
from cutting.sheet.cutting_test import Role, portion_tolerance
from rooms.catalog.models import Cut, Piece, Pile, Plan, PlanOutput
from rooms.catalog.queries.places import FACE, Place, is_apart, stretches_of
from rooms.catalog.queries.shapes import WHOLE, Shape, ShapeZone, length_of, part_of, shapes
from rooms.layout.queries.asking import is_metric, portion_unit
from rooms.pricebook.models import Product
from rooms.pricebook.queries.book import prices_on
from rooms.shop.queries.current import house

KERF = Decimal(3)
"""mm of bone dust. Common practice, no published source."""
MOST_ROWS = MOST_PRODUCTS
UNITS = ("lb", "kg")


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


@dataclass(frozen=True)
class Lying:
    """A part of a piece with the products of a plan that are cut from it."""

    shape: Shape
    length: Decimal
    """In mm."""
    outputs: list[PlanOutput]
    """Those of the whole plan that are sold as cuts."""
    prices: Prices

    @cached_property
    def profile(self) -> Profile:
        """Of no weight in particular: only what lies where counts."""
        return self.shape.profile(self.length, self.shape.aspect * 100, Decimal(100))

    @cached_property
    def own(self) -> list[PlanOutput]:
        """Those that are cut across this part."""
        key = self.shape.key or WHOLE
        return [
            one
            for one in self.outputs
            if one.part == key and not is_apart(self.shape, Place.of_row(one))
        ]

    @cached_property
    def stretches(self) -> dict[str, list[Stretch]]:
        """Where each may be cut, by its name."""
        places = [Place.of_row(one) for one in self.own]
        return stretches_of(self.shape, self.length, places)

    def rows(self) -> list[dict[str, Any]]:
        """Each product as the page's form has it; one of two stretches is two rows."""
        found = []
        for output in self.own:
            for stretch in self.stretches.get(output.name, [(ZERO, self.length)]):
                found += self._rows(output, stretch)
        return [*found, *self.apart_rows()]

    def _rows(self, output: PlanOutput, stretch: Stretch) -> list[dict[str, Any]]:
        price = self.prices.shown(output.cut.key if output.cut else "")
        row: dict[str, Any] = {"name": output.name, "price": price, "use": bool(price)}
        row |= self._ends(stretch)
        if output.bones and self.shape.bones:
            return [row | {"bones": many} for many in many_of(output.bones)]
        if output.is_counted and self.shape.across != (1,):
            row["across"] = ",".join(map(str, self.shape.across))
        row |= _weights(output)
        thickness = Place.of_row(output).thickness_mm
        if thickness is None and output.target_value is not None:
            return [row]
        most = max(many_of(output.usual_count), default=None)
        thin, thick = thickness_limits(thickness, stretch[1] - stretch[0], most)
        return [row | {"thin": length_words(thin), "thick": length_words(thick)}]

    def _ends(self, stretch: Stretch) -> dict[str, str]:
        start, end = stretch
        return {
            "start": length_words(start) if start > 0 else "",
            "end": length_words(end) if end < self.length else "",
        }

    def apart_rows(self) -> list[dict[str, Any]]:
        """A stretch whose products lie side by side, at what a pound of it brings by all of them."""
        if self.shape.key:
            return []
        found = []
        for zone in self.shape.zones:
            among = [one for one in self.outputs if one.part == WHOLE and one.zone == zone.key]
            if zone.is_taken_apart and among:
                others = [one for one in self.outputs if _is_out_of(one, zone.key)]
                found.append(self._apart_row(zone, [*among, *others]))
        return found

    def _apart_row(self, zone: ShapeZone, among: list[PlanOutput]) -> dict[str, Any]:
        stretch = self.shape.stretches(zone, self.length, self.shape.bones)[0]
        lies = self.shape.share * _share_between(self.profile, stretch)
        price = ""
        keys = [one.cut.key for one in among if one.cut]
        if all(key in self.prices.by_cut for key in keys):
            with working():
                parts = [
                    self.prices.by_cut[one.cut.key].to(house().unit) * (one.share or ZERO) / lies
                    for one in among
                    if one.cut
                ]
                price = f"{sum(parts, ZERO):.2f}"
        row = {"name": zone.name, "price": price, "use": bool(price), **self._ends(stretch)}
        if self.shape.bones and zone.is_between_bones:
            start, end = stretch
            step = self.shape.ribs * self.length / self.shape.bones
            return row | {"bones": round((end - start) / step)}
        thin, thick = thickness_limits(None, stretch[1] - stretch[0], 1)
        return row | {"thin": length_words(thin), "thick": length_words(thick)}


def _is_out_of(output: PlanOutput, zone: str) -> bool:
    part = part_of(output.plan.piece.key, output.part)
    return part is not None and zone in part.out_of


def _share_between(profile: Profile, stretch: Stretch) -> Decimal:
    start, end = (Fraction(place) for place in stretch)
    found = (profile.before(end) - profile.before(start)) / profile.whole
    with working():
        return Decimal(found.numerator) / Decimal(found.denominator)


def many_of(text: str) -> list[int]:
    """Read "6" or "2 to 4" as all the numbers it holds; nothing as none."""
    if not text:
        return []
    least, _, most = text.partition(" to ")
    return list(range(int(least), int(most or least) + 1))


def _weights(output: PlanOutput) -> dict[str, str]:
    if output.target_value is None:
        return {}
    unit = portion_unit()
    target = Weight(output.target_value, Unit(output.target_unit)).to(unit)
    band = portion_tolerance(target, unit)
    places = 0 if unit is Unit.G else 1
    return {"light": f"{target - band:.{places}f}", "heavy": f"{target + band:.{places}f}"}


def sold_outputs(plan: Plan) -> list[PlanOutput]:
    """Outputs of a plan that are sold as cuts, in their order: one query, two where it names no parts."""
    sold = {"cut__isnull": False, "role__in": (Role.MAIN, Role.SECONDARY)}
    rows = PlanOutput.objects.filter(**sold).select_related("cut", "plan__piece")
    found = list(rows.filter(plan=plan).order_by("position", "id"))
    if not names_parts(found):
        own = rows.filter(plan__piece=plan.piece_id, plan__is_dropped=False).exclude(part="")
        _as_others_have_it(found, own.order_by("plan__position", "position"))
    return found


def names_parts(outputs: Iterable[PlanOutput]) -> bool:
    """Whether a plan says where on the piece any of its products is cut."""
    return any(one.part for one in outputs)


def _as_others_have_it(outputs: list[PlanOutput], others: Iterable[PlanOutput]) -> None:
    """A shop's own plan may name no parts: the same cut lies where the piece's other plans have it,
    another one that is portioned anywhere on the whole piece."""
    known: dict[int, PlanOutput] = {}
    for one in others:
        known.setdefault(one.cut_id, one)
    for output in outputs:
        like = known.get(output.cut_id)
        if like is not None:
            output.part, output.zone, output.bones = like.part, like.zone, like.bones
        elif output.is_counted or output.thickness:
            output.part = WHOLE


def first_rows(
    plan: Plan | None,
    shape: Shape,
    length: Decimal,
    day: date,
    prices: Prices | None = None,
) -> list[dict[str, Any]]:
    """The products of a plan that come from this part, with their prices: four queries.

    `length` of the piece in mm. `prices`: instead of today's.
    """
    if plan is None:
        return []
    outputs = sold_outputs(plan)
    prices = prices or _prices([one.cut.key for one in outputs if one.cut], day)
    return Lying(shape, length, outputs, prices).rows()[:MOST_ROWS]
