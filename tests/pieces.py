"""Bags opened and weighed out by their plan, for tests of what was cut."""

import uuid
from dataclasses import replace

from rooms.bench.actions.open_test import Opening, start_test
from rooms.bench.actions.weighings import take_weight
from rooms.bench.queries.opening import of_bags
from rooms.bench.queries.rows import load
from tests.conftest import capture, finish


def opened_from(bags, plan):
    """An open test of these bags."""
    found = of_bags([str(bag.pk) for bag in bags])
    opening = Opening(
        uuid.uuid4(),
        plan,
        bags[0].weight if len(bags) == 1 else replace(bags[0].weight, value=found.weight),
        found.paid,
        freight=found.freight,
        discount=found.discount,
        lot=found.lot,
        packed_on=found.packed_on,
        aged_from=found.aged_from,
        bags=found.ids,
        young_reason="it is wanted today",
    )
    return load(start_test(opening, None).pk)


def weighed_out(rows):
    """Every pile at the share that its plan says, and the test finished."""
    for output in rows.outputs:
        if output.share:
            value = f"{(output.share * rows.test.weight_value):.2f}"
            rows = take_weight(rows.test.pk, capture(output, value, portions="1"), None)
    finish(rows.test.pk, str(rows.revision))
    return load(rows.test.pk)
