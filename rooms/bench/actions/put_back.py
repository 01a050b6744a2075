"""Part of what was opened goes back into the cooler, packed again, with a clock of its own."""

from uuid import UUID

from django.db import transaction
from django.utils import timezone

from cutting.quantities import Weight, round_half_up, working
from rooms.bench.actions.notes import add_note
from rooms.bench.actions.take_weight import must_be_open
from rooms.bench.models import CuttingTest, TestBag
from rooms.common.errors import BadInput, Refused
from rooms.cooler.actions.bags import Remainder, repack
from rooms.cooler.models import Bag


def put_back(test_id: UUID, key: UUID, weight: Weight, by_id: int | None) -> CuttingTest:
    """Take a weight off an open test and put it into the cooler at the same price.

    Its share of freight goes with it, so the test pays only for what it keeps. The same key
    twice changes nothing.
    """
    with transaction.atomic():
        test = CuttingTest.objects.select_related("piece").filter(pk=test_id).first()
        if test is None:
            raise BadInput("Test: there is no such test.")
        if Bag.objects.filter(pk=key).exists():
            return test
        must_be_open(test, "nothing was put back")
        bag = TestBag.objects.filter(test=test).select_related("bag").order_by("-id").first()
        if bag is None:
            raise Refused("This test was not opened from a bag of the cooler: receive it there.")
        value = weight.to(bag.bag.weight.unit)
        if not 0 < value < test.weight_value:
            raise BadInput(
                f"Weight: {weight.value} {weight.unit}; above 0 and less than"
                f" {test.weight_value} {test.weight_unit} is right."
            )
        with working():
            freight = round_half_up(test.freight * value / test.weight_value)
            discount = round_half_up(test.discount * value / test.weight_value)
            test.weight_value -= value
            test.freight -= freight
            test.discount -= discount
            if test.opened_value is not None:
                test.opened_value -= value
        if test.opened_value is not None and test.opened_value <= 0:
            raise BadInput(f"Weight: {weight.value}; less than what was on the own scale is right.")
        test.save(update_fields=["weight_value", "freight", "discount", "opened_value"])
        rest = Remainder(key, weight, timezone.localdate(), freight, discount)
        repack(bag.bag_id, rest, by_id)
        add_note(test, str(key), f"{weight.value} {weight.unit} packed again, put back.", by_id)
    return test
