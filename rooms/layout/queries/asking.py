"""What is asked of a layout, and the task of the core it makes."""

from dataclasses import dataclass, replace
from decimal import Decimal

from cutting.layout.aims import Aim
from cutting.layout.marks import FINEST
from cutting.layout.profile import MM, Profile
from cutting.layout.task import Slice, Task, Zone
from cutting.quantities import Unit, UnitPrice, Weight
from rooms.catalog.queries.shapes import Shape, length_of
from rooms.shop.queries.current import house

AIMS = [
    (Aim.MONEY.value, "the most money"),
    (Aim.GIVE_AWAY.value, "least give-away"),
    (Aim.WEIGHT.value, "equal weight"),
    (Aim.THICKNESS.value, "equal thickness"),
]
STEP = {True: Decimal(1), False: MM["in"] / 32}
"""The grid: 1 mm, or 1/32 in."""

LEAST_GAP = MM["in"] / 4
"""No hand cuts a thinner sliver. Common practice, no published source."""


def is_metric() -> bool:
    return house().unit is Unit.KG


def portion_unit() -> Unit:
    """What a portion is weighed in."""
    return Unit.G if is_metric() else Unit.OZ


@dataclass(frozen=True)
class Asked:
    """Of the piece: lengths in mm, None where nobody measured."""

    weight: Weight
    length: Decimal | None = None
    width: Decimal | None = None
    height: Decimal | None = None
    tail: Decimal | None = None
    """Its height at the far end."""
    bones: int | None = None
    """How many it has, where they were counted."""
    near: Decimal = Decimal(0)
    far: Decimal = Decimal(0)
    kerf: Decimal = Decimal(0)
    aim: Aim = Aim.MONEY
    rest: Decimal | None = None
    """What a unit of faces, ends and gaps is worth."""
    zones: tuple[Zone, ...] = ()

    @property
    def is_measured(self) -> bool:
        return None not in (self.length, self.width, self.height)

    def profile(self, shape: Shape, usual: Weight | None) -> Profile:
        """As measured, else as the typical shape says; on the grid, so that a tape can follow."""
        step = STEP[is_metric()]
        length = self.length or length_of(shape, self.weight, usual)
        length = max((length / step).to_integral_value(), Decimal(2)) * step
        found = shape.usual(self.weight, length)
        if self.width is not None or self.height is not None:
            widest = max(one.width or 0 for one in found.stations)
            highest = max(one.height or 0 for one in found.stations)
            width, height = self.width or Decimal(widest), self.height or Decimal(highest)
            found = shape.profile(length, width, height)
        if self.tail is None:
            return found
        *before, last = found.stations
        return Profile(found.section, (*before, replace(last, height=self.tail)))

    def bone_cuts(self, shape: Shape, length: Decimal) -> tuple[Decimal, ...] | None:
        """Where cuts may fall: between the bones, and anywhere behind them with a saw."""
        bones = self.bones or shape.bones
        if bones is None:
            return None
        step = STEP[is_metric()]
        cuts = [on_tape(one) for one in shape.bone_cuts(length, bones)]
        if shape.ribs < 1:
            last = on_tape(shape.ribs * length)
            cuts += [last + step * i for i in range(int((length - last) / step))]
        return tuple(cuts)

    def task(self, shape: Shape, profile: Profile, products: tuple[Slice, ...]) -> Task:
        """Raises BadValue for what cannot be."""
        is_between = any(one.bones for one in products)
        if is_between and shape.ribs < 1:
            last = on_tape(shape.ribs * profile.length)
            products = tuple(
                replace(one, end=min(one.end or last, last)) if one.bones else one
                for one in products
            )
        cuts = self.bone_cuts(shape, profile.length) if is_between else None
        return Task(
            self.weight,
            profile,
            products,
            step=STEP[is_metric()],
            kerf=on_grid(self.kerf),
            near=self.near,
            far=self.far,
            bone_cuts=cuts,
            least_gap=LEAST_GAP,
            zones=self.zones,
            rest=UnitPrice(self.rest, house().unit) if self.rest else None,
        )


def on_tape(mm: Decimal) -> Decimal:
    """The nearest line of a tape: where bones lie, and where a limit that was typed lies. On a finer
    grid a limit would round to one side of its bone, and the cut behind it never be found."""
    step = STEP[is_metric()] if is_metric() else MM["in"] / FINEST
    return (mm / step).to_integral_value() * step


def on_grid(mm: Decimal) -> Decimal:
    """The nearest place of the grid."""
    step = STEP[is_metric()]
    return (mm / step).to_integral_value() * step
