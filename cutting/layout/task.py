"""What is asked of a layout: the piece, what may be cut from it and where no knife goes."""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from decimal import Decimal
from fractions import Fraction

from cutting.errors import BadValue
from cutting.layout.profile import Profile, reversed_profile
from cutting.quantities import Unit, UnitPrice, Weight

MOST_PLACES = 2000
MOST_PRODUCTS = 8
NO_CUT, NO_PRODUCT, NOTCH, ACCEPT = "no_cut", "no_product", "notch", "accept"
ZERO = Decimal(0)


@dataclass(frozen=True, slots=True)
class Zone:
    """A stretch in mm. `no_cut`: neither a mark nor its kerf inside; `no_product`: no product touches it;
    `notch`: `share` of what lies there is cut out and lost; `accept`: it is only shown."""

    name: str
    start: Decimal
    end: Decimal
    rule: str
    share: Decimal = ZERO

    def __post_init__(self) -> None:
        if not 0 <= self.share < 1:
            raise BadValue(self.name, f"{self.share}", "a share from 0, below 1, is right")


@dataclass(frozen=True, slots=True)
class Slice:
    """A product that may be cut. Thicknesses and stretch in mm; limits are inclusive.

    `price` by weight, or `each` for one whatever it weighs; over `aim` such a one gives away.
    `bones`: exactly so many of them, in place of a thickness. Slices of one name are counted
    together, whichever way they are cut.
    """

    name: str
    lightest: Weight | None = None
    heaviest: Weight | None = None
    thinnest: Decimal | None = None
    thickest: Decimal | None = None
    price: UnitPrice | None = None
    each: Decimal | None = None
    outside: UnitPrice | None = None
    """What a slice outside its limits still sells for; None: as the rest does. The search does not look at
    it, it is for ways that are compared."""
    aim: Weight | None = None
    least: int = 0
    most: int | None = None
    start: Decimal | None = None
    end: Decimal | None = None
    bones: int | None = None
    across: int = 1
    """Portions that a slice is parted into, lengthwise of the piece. Limits of weight and counts
    are of portions."""
    lost: Decimal = ZERO
    """The share of a slice that goes with the rest when it is parted: the strip with the tendon."""
    is_opened: bool = False
    """Butterflied: its thickness is twice that of what is sold."""

    def __post_init__(self) -> None:
        if self.across < 1:
            raise BadValue(self.name, f"{self.across} portions a slice", "1 or more is right")
        if not 0 <= self.lost < 1:
            raise BadValue(self.name, f"{self.lost} lost", "a share from 0, below 1, is right")

    @property
    def kept(self) -> Fraction:
        """The share of a slice that one of its portions is."""
        return (1 - Fraction(self.lost)) / self.across

    @property
    def is_counted(self) -> bool:
        return self.least > 0 or self.most is not None


@dataclass(frozen=True)
class Task:
    """Lengths in mm: `step` of the grid, `kerf` lost at every cut, `near` and `far` faces."""

    weight: Weight
    profile: Profile
    products: tuple[Slice, ...]
    step: Decimal = Decimal(1)
    kerf: Decimal = ZERO
    near: Decimal = ZERO
    far: Decimal = ZERO
    zones: tuple[Zone, ...] = ()
    rest: UnitPrice | None = None
    bone_cuts: tuple[Decimal, ...] | None = None
    """Where cuts may fall, one fewer than there are bones; None anywhere."""
    least_gap: Decimal = ZERO
    """A gap is at least so long: no hand cuts a sliver. The document's has no such limit."""

    def __post_init__(self) -> None:
        if self.step <= 0:
            raise BadValue("step", f"{self.step}", "more than 0 is right")
        if self.last > MOST_PLACES:
            wrong = f"{self.last} places on a grid of {self.step} mm"
            raise BadValue("step", wrong, f"at most {MOST_PLACES} are right; a wider step")
        if self.kerf % self.step:
            raise BadValue("kerf", f"{self.kerf} mm", f"a multiple of {self.step} mm is right")
        if not self.products:
            raise BadValue("products", "none", "at least one is right")

    @property
    def places(self) -> int:
        """How many places of the grid lie in the piece, its two ends among them."""
        whole, rest = divmod(self.profile.length, self.step)
        return int(whole) + (2 if rest else 1)

    @property
    def last(self) -> int:
        """The number of the far end's place."""
        return self.places - 1

    def at(self, place: int) -> Decimal:
        """Where a place lies, in mm: multiples of the step, and the end of the piece."""
        return self.profile.length if place >= self.last else place * self.step

    @property
    def per_volume(self) -> Fraction:
        """Weight, in the piece's unit, of one unit of the profile's volume."""
        return Fraction(self.weight.value) / self.profile.whole

    def price_in_unit(self, price: UnitPrice | None) -> Fraction:
        """Money for one of the piece's unit of weight, exactly; 0 without a price."""
        if price is None:
            return Fraction(0)
        grams = Fraction(self.weight.unit.grams) / Fraction(price.per.grams)
        return Fraction(price.amount) * grams

    def value_of(self, one: Slice) -> tuple[Fraction, Fraction]:
        """What a slice brings: money for one unit of its weight, and money whatever it weighs."""
        rest, lost = self.price_in_unit(self.rest), Fraction(one.lost)
        if one.each is not None:
            return rest * lost, Fraction(one.each) * one.across
        return self.price_in_unit(one.price) * (1 - lost) + rest * lost, Fraction(0)

    def brings(self, one: Slice, weight: Fraction, *, is_right: bool) -> Fraction:
        """What a slice of this weight sells for, within its limits or outside them."""
        slope, fixed = self.value_of(one)
        if is_right:
            return weight * slope + fixed
        return weight * self.outside_of(one)

    def outside_of(self, one: Slice) -> Fraction:
        """Money for one unit of weight of a slice outside its limits."""
        rest, lost = self.price_in_unit(self.rest), Fraction(one.lost)
        if one.outside is None:
            return rest
        return self.price_in_unit(one.outside) * (1 - lost) + rest * lost

    def in_unit(self, weight: Weight) -> Fraction:
        """A weight in the piece's unit, exactly."""
        return Fraction(weight.value) * Fraction(weight.unit.grams) / Fraction(self.unit.grams)

    @property
    def unit(self) -> Unit:
        return self.weight.unit


