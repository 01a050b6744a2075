"""What is asked of a layout, and the task of the core it makes."""

from dataclasses import dataclass
from decimal import Decimal

from cutting.layout.profile import MM, Profile
from cutting.layout.task import Slice, Task, Zone
from cutting.quantities import Unit, UnitPrice, Weight
from rooms.layout.rules.shapes import Shape, length_of
from rooms.shop.rules.current import house

AIMS = [("money", "the most money"), ("weight", "equal weight"), ("thickness", "equal thickness")]
STEP = {True: Decimal(1), False: MM["in"] / 32}
"""The grid: 1 mm, or 1/32 in."""

LEAST_GAP = MM["in"] / 8
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
    near: Decimal = Decimal(0)
    far: Decimal = Decimal(0)
    kerf: Decimal = Decimal(0)
    aim: str = "money"
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
        like = shape.usual(self.weight, length)
        if self.width is None and self.height is None:
            return like
        widest = max(one.width or 0 for one in like.stations)
        highest = max(one.height or 0 for one in like.stations)
        return shape.profile(length, self.width or Decimal(widest), self.height or Decimal(highest))

    def task(self, shape: Shape, usual: Weight | None, products: tuple[Slice, ...]) -> Task:
        """Raises BadValue for what cannot be."""
        step = STEP[is_metric()]
        profile = self.profile(shape, usual)

        def on_grid(mm: Decimal) -> Decimal:
            return (mm / step).to_integral_value() * step

        cuts = None
        if shape.bones is not None and any(one.bones for one in products):
            part = profile.length / shape.bones
            cuts = tuple(on_grid(part * i) for i in range(1, shape.bones))
        return Task(
            self.weight,
            profile,
            products,
            step=step,
            kerf=on_grid(self.kerf),
            near=self.near,
            far=self.far,
            bone_cuts=cuts,
            least_gap=LEAST_GAP,
            zones=self.zones,
            rest=UnitPrice(self.rest, house().unit) if self.rest else None,
        )
