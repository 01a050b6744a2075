"""Part of what was opened goes back into the cooler, packed again, with a clock of its own."""

from uuid import UUID

from django.utils import timezone

from cutting.cooler.receiving import part_of
from cutting.quantities import Unit, Weight, storable, working
from cutting.sheet.cutting_test import still_on_block
from rooms.bench.actions.lay import lay_again
from rooms.bench.actions.notes import add_note
from rooms.bench.models import CuttingTest
from rooms.bench.queries.its_bags import bag_of
from rooms.bench.queries.rows import load_known, must_be_open, must_load
from rooms.common.db.writing import Sent, kept_by, write
from rooms.common.errors import BadInput
from rooms.cooler.actions.parts import Remainder, repack
from rooms.cooler.models import Bag


def put_back(
    test_id: UUID, key: UUID, weight: Weight, by_id: int | None, bag_id: UUID | None = None
) -> CuttingTest:
    """Take a weight off an open test and put it into the cooler at the same price.

    Its share of freight goes with it, so the test pays only for what it keeps. No more goes back
    than still lies on the block. `bag_id`: of which of its bags; WhichBag where their lots differ and none is
    said. The same key twice changes nothing.
    """
    values = {"test": test_id, "weight": weight} | ({"bag": bag_id} if bag_id else {})
    sent = Sent(key, "put back", f"{weight} back", values)
    with write(key=sent, recorded=kept_by(Bag, key, by="pk")) as door:
        rows = must_load(test_id)
        test = rows.test
        if door.first is not None:
            return test
        must_be_open(test, "nothing was put back")
        bag = bag_of(test, bag_id)
        own = storable(weight, Unit(test.weight_unit))
        value = own.value
        left = still_on_block(rows.weighed)
        if not (0 < value <= left and value < test.weight_value):
            raise BadInput(
                f"Weight: {weight}; above 0 and at most the"
                f" {max(left, 0):.2f} {test.weight_unit} still on the block is right"
                f"{'' if left < test.weight_value else ', and not all of it'}."
            )
        with working():
            freight = part_of(test.freight, value, test.weight_value)
            discount = part_of(test.discount, value, test.weight_value)
            test.weight_value -= value
            test.freight -= freight
            test.discount -= discount
            if test.opened_value is not None:
                test.opened_value -= storable(weight, Unit(test.opened_unit)).value
        test.save(update_fields=["weight_value", "freight", "discount", "opened_value"])
        rest = Remainder(key, own, timezone.localdate(), freight, discount)
        repack(bag.pk, rest, by_id)
        add_note(test, str(key), f"{weight} packed again, put back.", by_id)
    lay_again(load_known(test_id))
    return test
