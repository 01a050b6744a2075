"""What a test will come to if the rest goes as usual."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from decimal import Decimal

from cutting.quantities import HUNDRED, ONE, ZERO, working
from cutting.sheet.cutting_test import CuttingTest, Figures, still_on_block


@dataclass(frozen=True, slots=True)
class Forecast:
    """Saleable share of the weight paid for, true cost, and margin percent of sales."""

    saleable: Decimal
    true_cost: Decimal | None
    gp_percent: Decimal | None


def forecast(test: CuttingTest, found: Figures, usual: Sequence[Decimal | None]) -> Forecast:
    """Spread what is still on the block over the outputs that have not reached their usual share.

    `usual`: each output's usual share of the weight paid for, in the order of the outputs,
    None where nothing is known. What is left after every usual share is met stays unaccounted.
    A price that is missing on an output with weight leaves the margin None.
    """
    with working():
        rest = max(still_on_block(test, found), ZERO)
        missing = [
            ZERO if share is None else max(share * found.paid - line.weight, ZERO)
            for share, line in zip(usual, found.outputs, strict=True)
        ]
        wanted = sum(missing, ZERO)
        part = min(ONE, rest / wanted) if wanted > 0 else ZERO
        saleable = retail = ZERO
        priced = True
        for output, line, more in zip(test.outputs, found.outputs, missing, strict=True):
            weight = line.weight + more * part
            if output.goes_to_case and weight > 0:
                saleable += weight
                if output.retail is None:
                    priced = False
                else:
                    retail += output.retail.to(found.unit) * weight
        return Forecast(
            saleable / found.paid,
            found.cost / saleable if saleable > 0 else None,
            (retail - found.cost) / retail * HUNDRED if priced and retail > 0 else None,
        )