def turned(task: Task) -> Task:
    """The same piece begun at its other end."""
    length = task.profile.length

    def other(at: Decimal | None) -> Decimal | None:
        return None if at is None else max(length - at, ZERO)

    cuts = task.bone_cuts
    return replace(
        task,
        profile=reversed_profile(task.profile),
        near=task.far,
        far=task.near,
        zones=tuple(
            replace(zone, start=length - zone.end, end=length - zone.start) for zone in task.zones
        ),
        products=tuple(
            replace(one, start=other(one.end), end=other(one.start)) for one in task.products
        ),
        bone_cuts=None if cuts is None else tuple(length - cut - task.kerf for cut in cuts[::-1]),
    )


@dataclass(frozen=True, slots=True)
class Part:
    """A slice, or a gap without a product; from and to are numbers of places."""

    start: int
    end: int
    product: int | None
    weight: Fraction
    value: Fraction


@dataclass(frozen=True)
class PlainRule:
    """Equal thicknesses over the whole length: halves, quarters, then threes or fours."""

    count: int
    out_of_limits: int
    money: Fraction
    slices: tuple[tuple[Fraction, bool], ...] = ()
    """The weight of each, and whether it keeps the limits."""


@dataclass(frozen=True)
class Layout:
    """A row of parts from end to end. Weights in the piece's unit."""

    task: Task
    parts: tuple[Part, ...]
    plain: PlainRule | None = field(default=None)

    @property
    def marks(self) -> tuple[int, ...]:
        """Places where the knife goes."""
        return tuple(part.end for part in self.parts[:-1])

    @property
    def slices(self) -> tuple[Part, ...]:
        return tuple(part for part in self.parts if part.product is not None)

    @property
    def counts(self) -> tuple[int, ...]:
        """How many of each product, in their order."""
        found = [0] * len(self.task.products)
        for part in self.parts:
            if part.product is not None:
                found[part.product] += 1
        return tuple(found)

    @property
    def portions(self) -> dict[str, int]:
        """How many of each name, in the order of the products."""
        found = {one.name: 0 for one in self.task.products}
        for one, many in zip(self.task.products, self.counts, strict=True):
            found[one.name] += many * one.across
        return found

    @property
    def money(self) -> Fraction:
        return sum((part.value for part in self.parts), Fraction(0))

    @property
    def rest_weight(self) -> Fraction:
        """Faces, ends and gaps."""
        gaps = (part.weight for part in self.parts if part.product is None)
        return sum(gaps, Fraction(0))

    @property
    def kerf_weight(self) -> Fraction:
        """What became dust, and what was notched out."""
        taken = sum((part.weight for part in self.parts), Fraction(0))
        return Fraction(self.task.weight.value) - taken

    @property
    def give_away(self) -> Fraction:
        """Over the aim of what is sold for a price each."""
        found = Fraction(0)
        for part in self.slices:
            product = self.task.products[part.product or 0]
            if product.each is not None and product.aim is not None:
                over = part.weight * product.kept - self.task.in_unit(product.aim)
                found += max(over, Fraction(0)) * product.across
        return found
