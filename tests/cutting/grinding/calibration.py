"""Shops that never were: their trim, their tester, an eye; what is told of the fat of a batch, and what it is."""

from dataclasses import dataclass
from decimal import Decimal

import numpy as np

from cutting.grinding.blend import Blend, batch_figures
from cutting.grinding.judging import (
    BIAS_BEFORE,
    USUAL_SPREAD,
    Compared,
    How,
    Lean,
    bias_of,
    corrected,
    usual_of,
)
from tests.cutting.grinding.test_blend import batch, tub

D = Decimal
TAKE = {0: D(4), 1: D(5), 2: D(3)}
POUNDS = np.array([4.0, 5.0, 3.0])
LIMIT = 0.16
CLASSES = 10
TESTER = 0.008


@dataclass
class Class:
    """Batches with a stated chance between two tenths."""

    many: int = 0
    over: int = 0
    told: float = 0.0

    def row(self, number):
        """One line of the table in docs/grinder.md."""
        if not self.many:
            return f"| {number * 10} to {number * 10 + 10} % | 0 | | |"
        told, was = 100 * self.told / self.many, 100 * self.over / self.many
        return (
            f"| {number * 10} to {number * 10 + 10} % | {self.many} | {told:.1f} % | {was:.1f} % |"
        )


def _d(value):
    return D(f"{float(value):.6f}")


def calibration(how, *, shops, batches, learned, seed=7):
    """So many shops with so many batches each, of three tubs. `learned`: the shop knows what is usual
    and its eye only by thirty tested tubs and twelve tested batches; else both are given."""
    rng = np.random.default_rng(seed)
    classes = [Class() for _ in range(CLASSES)]
    for _ in range(shops):
        mean, varied = rng.normal(0.84, 0.01), 0.05
        bias = float(BIAS_BEFORE) * rng.normal() if how is How.EYE else 0.0
        spread = float(USUAL_SPREAD[how])
        usual, eye = Lean(_d(mean), _d(varied)), None
        if learned:
            known = np.clip(rng.normal(mean, varied, 30) + rng.normal(0, 0.012, 30), 0, 1)
            usual = usual_of([Lean(_d(one), D("0.012")) for one in known])
            eye = bias_of(
                [
                    Compared(_d(bias + rng.normal(0, spread) + rng.normal(0, TESTER)), _d(spread))
                    for _ in range(12)
                ]
            )
        else:
            eye = bias_of([Compared(_d(bias), D("0.00001"))])
        for _ in range(batches):
            truth = rng.normal(mean, varied, 3)
            judged = np.clip(truth + bias + rng.normal(0, spread, 3), 0, 1)
            leans = [corrected(_d(one), how, eye, usual) for one in judged]
            tubs = tuple(
                tub(f"t{i}", "20", f"{lean.share}", lean_sd=lean.spread)
                for i, lean in enumerate(leans)
            )
            blend = Blend(tubs, (batch(limit=_d(LIMIT), chance=D("0.05")),))
            told = float(batch_figures(blend, blend.batches[0], TAKE).chance_over)
            own = classes[min(int(told * CLASSES), CLASSES - 1)]
            own.many += 1
            own.told += told
            own.over += int((POUNDS * (1 - truth)).sum() / POUNDS.sum() > LIMIT)
    return classes
