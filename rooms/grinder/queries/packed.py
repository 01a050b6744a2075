"""What of a batch is packed, and what is left to pack."""

from collections.abc import Iterable
from decimal import Decimal

from cutting.quantities import ZERO, working
from rooms.grinder.models import Batch, Packed


def packed_weight(batch: Batch, rows: Iterable[Packed] | None = None) -> Decimal:
    """Trays that were not taken back, in the batch's unit: one query, none where its `rows` are loaded
    with what was taken back."""
    own = batch.packed.select_related("taken_back") if rows is None else rows
    with working():
        return sum((one.weight for one in own if not hasattr(one, "taken_back")), ZERO)


def stated_fat(batch: Batch) -> Decimal:
    """Return the fat that its label tells, as a share: as stated, else by the tubs it was made of."""
    return Decimal(batch.stated if batch.stated is not None else batch.fat)


def left_to_pack(batch: Batch, rows: Iterable[Packed] | None = None) -> Decimal:
    """Of what came out, in the batch's unit; nothing while it is ground."""
    if batch.got is None:
        return ZERO
    with working():
        return Decimal(batch.got - packed_weight(batch, rows))
