"""The layout against HiGHS, as a flow through the places of the grid. Reference: scipy.optimize.milp."""

from decimal import Decimal

import numpy as np
import pytest
from scipy import optimize, sparse

from cutting.layout.solver import Grid, lay_out
from cutting.layout.task import NO_CUT, NO_PRODUCT, Zone
from cutting.quantities import UnitPrice
from tests.cutting.layout.test_solver import fits, grade, ribeye, weight_of

D = Decimal


def best_by_highs(task):
    """The most money of any flow from the near to the far end; two nodes a place, the second one
    behind a gap, so that no two gaps follow each other."""
    grid, last, kerf = Grid(task), task.last, int(task.kerf / task.step)
    arcs, values, owner = [], [], []
    for start in range(last):
        for end in range(start + 1, last + 1):
            if end < last and not grid.may_mark[end]:
                continue
            to = last if end == last else end + kerf
            for number, one in enumerate(task.products):
                if fits(task, number, start, end):
                    money = weight_of(task, start, end) * task.price_in_unit(one.price)
                    for node in (start, last + 1 + start):
                        arcs.append((node, to))
                        values.append(float(money))
                        owner.append(number)
            arcs.append((start, to if to == last else last + 1 + to))
            values.append(float(weight_of(task, start, end) * task.price_in_unit(task.rest)))
            owner.append(-1)
    nodes, many = 2 * last + 2, len(arcs)
    rows = [a for a, _ in arcs] + [b for _, b in arcs]
    flow = sparse.coo_matrix(
        ([1.0] * many + [-1.0] * many, (rows, [*range(many)] * 2)), (nodes, many)
    )
    asked = np.zeros(nodes)
    asked[0], asked[last] = 1, -1
    limits = [optimize.LinearConstraint(flow.tocsr(), asked, asked)]
    for number, one in enumerate(task.products):
        chosen = np.array([[float(who == number) for who in owner]])
        most = np.inf if one.most is None else one.most
        limits.append(optimize.LinearConstraint(chosen, one.least, most))
    found = optimize.milp(
        -np.array(values),
        constraints=limits,
        integrality=np.ones(many),
        bounds=optimize.Bounds(0, 1),
    )
    assert found.success
    return -found.fun


@pytest.mark.long
@pytest.mark.parametrize(
    ("more", "counts"),
    [
        ({}, {}),
        ({"kerf": D(5), "rest": UnitPrice.of("4.5", "lb")}, {"most": 3}),
        (
            {
                "near": D(10),
                "zones": (
                    Zone("tendon", D(120), D(160), NO_CUT),
                    Zone("wound", D(250), D(270), NO_PRODUCT),
                ),
            },
            {"least": 2, "most": 4},
        ),
    ],
)
def test_highs_finds_nothing_better(more, counts):
    products = (grade("steak", 20, 35, "12", **counts), grade("roast", 60, 100, "11"))
    task = ribeye(products=products, step=D(5), **more)
    assert float(lay_out(task).money) == pytest.approx(best_by_highs(task), rel=1e-7)
