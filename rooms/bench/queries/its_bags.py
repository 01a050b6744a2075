"""The bags that a test was opened from: of which of them a part or a piece is."""

from collections.abc import Sequence
from uuid import UUID

from rooms.bench.models import CuttingTest, TestBag
from rooms.common.errors import BadInput, Refused
from rooms.cooler.models import Bag


class WhichBag(BadInput):
    """The test was opened from bags of several lots. `bags`: their ids with what they are called."""

    def __init__(self, bags: Sequence[Bag]) -> None:
        lots = " or ".join(dict.fromkeys(bag.lot or "no lot" for bag in bags))
        super().__init__(
            f"Bag: the part is of one lot, {lots}; choose the bag that it was cut from."
        )
        self.bags = choices_of(bags)


def choices_of(bags: Sequence[Bag]) -> list[tuple[str, str]]:
    """Return the bags as something is chosen of: their ids with what they are called."""
    return [(str(bag.pk), f"{bag.lot or 'no lot'}, {bag.weight}") for bag in bags]


def bags_of(test: CuttingTest) -> list[Bag]:
    """Return the bags it was opened from, in their order: one query."""
    rows = TestBag.objects.filter(test=test).select_related("bag__piece").order_by("id")
    return [row.bag for row in rows]


def bag_of(test: CuttingTest, bag_id: UUID | None) -> Bag:
    """Return the bag that a part or a piece is of: its lot and its end go with it."""
    bags = bags_of(test)
    if not bags:
        raise Refused("This test was not opened from a bag of the cooler: receive it there.")
    if bag_id is not None:
        found = next((bag for bag in bags if bag.pk == bag_id), None)
        if found is None:
            raise WhichBag(bags)
        return found
    if len({bag.lot_key for bag in bags}) > 1:
        raise WhichBag(bags)
    return bags[-1]
